// A cam lobe: what was measured or designed, and the smooth curve everything is computed from.
//
// Conventions (physics.md 1, 2): theta is the cam angle in rad, increasing with rotation, 0 at the nose; cam
// lift is the follower's travel off the base circle in m. Derivatives are per rad.
#pragma once

#include "core/math/periodic_band.h"
#include "core/math/periodic_spline.h"

#include <array>
#include <memory>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace bathmos {

enum class FollowerKind { Roller, Flat };
enum class AngleUnit { CamDegree, CrankDegree };
enum class LiftUnit { Millimetre, Inch };

/// Polynomial lobe with a constant-velocity ramp [Dudley 1948, Stoddart 1953; physics.md 2].
struct AnalyticLobe {
    double half_duration_rad = 0; ///< b: from the nose to the top of the ramp
    double lift_m = 0;
    std::array<double, 4> exponents{6, 10, 14, 18}; ///< p, q, r, t, beside the fixed 2
    double ramp_height_m = 0;
    double ramp_velocity_m_per_rad = 0;
    bool operator==(const AnalyticLobe&) const = default;
};

/// How the penalty is spread over the turn: following what each stretch of the lobe shows, or one weight for
/// all by the discrepancy principle.
enum class SmoothingRule { Local, Even };

inline constexpr double kLeastStrength = 1e-4, kMostStrength = 1e4;

/// How much a table is smoothed, and why somebody chose otherwise than usual.
struct LobeSmoothing {
    SmoothingRule rule = SmoothingRule::Local;
    double strength = 1; ///< times the penalty that the rule finds
    std::string reason;
    bool operator==(const LobeSmoothing&) const = default;
};

/// What is taken off all readings before smoothing: nothing, the base circle's height, or that and the one
/// wave a turn of a cam that was held out of true.
enum class BaseStep { AsGauged, Zeroed, RunoutOff };

/// Readings of a profile gauge, kept as they came, and the steps on top that can be seen and taken back. Any
/// angle origin; full turn or main event only.
struct LobeTable {
    AngleUnit angle_unit = AngleUnit::CamDegree;
    LiftUnit lift_unit = LiftUnit::Millimetre;
    std::vector<double> angle;
    std::vector<double> lift;
    std::optional<double>
        noise_m; ///< stated noise of a reading, one standard deviation; estimated when absent
    BaseStep base = BaseStep::AsGauged;
    std::vector<std::size_t> left_out; ///< readings that do not count, by place in the table
    LobeSmoothing smoothing;
    bool operator==(const LobeTable&) const = default;
};

struct Lobe {
    std::string name;
    double base_radius_m = 0;
    FollowerKind follower = FollowerKind::Roller;
    double follower_radius_m = 0;
    std::variant<AnalyticLobe, LobeTable> shape;
    bool operator==(const Lobe&) const = default;
};

/// Coefficients c2, cp, cq, cr, ct of the polynomial part, and the angles where the ramp changes.
class AnalyticCurve {
  public:
    AnalyticCurve() = default;
    /// Throws InputError when the ramp does not fit in half a turn.
    explicit AnalyticCurve(const AnalyticLobe& lobe);
    /// Cam lift in m (order 0), or its derivative (1..3) per rad^order, at theta in rad from the nose.
    double at(double theta_rad, int order) const;

  private:
    AnalyticLobe lobe_;
    std::array<double, 5> coefficient_{};
    std::array<double, 5> exponent_{};
    double ramp_end_rad_ = 0; ///< end of constant velocity
    double foot_rad_ = 0;     ///< where the cam lift reaches 0
};

/// How a table was smoothed: shown to the user, never hidden.
struct SmoothingReport {
    double noise_m = 0;    ///< one standard deviation, that the smoothing aimed at
    bool estimated = true; ///< noise came from the base circle, not from the table
    double residual_rms_m = 0;
    double parameters = 0; ///< numbers that the readings settle: the trace of the fit
    double nose_in_table_rad = 0;
    std::vector<double> angle_rad;  ///< of each reading, from the nose, -pi..pi
    std::vector<double> residual_m; ///< reading minus curve
};

/// The smooth curve of a lobe. Value type, cheap to copy.
class LobeCurve {
  public:
    LobeCurve() = default;

    /// Rise (order 0), or its derivative (1..3) per rad^order, at theta in rad; any turn.
    double at(double theta_rad, int order = 0) const;

    /// Standard deviation of at(theta, order): what reading noise and the smoothing leave open; 0 for a
    /// formula.
    double standard_deviation(double theta_rad, int order) const;

    /// Maximum cam lift, m.
    double lift_m() const { return at(0.0); }

    /// Present for a lobe from a table.
    const std::optional<SmoothingReport>& smoothing() const { return smoothing_; }

    /// The formula itself. Throws InputError when its ramp does not fit in half a turn.
    static LobeCurve of(const AnalyticLobe& lobe);
    /// The spline turned so that its maximum is at theta = 0.
    /// `covariance`: of the spline's coefficients, m2.
    static LobeCurve of(PeriodicSpline spline, double nose_rad, SmoothingReport report,
                        std::shared_ptr<const PeriodicBand> covariance);

  private:
    std::variant<AnalyticCurve, PeriodicSpline> curve_;
    double nose_rad_ = 0;
    std::optional<SmoothingReport> smoothing_;
    std::shared_ptr<const PeriodicBand> covariance_;
};

/// The curve of a lobe, from its formula or by smoothing its table.
/// Throws InputError with location "lobe. ..." for a table or formula that is no lobe.
LobeCurve curve_of(const Lobe& lobe);

} // namespace bathmos
