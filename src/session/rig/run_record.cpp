#include "session/rig/run_record.h"

#include "io/project/store.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

void put(Entry& entry, const std::string& key, std::optional<double> value) {
    if (value)
        entry.numbers[key] = *value;
}

std::optional<double> number(const Entry& entry, const std::string& key) {
    const auto at = entry.numbers.find(key);
    return at == entry.numbers.end() ? std::nullopt : std::optional(at->second);
}

std::string word(const Entry& entry, const std::string& key) {
    const auto at = entry.words.find(key);
    return at == entry.words.end() ? std::string() : at->second;
}

std::optional<Metric> metric(const std::string& column) {
    for (std::size_t i = 0; i < kMetrics; ++i)
        if (info(static_cast<Metric>(i)).column == column)
            return static_cast<Metric>(i);
    return std::nullopt;
}

constexpr std::string_view kEvidence = "evidence_", kWithout = "without_", kCosts = "costs_", kRpm = "_rpm";

} // namespace

Entry calibration_record(const Calibration& calibration, const RunReading& reading, Id revision, Id run,
                         const std::string& limits) {
    Entry out;
    out.name = fmt::format("Calibration, {}{}", reading.chosen,
                           reading.chosen_with.empty() ? "" : " with " + reading.chosen_with);
    out.revision = revision;
    out.when = io::now_text();
    out.numbers["run"] = static_cast<double>(run);
    put(out, "limit_rpm", reading.limit_rpm);
    put(out, "train_limit_rpm", reading.train_limit_rpm);
    put(out, "p10_rpm", reading.p10_rpm);
    put(out, "p50_rpm", reading.p50_rpm);
    put(out, "p90_rpm", reading.p90_rpm);
    put(out, "edge_rpm", reading.onset_rpm);
    out.numbers["bind_margin_mm"] = 1e3 * reading.bind_margin_m;
    out.words["chosen"] = reading.chosen;
    if (!reading.chosen_with.empty())
        out.words["chosen_with"] = reading.chosen_with;
    out.words["limits"] = limits;
    if (reading.limit_metric)
        out.words["limit_metric"] = std::string(info(*reading.limit_metric).column);
    if (reading.onset_metric)
        out.words["edge_metric"] = std::string(info(*reading.onset_metric).column);
    for (const RunDeparture& one : reading.departures) {
        out.numbers[fmt::format("{}{}", kEvidence, one.cause)] = one.log_evidence;
        put(out, fmt::format("{}{}{}", kCosts, one.cause, kRpm), one.gain_rpm);
    }
    for (const RunMechanism& one : reading.mechanisms) {
        out.numbers[fmt::format("{}{}{}", kWithout, one.cause, kRpm)] = one.gain_rpm;
        out.words[fmt::format("{}{}", kWithout, one.cause)] = one.label;
    }
    for (const FittedNumber& one : calibration.numbers)
        if (one.number.moves(0))
            out.numbers["departs_" + one.number.key] = one.departs_sigma;
    return out;
}

void note_change(Entry& record, const ToldChange& told) {
    record.numbers["other_run"] = static_cast<double>(told.other_run);
    put(record, "change_believed_rpm", told.effect.believed_gain_rpm);
    put(record, "change_rpm", told.effect.gain_rpm);
    put(record, "change_p10_rpm", told.effect.p10_rpm);
    put(record, "change_p90_rpm", told.effect.p90_rpm);
    record.words["change"] = said_of(told.effect);
}

RunReading reading_of(const Entry& record) {
    RunReading out;
    out.chosen = word(record, "chosen");
    out.chosen_with = word(record, "chosen_with");
    out.limit_rpm = number(record, "limit_rpm");
    out.train_limit_rpm = number(record, "train_limit_rpm");
    out.p10_rpm = number(record, "p10_rpm");
    out.p50_rpm = number(record, "p50_rpm");
    out.p90_rpm = number(record, "p90_rpm");
    out.onset_rpm = number(record, "edge_rpm");
    out.bind_margin_m = 1e-3 * number(record, "bind_margin_mm").value_or(0);
    out.limit_metric = metric(word(record, "limit_metric"));
    out.onset_metric = metric(word(record, "edge_metric"));
    for (const auto& [key, value] : record.numbers) {
        if (key.starts_with(kEvidence)) {
            const std::string cause = key.substr(kEvidence.size());
            out.departures.push_back(
                {cause, value, number(record, fmt::format("{}{}{}", kCosts, cause, kRpm))});
        }
        if (key.starts_with(kWithout) && key.ends_with(kRpm)) {
            const std::string cause = key.substr(kWithout.size(), key.size() - kWithout.size() - kRpm.size());
            out.mechanisms.push_back({cause, word(record, fmt::format("{}{}", kWithout, cause)), value});
        }
    }
    std::stable_sort(
        out.departures.begin(), out.departures.end(),
        [](const RunDeparture& a, const RunDeparture& b) { return a.log_evidence > b.log_evidence; });
    return out;
}

const Entry* calibration_of(const Project& project, Id run, Id revision, const std::string& limits) {
    const Entry* out = nullptr;
    for (const auto& [id, entry] : project.of(EntryKind::Calibration))
        if (entry.revision == revision && number(entry, "run") == static_cast<double>(run) &&
            word(entry, "limits") == limits)
            out = &entry;
    return out;
}

std::string fitted_to(const Project& project, Id run) {
    const auto at = project.of(EntryKind::RigRun).find(run);
    return at == project.of(EntryKind::RigRun).end()
               ? std::string("fitted to a run")
               : fmt::format("fitted to run {}, {}", run, at->second.name);
}

} // namespace bathmos::session
