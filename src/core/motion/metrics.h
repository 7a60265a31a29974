// What is read off a valve motion, model or rig alike (physics.md 7). One table names every metric, its unit,
// its column and its usual limit; files, plots and limits all use it.
#pragma once

#include "core/units/units.h"

#include <array>
#include <cstddef>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

namespace bathmos {

enum class Metric : std::size_t {
    Loft,
    LoftAngle,
    LiftLoss,
    ContactLoss,
    TipContactLoss,
    LinkContactLoss,
    OpeningShift,
    ClosingShift,
    DurationChange,
    Seating,
    FirstTouch,
    Bounce,
    BounceCount,
    HeldOpen,
    SeatRipple,
    Surge,
    CycleVariation,
    Count
};
inline constexpr std::size_t kMetrics = static_cast<std::size_t>(Metric::Count);

struct MetricInfo {
    std::string_view column; ///< in files, unit in the name
    std::string_view label;  ///< on screen
    std::string_view unit;   ///< in files and on metric screens
    double to_unit;          ///< SI (m, m/s, N) or crank degrees to the unit
    int decimals;
};
/// Its column, words and unit.
const MetricInfo& info(Metric metric);
/// Quantity of a metric's value; Count for degrees and counts.
Quantity quantity_of(Metric metric);

/// Values in SI; angles in crank degrees. Empty where a value does not exist (a valve that never seats has no
/// touch).
class Metrics {
  public:
    std::optional<double>& operator[](Metric m) { return values_[static_cast<std::size_t>(m)]; }
    const std::optional<double>& operator[](Metric m) const { return values_[static_cast<std::size_t>(m)]; }
    /// In the unit of info(m).
    std::optional<double> in_unit(Metric m) const;

  private:
    std::array<std::optional<double>, kMetrics> values_;
};

/// One cycle on an even grid from -360 to 360 crank degrees, both ends, 0 at the nose; all lists of equal
/// length.
struct CycleTrace {
    double speed_rpm = 0; ///< crank
    std::span<const double> lift_m;
    std::span<const double> rate_m_per_s;
    std::span<const double> rigid_m;
    /// Known to the model only; empty otherwise.
    std::span<const double> cam_penetration_m, link_penetration_m, tip_penetration_m, spring_N, surge_m;
};

struct MetricOptions {
    double check_lift_m = 1.27e-3; ///< for shifts and duration
    double touch_m = 0; ///< at or below this the valve counts as seated; above 0 for noisy traces only
    /// Seating velocity as the slope of a straight line through the last of the way to the seat, so many
    /// crank degrees: what noise leaves of it, and no part of the seat's own give. 0: at first touch itself.
    double approach_deg = 0;
};

/// Slope of the straight line through the last `options.approach_deg` (over 0) before the lift falls to
/// `options.touch_m` after the main event, m/s, downward; empty where it does not. `lift_m`, `rigid_m` as in
/// CycleTrace.
std::optional<double> approach_velocity(std::span<const double> lift_m, std::span<const double> rigid_m,
                                        double speed_rpm, const MetricOptions& options);

/// All metrics of one cycle but CycleVariation.
Metrics measure(const CycleTrace& cycle, const MetricOptions& options = {});

/// First and last index of the main event, where the rigid lift is at least a tenth of its maximum.
struct MainEvent {
    std::size_t first, last;
};
/// From one turn of kinematic lift, m, not empty; all of it where it never lifts.
MainEvent main_event(std::span<const double> rigid_m);

/// Mean over cycles of each metric; `deviation`, if given, receives the population standard deviations.
Metrics mean_of(std::span<const Metrics> cycles, Metrics* deviation = nullptr);

/// Largest over angle of the population standard deviation of lift over cycles, m.
double cycle_variation_m(std::span<const std::vector<double>> lifts);

} // namespace bathmos
