#include "core/dyno/pull.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kZeroCelsius_K = 273.15;
constexpr double kRadPerSecond = kPi / 30; // of one rev/min
constexpr double kStandardAir_K = kZeroCelsius_K + 25, kStandardDry_Pa = 99e3;
constexpr double kAgree = 0.15; // power against torque times speed; a wrong unit makes a third

const std::array<PullChannelInfo, kPullChannels> kChannelInfo = {{
    {"speed", "rpm", "Speed", "rev/min", 1, 0, 0, 0, 40e3, "Of the crank."},
    {"torque", "torque_Nm", "Torque", "N m", 1, 0, 1, -2e3, 20e3, "At the crank."},
    {"power", "power_kW", "Power", "kW", 1e3, 0, 1, -1e6, 5e6, "At the crank."},
    {"manifold", "map_kPa", "Manifold pressure", "kPa", 1e3, 0, 1, -1e5, 2e6,
     "Absolute, after throttle and blower."},
    {"inlet", "inlet_kPa", "Inlet pressure", "kPa", 1e3, 0, 1, -1e5, 2e6,
     "Absolute, after the filter, before throttle or blower."},
    {"lambda", "lambda_1", "Lambda", "", 1, 0, 3, 0.2, 30, "Of the exhaust; 1 is neither rich nor lean."},
    {"fuel", "fuel_kPa", "Fuel pressure", "kPa", 1e3, 0, 0, -1e5, 1e8, "At the rail, gauge."},
    {"blower", "blower_rpm", "Blower speed", "rev/min", 1, 0, 0, 0, 500e3, "Of the blower's shaft."},
    {"throttle", "throttle_pct", "Throttle", "%", 0.01, 0, 0, -0.1, 1.5, "Opening."},
    {"spark", "spark_deg", "Spark advance", "°", kPi / 180, 0, 1, -2, 2, "Crank degrees before dead centre."},
    {"knock", "knock_deg", "Knock retard", "°", kPi / 180, 0, 1, -1, 2,
     "Taken off the advance by the control."},
    {"oil", "oil_kPa", "Oil pressure", "kPa", 1e3, 0, 0, -1e5, 5e6, "Main gallery, gauge."},
    {"air", "air_C", "Air temperature", "°C", 1, kZeroCelsius_K, 1, 200, 600,
     "Of the air that the engine takes in."},
    {"barometer", "baro_kPa", "Barometer", "kPa", 1e3, 0, 2, 40e3, 120e3, "In the cell, absolute."},
    {"vapour", "vapour_kPa", "Vapour pressure", "kPa", 1e3, 0, 2, 0, 40e3, "Of the water in the air."},
    {"misfire", "misfire_pct", "Misfires", "%", 0.01, 0, 1, 0, 1.01,
     "Share of the firings, from crank speed or ions."},
    {"limiter", "limiter", "Limiter at work", "", 1, 0, 0, -1, 1e3, "1 while the control cuts, else 0."},
}};

std::vector<double> finite(const std::vector<double>& values) {
    std::vector<double> out;
    std::copy_if(values.begin(), values.end(), std::back_inserter(out),
                 [](double v) { return std::isfinite(v); });
    return out;
}

Pull piece_of(const Pull& whole, std::size_t first, std::size_t last) {
    Pull out;
    out.corrected = whole.corrected;
    out.cannot_be = whole.cannot_be;
    for (std::size_t c = 0; c < kPullChannels; ++c)
        if (!whole.columns[c].empty())
            out.columns[c].assign(whole.columns[c].begin() + static_cast<std::ptrdiff_t>(first),
                                  whole.columns[c].begin() + static_cast<std::ptrdiff_t>(last));
    return out;
}

// Power over torque times speed, where both were read.
void refuse_wrong_units(const Pull& pull) {
    const std::vector<double>&rpm = pull[PullChannel::Speed], &torque = pull[PullChannel::Torque],
          &power = pull[PullChannel::Power];
    std::vector<double> ratio;
    for (std::size_t i = 0; i < std::min(torque.size(), power.size()); ++i)
        if (const double r = power[i] / (torque[i] * rpm[i] * kRadPerSecond); std::isfinite(r) && r > 0)
            ratio.push_back(r);
    if (ratio.empty() || std::abs(median(ratio) - 1) < kAgree)
        return;
    throw InputError({"", "units", fmt::format("power is {:.2f} times torque times speed", median(ratio)),
                      "correct the unit of one of them, or leave one out"});
}

