#include "core/math/robust.h"
#include "core/verdict/case_file.h"

#include <algorithm>
#include <cctype>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kUpper = 2.0 / 3, kAir_Pa = 101325, kRaised = 1.1, kLeast_Pa = 5e3;

// Median of a channel's readings in the upper third of the speeds.
std::optional<double> upper_median(const Pull& pull, PullChannel channel) {
    if (!pull.has(channel) || !pull.has(PullChannel::Speed))
        return std::nullopt;
    const auto& speed = pull[PullChannel::Speed];
    double low = 1e9, high = 0;
    for (const double rpm : speed)
        if (std::isfinite(rpm)) {
            low = std::min(low, rpm);
            high = std::max(high, rpm);
        }
    std::vector<double> values;
    for (std::size_t i = 0; i < speed.size(); ++i)
        if (speed[i] >= low + kUpper * (high - low) && std::isfinite(pull[channel][i]))
            values.push_back(pull[channel][i]);
    return values.empty() ? std::nullopt : std::optional(median(std::move(values)));
}

bool says_oil(std::string notes) {
    std::transform(notes.begin(), notes.end(), notes.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    for (std::size_t at = notes.find("oil"); at != std::string::npos; at = notes.find("oil", at + 1))
        if (at == 0 || !std::isalpha(static_cast<unsigned char>(notes[at - 1]))) // no coil, no foil
            return true;
    return false;
}

// The pressures before and now as a sentence; empty where one is not known.
MeasuredText compared(const char* what, std::optional<double> before, std::optional<double> now) {
    if (!before || !now)
        return {};
    return {std::string(what) + " {} in the state before, {} now",
            {{Quantity::Pressure, *before}, {Quantity::Pressure, *now}}};
}

bool raised(std::optional<double> before, std::optional<double> now) {
    return before && now && *now > kRaised * std::max(0.0, *before) + kLeast_Pa;
}

} // namespace

void read_pressures(const Pull& pull, PullCase& out) {
    const auto manifold = upper_median(pull, PullChannel::Manifold);
    if (manifold)
        out.head_Pa = *manifold - upper_median(pull, PullChannel::Barometer).value_or(kAir_Pa);
    else
        out.head_Pa = out.boost_Pa;
    out.oil_Pa = upper_median(pull, PullChannel::Oil);
}

Train under_pressure(Train train, std::optional<double> head_Pa) {
    if (head_Pa && train.back_pressure_Pa == 0 && !train.pressure_table)
        train.back_pressure_Pa = *head_Pa;
    return train;
}

std::optional<double> median_of(const std::vector<PullCase>& pulls, std::optional<double> PullCase::*value) {
    std::vector<double> all;
    for (const PullCase& one : pulls)
        if (one.*value)
            all.push_back(*(one.*value));
    return all.empty() ? std::nullopt : std::optional(median(std::move(all)));
}

void note_pressures(CaseFile& file, const std::string& notes) {
    ChangeFacts& changes = *file.changes;
    const auto head_before = median_of(file.pulls_before, &PullCase::head_Pa),
               head = median_of(file.pulls, &PullCase::head_Pa);
    if (raised(head_before, head)) {
        changes.boost = true;
        changes.boost_text = compared("boost", head_before, head);
    }
    const auto oil_before = median_of(file.pulls_before, &PullCase::oil_Pa),
               oil = median_of(file.pulls, &PullCase::oil_Pa);
    changes.oil_text = compared("oil pressure", oil_before, oil);
    changes.oil = raised(oil_before, oil);
    if (says_oil(notes)) {
        changes.oil = true;
        changes.oil_text += MeasuredText(changes.oil_text.empty() ? "noted: " : "; noted: ") + notes;
    }
}

} // namespace bathmos
