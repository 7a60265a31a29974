#include "core/verdict/verdict.h"

#include "core/verdict/two_troubles.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kInnocent = 0.15; // probability of the valve train below which it counts as innocent
constexpr double kTwoAtOnce = 0.5; // of two troubles, from which on both are named

std::string_view movement(std::optional<Metric> metric) {
    switch (metric.value_or(Metric::Count)) {
    case Metric::Bounce:
    case Metric::Seating:
        return "lands hard and bounces";
    case Metric::DurationChange:
        return "is late off its seat and back too early, and lands hard";
    case Metric::Loft:
    case Metric::LiftLoss:
        return "leaves the lobe over the nose";
    case Metric::ContactLoss:
        return "loses contact with the lobe";
    case Metric::HeldOpen:
        return "is held open";
    case Metric::CycleVariation:
        return "moves differently from cycle to cycle";
    default:
        return "stops following the lobe";
    }
}

// From the rig where there is one, else from the model.
std::string_view what_the_valve_does(const CaseFile& file) {
    return movement(file.rig && file.rig->onset_metric ? file.rig->onset_metric
                    : file.model                       ? file.model->limit_metric
                                                       : std::nullopt);
}

// The change that goes with a cause, as a noun: "the pushrod's change".
std::string blamed_change(const CaseFile& file, Cause cause) {
    if (!file.changes)
        return {};
    const auto fits = [&](PartKind kind) {
        switch (cause) {
        case Cause::TrainFlexible:
            return kind == PartKind::Pushrod || kind == PartKind::Rocker;
        case Cause::HarshLobe:
        case Cause::HardLanding:
            return kind == PartKind::Lobe;
        case Cause::SpringWeak:
            return kind == PartKind::Spring || kind == PartKind::Valve || kind == PartKind::Retainer;
        case Cause::SpringNotAsBelieved:
            return kind == PartKind::Spring || kind == PartKind::Retainer || kind == PartKind::Locks ||
                   kind == PartKind::Shim;
        default:
            return false;
        }
    };
    for (const StateChange& change : file.changes->changes)
        if (change.kind && fits(*change.kind)) {
            std::string kind(info(*change.kind).label);
            std::transform(kind.begin(), kind.end(), kind.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
            return change.undone_gain_rpm && *change.undone_gain_rpm > 50
                       ? fmt::format(" (the {} of {}; undone, the model gains {:.0f} rev/min)", kind,
                                     file.changes->to, *change.undone_gain_rpm)
                       : fmt::format(" (the {} of {})", kind, file.changes->to);
        }
    return {};
}

std::string rounded(double rpm) {
    return fmt::format("{:.0f}", 10 * std::round(rpm / 10));
}

std::string_view under_boost(const ModelFacts& model) {
    return model.head_Pa ? ", under the pulls' boost" : "";
}

// Pulls that lose nothing, or nothing to go by at all.
std::string nothing_lost(const CaseFile& file) {
    double end = 0;
    for (const PullCase& p : file.pulls)
        end = std::max(end, p.analysis.curve.speed_rpm.back());
    std::string text =
        end > 0
            ? fmt::format("These pulls lose nothing up to {} rev/min: no break, no rollover.", rounded(end))
            : "Nothing stops this train in the range that was looked at: no break, no onset, no limit.";
    if (file.model && file.model->limit_rpm)
        text += fmt::format(" The model's limit is {} rev/min{}.", rounded(*file.model->limit_rpm),
                            under_boost(*file.model));
    return text;
}

// What is said of the valve train where the first trouble is elsewhere.
std::string clearing_of(const CaseFile& file, const Verdict& v) {
    if (v.weighing.valve_train >= kInnocent)
        return fmt::format(" The valve train is not cleared: {:.0f} %.", 100 * v.weighing.valve_train);
    if (const auto lost = lost_power(file, v.confounders); lost && lost->unexplained())
        return fmt::format(
            " But {:.0f} % of the power are missing at the top, and this takes about {:.0f} %: "
            "the rest is not explained, and the valve train not cleared.",
            100 * lost->share, 100 * lost->explained);
    return " The valve train is innocent.";
}

// The second of two troubles, where two are likelier than one.
std::string second_of(const CaseFile& file, const Verdict& v) {
    double two = 0;
    for (const WeighedPair& pair : v.weighing.pairs)
        two += pair.probability;
    if (v.weighing.pairs.empty() || two < kTwoAtOnce ||
        v.weighing.pairs.front().first != v.weighing.causes.front().cause)
        return {};
    const Cause second = v.weighing.pairs.front().second;
    const auto from = begins_at(second, file, v.confounders);
    return fmt::format(" There are two troubles at once, {:.0f} %: {}{}.", 100 * two,
                       from ? fmt::format("from about {} rev/min also ", rounded(*from)) : "also ",
                       info(second).sentence);
}

std::string answer_of(const CaseFile& file, const Verdict& v) {
    if (!v.speed.rpm)
        return nothing_lost(file);
    const WeighedCause& first = v.weighing.causes.front();
    const int percent = static_cast<int>(std::lround(100 * first.probability));
    const bool valve = info(first.cause).valve_train;
    const std::string from = fmt::format("From about {} rev/min ", rounded(*v.speed.rpm));
    const std::string cause(info(first.cause).sentence);
    std::string text =
        valve ? fmt::format("{}the {} {}: {}{}; {} %.", from, file.valve, what_the_valve_does(file), cause,
                            blamed_change(file, first.cause), percent)
              : fmt::format("{}{}; {} %.", from, cause, percent);
    const std::string second = second_of(file, v);
    text += second;
    if (!valve && second.empty())
        text += clearing_of(file, v);
    if (!valve && file.model && file.model->limit_rpm)
        text += fmt::format(" Its own limit is {} rev/min in the model{}.", rounded(*file.model->limit_rpm),
                            under_boost(*file.model));
    if (first.probability < 0.5 && v.weighing.causes.size() > 1)
        text += fmt::format(" Not settled: {} is at {:.0f} %.", info(v.weighing.causes[1].cause).label,
                            100 * v.weighing.causes[1].probability);
    return text;
}

// Whatever the power does: what the run shows, and what explains it.
std::string valve_answer_of(const CaseFile& file) {
    if (!file.rig)
        return {};
    const auto first = file.rig->first_rpm();
    std::string text = first
                           ? fmt::format("On the rig the {} {} from about {} rev/min", file.valve,
                                         movement(file.rig->first_metric()), rounded(*first))
                           : fmt::format("On the rig the {} follows its lobe over the whole run", file.valve);
    if (first && file.target_rpm > 0)
        text += *first < file.target_rpm
                    ? fmt::format(", {} below the target", rounded(file.target_rpm - *first))
                    : ", above the target";
    if (file.calibrated)
        return text + ". By the run alone: " + said_by_run(*file.calibrated, shares_of_run(file)) + ".";
    return text + ". Calibrate the run to learn by what.";
}

} // namespace

