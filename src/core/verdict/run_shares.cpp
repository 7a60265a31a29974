#include "core/verdict/run_shares.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kLeastMissing = 0.03; // share of the limit that a departure must cost to count whole
constexpr double kReaches = 0.97, kReachWidth = 0.008; // where a limit near the wanted speed is enough
constexpr double kDampingGains = 0.04, kLobeGains = 0.015,
                 kStiffnessGains = 0.03; // for any train, whatever ails it
constexpr double kRoom_m = 1.5e-3, kNoRoom_m = 0.8e-3, kRoomWeight = 0.05;
constexpr double kAnySpringGains = 0.01;
constexpr double kWrong = 0.1;
constexpr double kTail =
    0.3; // weight of the 10 % and of the 90 % point of a normal distribution, by its mean square

double always_gained(Cause cause) {
    switch (cause) {
    case Cause::Surge:
        return kDampingGains;
    case Cause::HarshLobe:
        return kLobeGains;
    case Cause::TrainFlexible:
        return kStiffnessGains;
    default:
        return 0;
    }
}

bool one_of_two(const RunReading& reading, const RunDeparture& one) {
    return !reading.chosen_with.empty() && (one.cause == reading.chosen || one.cause == reading.chosen_with);
}

// How likely each departure is beside belief, which is given up for kLeastEvidence only. Two at once are one
// explanation, as likely as the surer of them, and so is each.
std::vector<double> departure_shares(const RunReading& reading) {
    double most = 0, two = 0;
    for (const RunDeparture& one : reading.departures) {
        most = std::max(most, one.log_evidence - kLeastEvidence);
        if (one_of_two(reading, one))
            two = std::max(two, one.log_evidence - kLeastEvidence);
    }
    double sum = std::exp(-most);
    if (!reading.chosen_with.empty())
        sum += std::exp(two - most);
    std::vector<double> out;
    for (const RunDeparture& one : reading.departures) {
        const bool of_two = one_of_two(reading, one);
        out.push_back(std::exp((of_two ? two : one.log_evidence - kLeastEvidence) - most));
        sum += of_two ? 0 : out.back();
    }
    for (double& share : out)
        share /= sum;
    return out;
}

// The part of what is missing that a departure's cost makes up; of two at once, not more than all together.
std::vector<double> parts_of_missing(const RunReading& reading, double missing) {
    std::vector<double> out;
    double of_two = 0;
    for (const RunDeparture& one : reading.departures) {
        const double costs =
            reading.limit_rpm ? std::max(0.0, one.gain_rpm.value_or(0) / *reading.limit_rpm) : 0;
        out.push_back(std::min(1.0, costs / missing));
        of_two += one_of_two(reading, one) ? out.back() : 0;
    }
    for (std::size_t i = 0; i < out.size(); ++i)
        if (one_of_two(reading, reading.departures[i]) && of_two > 1)
            out[i] /= of_two;
    return out;
}

} // namespace

std::optional<Cause> RunShares::first() const {
    const auto most = std::max_element(of.begin(), of.end());
    return *most > healthy ? std::optional(static_cast<Cause>(most - of.begin())) : std::nullopt;
}

