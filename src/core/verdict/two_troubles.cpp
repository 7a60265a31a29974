#include "core/verdict/two_troubles.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kLeastBegins_rpm = 150, kLeastScatter_rpm = 75; // one sigma: of a drift's start, a break
constexpr double kThumb = 0.4, kLeastUnexplained = 0.02; // rules of thumb are good for so much of a loss

Symptom sign_of(Confounder kind) {
    return static_cast<Symptom>(static_cast<std::size_t>(Symptom::BlowerFalls) +
                                static_cast<std::size_t>(kind));
}

} // namespace

bool begins_too_late(const ConfounderTest& drift, const std::optional<StateBreak>& dyno_break) {
    if (drift.status != TestStatus::Seen || !drift.begins || !dyno_break)
        return false;
    const double sigma_rpm = std::hypot(std::max(dyno_break->scatter_rpm, kLeastScatter_rpm),
                                        std::max(drift.begins->sd_rpm, kLeastBegins_rpm));
    return drift.begins->speed_rpm > dyno_break->speed_rpm + 2 * sigma_rpm;
}

bool just_changed(const CaseFile& file) {
    return file.changes &&
           (!file.changes->nothing_in_the_train() || file.changes->boost || file.changes->oil);
}

bool LostPower::unexplained() const {
    return share - explained > std::max(kLeastUnexplained, kThumb * share);
}

std::optional<LostPower> lost_power(const CaseFile& file, const std::vector<ConfounderTest>& drifts) {
    if (file.pulls.empty())
        return std::nullopt;
    LostPower out;
    bool seen = false;
    for (const ConfounderTest& one : drifts) {
        if (one.status != TestStatus::Seen)
            continue;
        if (!one.takes)
            return std::nullopt;
        seen = true;
        out.explained += *one.takes;
    }
    if (!seen)
        return std::nullopt;
    if (const auto at = dyno_break(file)) {
        out.share = at->depth_W / file.pulls.front().analysis.peak_W;
        return out;
    }
    std::vector<const PullAnalysis*> before, here;
    for (const PullCase& one : file.pulls_before)
        before.push_back(&one.analysis);
    for (const PullCase& one : file.pulls)
        here.push_back(&one.analysis);
    const auto lost = before.empty() ? std::nullopt : upper_loss(before, here);
    if (!lost)
        return std::nullopt;
    out.share = std::max(0.0, lost->share);
    return out;
}

std::optional<double> begins_at(Cause cause, const CaseFile& file,
                                const std::vector<ConfounderTest>& drifts) {
    if (info(cause).valve_train)
        return file.rig && file.rig->first_rpm() ? file.rig->first_rpm()
               : file.model                      ? file.model->limit_rpm
                                                 : std::nullopt;
    for (const ConfounderTest& one : drifts)
        if (one.status == TestStatus::Seen && likelihood(sign_of(one.kind), cause) > 0.5)
            return one.begins ? std::optional(one.begins->speed_rpm) : one.from_rpm;
    return std::nullopt;
}

} // namespace bathmos
