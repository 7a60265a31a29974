#include "session/results/predictions.h"

#include "io/project/store.h"

namespace bathmos::session {

Prediction prediction_of(const SweepInputs& inputs, Id revision, const SweepSummary& summary,
                         const LimitUncertainty* uncertainty, std::vector<std::string> stops) {
    Prediction out;
    out.hash = hash_of(inputs);
    out.revision = revision;
    out.when = io::now_text();
    out.model = program_version();
    out.limits = summary.limits_name;
    out.limit_rpm = summary.limit.speed_rpm;
    if (summary.limit.first)
        out.limit_metric = summary.limit.first->key;
    out.contact_loss_rpm = contact_loss_rpm(summary.limit);
    out.onset_rpm = summary.onset.onset.speed_rpm;
    if (summary.separation)
        out.separation_rpm = summary.separation->speed_rpm;
    if (uncertainty) {
        out.low_rpm = uncertainty->low_rpm;
        out.middle_rpm = uncertainty->middle_rpm;
        out.high_rpm = uncertainty->high_rpm;
    }
    out.stops = std::move(stops);
    return out;
}

const Prediction* newest_prediction(const Project& project, Id revision) {
    const Prediction* last = nullptr;
    for (const auto& [id, prediction] : project.predictions)
        if (prediction.revision == revision)
            last = &prediction;
    return last;
}

} // namespace bathmos::session
