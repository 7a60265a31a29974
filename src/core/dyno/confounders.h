// What else could explain a loss of power, told from what was logged beside it (physics.md 9). Each has its
// own test; what was not logged is named as such, with the channel or the cheap trial that would settle it.
#pragma once

#include "core/dyno/pull_analysis.h"
#include "core/units/measured_text.h"

namespace bathmos {

enum class Confounder : std::size_t {
    BeltSlip,
    Mixture,
    SparkBreakUp,
    IntakeLoss,
    ThrottleClosing,
    KnockRetard,
    OilPressure,
    DriverLift,
    RevLimiter,
    Count
};
inline constexpr std::size_t kConfounders = static_cast<std::size_t>(Confounder::Count);

struct ConfounderInfo {
    std::string_view key, label;
    std::vector<PullChannel> channels; ///< any of them tells; the best first
    std::string_view settle;           ///< channel or cheap trial that would settle it
};
/// Its words and channels.
const ConfounderInfo& info(Confounder kind);

enum class TestStatus { Seen, Clear, NotLogged };

/// Where a drift begins, with its standard deviation.
struct Beginning {
    double speed_rpm = 0, sd_rpm = 0;
};

struct ConfounderTest {
    Confounder kind;
    TestStatus status = TestStatus::NotLogged;
    double seen = 0; ///< 0..1, how surely the sign is there; nothing is said where it was not logged
    std::optional<double> from_rpm{};     ///< where half of a move that matters is reached
    std::optional<PullChannel> channel{}; ///< that told
    MeasuredText text{};                  ///< with its numbers
    /// Share of the power that a drift of this size takes at the top, by rule of thumb (docs/verdict.md);
    /// empty where its size says nothing of power.
    std::optional<double> takes{};
    /// Where the channel leaves its level, at once or growing; empty where it was not seen.
    std::optional<Beginning> begins{};
};

/// All of them, in the order of Confounder.
std::vector<ConfounderTest> test_confounders(const Pull& pull, const PullAnalysis& analysis);

/// The same over several pulls of one state: the middle one of each that logged it.
std::vector<ConfounderTest> test_confounders(const std::vector<std::vector<ConfounderTest>>& pulls);

} // namespace bathmos
