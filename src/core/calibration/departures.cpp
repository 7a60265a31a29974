#include "core/calibration/departures.h"

#include <algorithm>

namespace bathmos {

// A step of a spring's number moves the onset by a percent or so: beyond it, a step of the run is explained
// within that width alone.
const std::vector<Departure>& departures() {
    static const std::vector<Departure> kDepartures = {
        {"spring_weak",
         {{"springs.free_length_mm", 3e-3}, {"springs.load", 0.08}},
         "springs.free_length_mm",
         {-0.4e-3, -0.8e-3, -1.2e-3, -1.6e-3, -2e-3, -2.4e-3, -2.8e-3, -3.2e-3, -3.6e-3, -4e-3, -4.5e-3,
          0.6e-3}},
        // a spring that has set is shorter and softer: neither alone leads there
        {"spring_weak",
         {{"springs.free_length_mm", 3e-3}, {"springs.load", 0.08}},
         "springs.free_length_mm",
         {-0.3e-3, -0.6e-3, -0.9e-3, -1.2e-3, -1.5e-3, -1.8e-3, -2.1e-3, -2.4e-3, -2.7e-3, -3e-3, -3.3e-3,
          -3.6e-3, -3.9e-3},
         {"springs.load", 40}},
        {"spring_weak",
         {{"springs.load", 0.08}},
         "springs.load",
         {0.015, 0.03, -0.015, -0.03, -0.045, -0.06, -0.075, -0.09, -0.105, -0.12, -0.135, -0.15}},
        {"spring_not_as_believed",
         {{"installed_height_mm", 2e-3}},
         "installed_height_mm",
         {0.4e-3, 0.8e-3, 1.2e-3, 1.6e-3, 2e-3, 2.4e-3, 2.8e-3, 3.2e-3, -0.5e-3, -1e-3, -1.5e-3}},
        {"train_flexible",
         {{"pushrod.end_stiffness_N_per_mm", 1.5},
          {"pushrod.stiffness_N_per_mm", 0.8},
          {"rocker.stiffness_N_per_mm", 0.8},
          {"contacts.cam.stiffness_N_per_mm", 0.8}},
         "pushrod.end_stiffness_N_per_mm",
         {0.4, -0.3, -0.6, -0.9, -1.2, -1.5, -1.9, -2.3, -2.7}},
        {"train_flexible",
         {{"pushrod.stiffness_N_per_mm", 0.8},
          {"rocker.stiffness_N_per_mm", 0.8},
          {"contacts.cam.stiffness_N_per_mm", 0.8}},
         "rocker.stiffness_N_per_mm",
         {-0.15, -0.3, -0.5, -0.8}},
        {"train_flexible",
         {{"contacts.tip.stiffness_N_per_mm", 0.8}, {"contacts.cam.stiffness_N_per_mm", 0.8}},
         "contacts.tip.stiffness_N_per_mm",
         {-0.15, -0.3, -0.5, -0.8}},
        {"surge",
         {{"springs.damping_ratio", 1.0}, {"springs.friction_N", 1.0}},
         "springs.damping_ratio",
         {0.7, -0.5, -1, -1.5, -2}},
        {"hard_landing",
         {{"contacts.seat.damping_s_per_m", 0.9}, {"contacts.seat.stiffness_N_per_mm", 0.5}},
         "contacts.seat.damping_s_per_m",
         {-0.4, -0.8, -1.2, 0.4, 0.8}},
        {"pump_up",
         {{"lifter.hydraulic.supply_kPa", 0.8}, {"lifter.hydraulic.leak_mm3_per_s_per_kPa", 1.0}},
         "lifter.hydraulic.supply_kPa",
         {-0.4, 0.3, 0.6, 0.9, 1.2, 1.6, 2}},
    };
    return kDepartures;
}

Belief as_believed(const FitModel& model) {
    return {model.prior_sd(), model.size(), {}};
}

std::vector<Suspected> suspected(const Departure& row, const FitModel& model) {
    std::vector<Suspected> out;
    for (std::size_t train = 0; train < model.trains(); ++train) {
        Belief belief = as_believed(model);
        belief.scanned = model.place_of(row.scanned, train);
        belief.scan = row.scan;
        if (belief.scanned == model.size() || (train > 0 && !model.numbers()[belief.scanned].only))
            continue; // a shared one was looked at with the first train
        for (const Widened& one : row.widened)
            if (const std::size_t at = model.place_of(one.key, train); at < model.size()) {
                double& sd = belief.sd(static_cast<Eigen::Index>(at));
                sd = std::max(sd, one.sd);
            }
        if (const std::size_t at = model.place_of(row.carried.key, train); at < model.size())
            belief.carried = {at, row.carried.per_offset};
        else if (!row.carried.key.empty())
            continue; // the row without it is another one
        out.push_back({model.numbers()[belief.scanned].only, std::move(belief)});
    }
    return out;
}

} // namespace bathmos