RunShares run_shares(const RunReading& reading, double wanted_rpm, std::optional<double> seen_rpm) {
    RunShares out;
    const auto enough = [](double share) { return 1 / (1 + std::exp((kReaches - share) / kReachWidth)); };
    const double reach = reading.limit_rpm && wanted_rpm > 0 ? *reading.limit_rpm / wanted_rpm : 0;
    double healthy = !reading.limit_rpm ? 1 : 0;
    if (reading.limit_rpm && wanted_rpm > 0) // over the band of the limit, as far as there is one
        healthy = kTail * enough(reading.p10_rpm.value_or(*reading.limit_rpm) / wanted_rpm) +
                  (1 - 2 * kTail) * enough(reading.p50_rpm.value_or(*reading.limit_rpm) / wanted_rpm) +
                  kTail * enough(reading.p90_rpm.value_or(*reading.limit_rpm) / wanted_rpm);
    if (seen_rpm && wanted_rpm > 0)
        healthy *= enough(*seen_rpm / wanted_rpm);
    const double missing = std::max(kLeastMissing, wanted_rpm > 0 ? 1 - reach : 0);
    const std::vector<double> likely = departure_shares(reading), parts = parts_of_missing(reading, missing);
    double rest = 1;
    for (std::size_t i = 0; i < likely.size(); ++i) {
        const auto cause = find_cause(reading.departures[i].cause);
        if (!cause)
            continue;
        const double share = likely[i] * parts[i];
        out.of[static_cast<std::size_t>(*cause)] += share;
        rest -= share;
    }
    std::array<double, kCauses> gains{};
    for (const RunMechanism& one : reading.mechanisms)
        if (const auto cause = find_cause(one.cause); cause && reading.limit_rpm)
            gains[static_cast<std::size_t>(*cause)] =
                std::max(0.0, one.gain_rpm / *reading.limit_rpm - always_gained(*cause));
    gains[static_cast<std::size_t>(Cause::CoilBind)] =
        kRoomWeight * std::clamp((kRoom_m - reading.bind_margin_m) / (kRoom_m - kNoRoom_m), 0.0, 1.0);
    // where nothing that can be switched off helps, the spring is too weak for what it is asked
    gains[static_cast<std::size_t>(Cause::SpringWeak)] += kAnySpringGains;
    double sum = 0;
    for (double gain : gains)
        sum += gain;
    out.healthy = rest * healthy;
    for (std::size_t i = 0; i < kCauses; ++i)
        out.of[i] += rest * (1 - healthy) * gains[i] / sum;
    return out;
}

std::string said_by_run(const RunReading& reading, const RunShares& shares) {
    const std::string limit = reading.limit_rpm
                                  ? fmt::format("calibrated, the limit is {:.0f} rev/min", *reading.limit_rpm)
                                  : "calibrated, the train has no limit in the range";
    const auto cause = shares.first();
    if (!cause)
        return limit + ": the train reaches the speed that is wanted";
    const double share = shares.of[static_cast<std::size_t>(*cause)];
    std::string why;
    for (const RunDeparture& one : reading.departures)
        if (one.cause == info(*cause).key && one.log_evidence >= kLeastEvidence && one.gain_rpm)
            why = fmt::format("departs from belief (evidence {:.0f}), which costs {:.0f} rev/min",
                              one.log_evidence, *one.gain_rpm);
    for (const RunMechanism& one : reading.mechanisms)
        if (why.empty() && one.cause == info(*cause).key)
            why = fmt::format("{} would bring {:+.0f} rev/min", one.label, one.gain_rpm);
    const std::string_view key = info(*cause).key;
    const auto other = reading.chosen_with.empty()  ? std::nullopt
                       : key == reading.chosen      ? find_cause(reading.chosen_with)
                       : key == reading.chosen_with ? find_cause(reading.chosen)
                                                    : std::nullopt;
    const std::string beside = other ? fmt::format("; beside it departs: {}", info(*other).label) : "";
    return fmt::format("{}; {}, {:.0f} %{}{}{}", limit, info(*cause).label, 100 * share,
                       why.empty() ? "" : ": ", why, beside);
}

std::array<double, kCauses> run_likelihoods(const RunShares& shares) {
    double elsewhere = 0;
    for (std::size_t i = 0; i < kCauses; ++i)
        if (const CauseInfo& cause = info(static_cast<Cause>(i)); !cause.valve_train)
            elsewhere += cause.prior;
    std::array<double, kCauses> out{};
    for (std::size_t i = 0; i < kCauses; ++i) {
        const CauseInfo& cause = info(static_cast<Cause>(i));
        const double said = cause.valve_train ? shares.of[i] / cause.prior : shares.healthy / elsewhere;
        out[i] = (1 - kWrong) * said + kWrong;
    }
    const double most = *std::max_element(out.begin(), out.end());
    for (double& value : out)
        value /= most;
    return out;
}

} // namespace bathmos