std::string_view sureness_words(double probability) {
    return probability > 0.9   ? "very likely"
           : probability > 0.7 ? "likely"
           : probability > 0.4 ? "open, leading"
           : probability > 0.1 ? "possible"
                               : "unlikely";
}

Verdict judge(const CaseFile& file) {
    Verdict out;
    out.limits = file.limits;
    out.question = fmt::format("{}, {}: where does it stop, and why?", file.build, file.state);
    out.speed = question_speed(file);
    std::vector<std::vector<ConfounderTest>> tests;
    for (const PullCase& p : file.pulls)
        tests.push_back(p.tests);
    out.dyno_break = dyno_break(file);
    if (!tests.empty())
        out.confounders = test_confounders(tests);
    out.evidence = evidence_of(file);
    out.weighing = weigh(out.evidence, {impossible_causes(file), just_changed(file)});
    out.next = rank_trials(out.weighing, out.evidence, file);
    out.answer = answer_of(file, out);
    out.valve_answer = valve_answer_of(file);
    if (file.pulls.empty())
        out.missing.emplace_back("no dyno pull of this state");
    if (file.pulls_before.empty())
        out.missing.emplace_back("no dyno pull of an earlier state");
    if (!file.rig)
        out.missing.emplace_back("no rig run of this state");
    if (file.rig && !file.calibrated)
        out.missing.emplace_back("the rig run of this state is not calibrated");
    if (!file.model)
        out.missing.emplace_back("no model of this state");
    if (!file.changes)
        out.missing.emplace_back("no earlier state to compare with");
    out.missing.insert(out.missing.end(), file.unread.begin(), file.unread.end());
    for (const ConfounderTest& t : out.confounders)
        if (t.status == TestStatus::NotLogged)
            out.missing.push_back(fmt::format("{}: {}", info(t.kind).label, t.text.in_words()));
    return out;
}

} // namespace bathmos
