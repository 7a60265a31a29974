// A dyno pull: speed, torque, power and whatever else was logged, as columns; and the standard correction of
// its weather (physics.md 9).
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos {

enum class PullChannel : std::size_t {
    Speed,
    Torque,
    Power,
    Manifold,
    Inlet,
    Lambda,
    FuelPressure,
    Blower,
    Throttle,
    Spark,
    Knock,
    Oil,
    Air,
    Barometer,
    Vapour,
    Misfire,
    Limiter,
    Count
};
inline constexpr std::size_t kPullChannels = static_cast<std::size_t>(PullChannel::Count);

struct PullChannelInfo {
    std::string_view key;          ///< in findings and links
    std::string_view column;       ///< in pull files, unit in the name
    std::string_view label;        ///< on screen
    std::string_view unit;         ///< of the column
    double to_si = 1, zero_si = 0; ///< value_SI = value * to_si + zero_si; speeds stay in rev/min
    int decimals = 1;
    double least = -1e12, most = 1e12; ///< what can be at all, SI: wide, for telling nonsense from readings
    std::string_view help{};
};
/// Its column, unit and words.
const PullChannelInfo& info(PullChannel channel);
/// By its key, "manifold", or its column, "map_kPa"; empty where neither is one.
std::optional<PullChannel> find_pull_channel(std::string_view key_or_column);

/// One pull. Columns are empty or all as long as Speed; a value that was not read is NaN. SI: N m, W, Pa, K,
/// rad, shares of 1; speeds in rev/min.
struct Pull {
    std::string name;
    bool corrected = false;               ///< as recorded: the dyno had corrected it already
    std::vector<std::string> cannot_be{}; ///< readings that complete() took as lost, in words
    std::array<std::vector<double>, kPullChannels> columns;

    std::vector<double>& operator[](PullChannel c) { return columns[static_cast<std::size_t>(c)]; }
    const std::vector<double>& operator[](PullChannel c) const {
        return columns[static_cast<std::size_t>(c)];
    }
    bool has(PullChannel c) const { return !(*this)[c].empty(); }
    std::size_t size() const { return (*this)[PullChannel::Speed].size(); }
};

/// Fills torque from power or power from torque, P = M 2 pi n / 60, where one is missing, and takes out
/// columns in which nothing was read. A reading that cannot be (outside of its channel's range, or a speed,
/// torque or power that stands alone far off both its neighbours) counts as lost and is named in `cannot_be`.
/// Throws InputError without speed, without both, with columns of unequal length, or where the two are over
/// 15 % from that law, as one of their units is wrong then.
void complete(Pull& pull);

/// The pulls that one recording holds: the speed falls back by over a third of its range between them, or
/// climbs back where the engine worked while its speed fell; such runs come out rising. Pieces of under 5
/// readings or a tenth of the range are no pull.
std::vector<Pull> split_pulls(const Pull& as_recorded);

/// Weather of a correction, and the factor it makes.
struct Correction {
    double dry_Pa = 0, air_K = 0; ///< barometer less vapour; intake air
    bool vapour_known = false;
    double factor = 1;
    std::string caution; ///< where the standard does not hold; "" else
};
/// [J], spark ignition, full load, naturally aspirated: 1.18 (99 kPa / dry) sqrt(T / 25 degrees C) - 0.18,
/// temperatures absolute; it holds from 0.93 to 1.07. Medians of the logged air and barometer; without vapour
/// the air counts as dry. Empty where one of them was not logged, or the pull is corrected as recorded.
std::optional<Correction> j1349(const Pull& pull);
/// The factor alone. `dry_Pa`, `air_K` above 0.
double j1349_factor(double dry_Pa, double air_K);
/// Torque and power times the factor; `corrected` is set.
Pull corrected(Pull pull, const Correction& correction);

} // namespace bathmos