// Whether the engine worked while its speed fell rather than while it rose.
bool runs_downward(const std::vector<double>& rpm, const std::vector<double>& power) {
    double rising = 0, falling = 0, last = std::nan("");
    for (std::size_t i = 0; i < rpm.size(); ++i) {
        if (!std::isfinite(rpm[i]) || !std::isfinite(power[i]))
            continue;
        (rpm[i] < last ? falling : rising) += std::isfinite(last) ? std::max(0.0, power[i]) : 0.0;
        last = rpm[i];
    }
    return falling > rising;
}

// Names what was taken as lost, the first of each channel.
void take_as_lost(Pull& pull, std::size_t channel, std::size_t row, std::size_t& times) {
    const PullChannelInfo& about = kChannelInfo[channel];
    double& value = pull.columns[channel][row];
    if (++times == 1)
        pull.cannot_be.push_back(fmt::format("{} {:.4g} {} in row {}", about.label,
                                             (value - about.zero_si) / about.to_si, about.unit, row + 1));
    value = std::nan("");
}

// A reading far off both its neighbours, which agree: no engine does that from one row to the next. Torque
// may fall so (a limiter cuts), not rise.
bool stands_alone(const std::vector<double>& values, std::size_t i, PullChannel channel) {
    if (i == 0 || i + 1 >= values.size())
        return false;
    const double before = values[i - 1], here = values[i], after = values[i + 1];
    if (!std::isfinite(before) || !std::isfinite(after) || !(before > 0) ||
        std::abs(after / before - 1) > 0.15)
        return false;
    const double most = std::max(before, after), least = std::min(before, after);
    return here > 1.5 * most || (channel == PullChannel::Speed && here < least / 1.5);
}

void take_out_what_cannot_be(Pull& pull) {
    for (std::size_t c = 0; c < kPullChannels; ++c) {
        std::size_t times = 0;
        std::vector<double>& values = pull.columns[c];
        const auto channel = static_cast<PullChannel>(c);
        const bool smooth =
            channel == PullChannel::Speed || channel == PullChannel::Torque || channel == PullChannel::Power;
        const auto cannot_be = [&](double v) {
            return !std::isnan(v) && !(v >= kChannelInfo[c].least && v <= kChannelInfo[c].most);
        };
        const auto many = std::count_if(values.begin(), values.end(), cannot_be);
        if (smooth && 2 * static_cast<std::size_t>(many) > values.size())
            throw InputError(
                {"", std::string(kChannelInfo[c].column),
                 fmt::format("most rows hold what no engine has, such as {:.4g} {}",
                             *std::find_if(values.begin(), values.end(), cannot_be) / kChannelInfo[c].to_si,
                             kChannelInfo[c].unit),
                 "check its column and unit"});
        for (std::size_t i = 0; i < values.size(); ++i)
            if (cannot_be(values[i]))
                take_as_lost(pull, c, i, times);
        for (std::size_t i = 0; smooth && i < values.size(); ++i)
            if (stands_alone(values, i, channel))
                take_as_lost(pull, c, i, times);
        if (times > 1)
            pull.cannot_be.back() += fmt::format(", and {} more of this channel", times - 1);
    }
}

} // namespace

const PullChannelInfo& info(PullChannel channel) {
    return kChannelInfo[static_cast<std::size_t>(channel)];
}

std::optional<PullChannel> find_pull_channel(std::string_view key_or_column) {
    for (std::size_t i = 0; i < kPullChannels; ++i)
        if (kChannelInfo[i].key == key_or_column || kChannelInfo[i].column == key_or_column)
            return static_cast<PullChannel>(i);
    return std::nullopt;
}

void complete(Pull& pull) {
    if (!pull.has(PullChannel::Speed))
        throw InputError({"", "columns", "there is no speed", "choose the column of the crank's speed"});
    if (!pull.has(PullChannel::Torque) && !pull.has(PullChannel::Power))
        throw InputError(
            {"", "columns", "there is neither torque nor power", "choose the column of one of them"});
    for (std::size_t c = 0; c < kPullChannels; ++c)
        if (!pull.columns[c].empty() && pull.columns[c].size() != pull.size())
            throw InputError({"", std::string(kChannelInfo[c].column), "is not as long as the speed",
                              "give every column a value or an empty field in each row"});
    take_out_what_cannot_be(pull);
    for (auto& column : pull.columns)
        if (finite(column).empty())
            column.clear();
    if (!pull.has(PullChannel::Speed) || (!pull.has(PullChannel::Torque) && !pull.has(PullChannel::Power)))
        throw InputError(
            {"", "readings", "no row has a speed with torque or power", "choose the columns that hold them"});
    refuse_wrong_units(pull);
    const std::vector<double>& rpm = pull[PullChannel::Speed];
    std::vector<double>&torque = pull[PullChannel::Torque], &power = pull[PullChannel::Power];
    torque.resize(rpm.size(), std::nan(""));
    power.resize(rpm.size(), std::nan(""));
    for (std::size_t i = 0; i < rpm.size(); ++i) {
        const double rad_s = rpm[i] * kRadPerSecond;
        if (!std::isfinite(torque[i]) && rad_s > 0)
            torque[i] = power[i] / rad_s;
        else if (!std::isfinite(power[i]))
            power[i] = torque[i] * rad_s;
    }
}

std::vector<Pull> split_pulls(const Pull& as_recorded) {
    Pull recording = as_recorded;
    const bool backward = runs_downward(recording[PullChannel::Speed], recording[PullChannel::Power]);
    if (backward)
        for (auto& column : recording.columns)
            std::reverse(column.begin(), column.end());
    const std::vector<double>& rpm = recording[PullChannel::Speed];
    const std::vector<double> there = finite(rpm);
    if (there.empty())
        return {};
    const auto [low, high] = std::minmax_element(there.begin(), there.end());
    const double range = *high - *low;
    std::vector<std::size_t> starts = {0};
    double top = -1e300;
    std::size_t bottom_at = 0, top_at = 0;
    double bottom = 1e300;
    bool falling = false; // the speed has fallen back; a new pull begins at its lowest
    for (std::size_t i = 0; i < rpm.size(); ++i) {
        if (!std::isfinite(rpm[i]))
            continue;
        if (!falling && rpm[i] >= top) {
            top = rpm[i];
            top_at = i;
        }
        if (!falling && rpm[i] < top - range / 3 && top > *low + range / 3) {
            falling = true;
            bottom = rpm[i];
            bottom_at = i;
        } else if (falling && rpm[i] < bottom) {
            bottom = rpm[i];
            bottom_at = i;
        } else if (falling && rpm[i] > bottom + range / 3) {
            starts.push_back(top_at + 1);
            starts.push_back(bottom_at);
            falling = false;
            top = rpm[i];
            top_at = i;
        }
    }
    starts.push_back(rpm.size());
    std::vector<Pull> out;
    for (std::size_t s = 0; s + 1 < starts.size(); ++s) {
        Pull piece = piece_of(recording, starts[s], starts[s + 1]);
        const std::vector<double> speeds = finite(piece[PullChannel::Speed]);
        if (speeds.size() < 5)
            continue;
        const auto [a, b] = std::minmax_element(speeds.begin(), speeds.end());
        if (*b - *a < 0.1 * range || (starts.size() > 2 && speeds.back() < speeds.front() - range / 3))
            continue;
        out.push_back(std::move(piece));
    }
    if (backward)
        std::reverse(out.begin(), out.end());
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i].name = out.size() == 1 ? recording.name : fmt::format("{} pull {}", recording.name, i + 1);
    return out;
}

double j1349_factor(double dry_Pa, double air_K) {
    return 1.18 * (kStandardDry_Pa / dry_Pa) * std::sqrt(air_K / kStandardAir_K) - 0.18;
}

std::optional<Correction> j1349(const Pull& pull) {
    const std::vector<double> air = finite(pull[PullChannel::Air]);
    const std::vector<double> barometer = finite(pull[PullChannel::Barometer]);
    const std::vector<double> vapour = finite(pull[PullChannel::Vapour]);
    if (air.empty() || barometer.empty() || pull.corrected)
        return std::nullopt;
    Correction out;
    out.vapour_known = !vapour.empty();
    out.dry_Pa = median(barometer) - (out.vapour_known ? median(vapour) : 0.0);
    out.air_K = median(air);
    if (!(out.dry_Pa > 0 && out.air_K > 0))
        return std::nullopt;
    out.factor = j1349_factor(out.dry_Pa, out.air_K);
    if (out.factor < 0.93 || out.factor > 1.07)
        out.caution =
            fmt::format("factor {:.3f} is outside 0.93 to 1.07, where the standard holds", out.factor);
    else if (const auto manifold = finite(pull[PullChannel::Manifold]);
             !manifold.empty() &&
             *std::max_element(manifold.begin(), manifold.end()) > 1.1 * median(barometer))
        out.caution = "the engine is charged: the factor is made for one that draws its own air";
    return out;
}

Pull corrected(Pull pull, const Correction& correction) {
    for (PullChannel c : {PullChannel::Torque, PullChannel::Power})
        for (double& value : pull[c])
            value *= correction.factor;
    pull.corrected = true;
    return pull;
}

} // namespace bathmos
