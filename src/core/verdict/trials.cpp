#include "core/verdict/trials.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

// clang-format off
const std::vector<Trial> kTrials = {
    {"repeat", "Repeat the pull twice", "Same state, same oil temperature: does the break come back at its speed?", 0.5, {Symptom::Repeats}},
    {"boost_down", "Pull once with boost down", "Lower boost by a third and pull again: a valve's limit moves little, belt, spark and mixture move much.", 0.7, {Symptom::StaysWithBoost}, true},
    {"richer", "Pull once with 3 % more fuel", "One change in the map: a valve does not mind, mixture and knock do.", 0.4, {Symptom::StaysWithBoost}},
    {"log_blower", "Log blower speed", "A pickup on the blower's pulley beside the crank's: their ratio must not move.", 1.0, {Symptom::BlowerFalls}, true},
    {"log_mixture", "Log lambda and rail pressure", "Both beside speed, to the end of the pull.", 0.8, {Symptom::MixtureMoves, Symptom::Misfires}},
    {"log_spark", "Log misfires, or close the plug gaps by 0.2 mm", "From the control, or by crank speed; gaps closed is the cheap trial.", 0.6, {Symptom::Misfires}},
    {"log_intake", "Log pressure after the filter", "A tapping between filter and throttle; or pull once without filter and hose.", 0.6, {Symptom::IntakeFalls}},
    {"log_throttle", "Log the throttle", "Its sensor beside speed; look at the stop with the pedal down.", 0.3, {Symptom::ThrottleFalls, Symptom::FootLifts}},
    {"log_knock", "Log retard and advance", "From the control; or pull once on better fuel.", 0.5, {Symptom::KnockRises}},
    {"log_oil", "Log oil pressure", "At the main gallery, not at the filter.", 0.7, {Symptom::OilFalls}},
    {"read_limiter", "Read the limiter's speed", "In the control, or log its flag.", 0.1, {Symptom::LimiterCuts}},
    {"gauge_height", "Gauge height and locks with the ball, test the spring", "Installed height, seat load and how deep the locks sit; count the locks, cover the drain holes, wear eye protection.", 1.5, {Symptom::SpringSuspect, Symptom::LittleRoom}},
    {"spin", "Spin the train on the rig", "Steps of 200 rev/min to past the break, other valve's springs out; guards and interlock on, the room clear.", 6.0, {Symptom::RigNear, Symptom::RigLandsFirst, Symptom::RigOpensLate}},
    {"hold_onset", "Hold at the onset on the rig", "Ten seconds at the onset: pump-up and creep show with time.", 2.0, {Symptom::RigHeldOpen}, false, true},
    {"shim", "Pull once with one 0.5 mm shim more", "Check bind margin first: a break that moves up with seat load is a valve's.", 2.0, {Symptom::MovesWithTrain}},
    {"swap_springs", "Swap springs side to side", "Between two cylinders or sides: the trouble moves along, or it does not.", 3.0, {Symptom::MovesWithTrain, Symptom::SpringSuspect}},
    {"solid_trial", "One pull on solid followers", "Or with the followers shimmed solid: pump-up is gone.", 4.0, {Symptom::MovesWithTrain}, false, true},
};
// clang-format on

double entropy(const std::vector<double>& p) {
    double sum = 0, h = 0;
    for (double v : p)
        sum += v;
    for (double v : p)
        if (v > 0)
            h -= v / sum * std::log2(v / sum);
    return h;
}

double information(const Weighing& weighing, const std::vector<Symptom>& symptoms) {
    std::vector<double> now;
    for (const WeighedCause& c : weighing.causes)
        now.push_back(c.probability);
    double after = 0;
    for (unsigned outcome = 0; outcome < 1U << symptoms.size(); ++outcome) {
        std::vector<double> joint;
        double sum = 0;
        for (const WeighedCause& c : weighing.causes) {
            double p = c.probability;
            for (std::size_t i = 0; i < symptoms.size(); ++i) {
                const double seen = likelihood(symptoms[i], c.cause);
                p *= outcome & 1U << i ? seen : 1 - seen;
            }
            joint.push_back(p);
            sum += p;
        }
        if (sum > 0)
            after += sum * entropy(joint);
    }
    return std::max(0.0, entropy(now) - after);
}

} // namespace

const std::vector<Trial>& trials() {
    return kTrials;
}

std::vector<RankedTrial> rank_trials(const Weighing& weighing, const std::vector<Evidence>& evidence,
                                     const CaseFile& file) {
    // a calibrated run's reading stands for all signs of rig and model, and for the room between the coils
    const auto looked_for = [&](Symptom symptom) {
        const SymptomGroup group = info(symptom).group;
        return (file.calibrated && (group == SymptomGroup::Rig || group == SymptomGroup::Model ||
                                    symptom == Symptom::LittleRoom)) ||
               std::any_of(evidence.begin(), evidence.end(),
                           [&](const Evidence& e) { return e.symptom == symptom; });
    };
    std::vector<RankedTrial> out;
    for (const Trial& trial : kTrials) {
        if ((trial.charged_only && file.charged == false) || (trial.hydraulic_only && !file.hydraulic))
            continue;
        std::vector<Symptom> fresh;
        for (Symptom symptom : trial.shows)
            if (fresh.size() < 3 && !looked_for(symptom))
                fresh.push_back(symptom);
        if (fresh.empty())
            continue;
        const double bit = information(weighing, fresh);
        if (bit > 1e-4)
            out.push_back({&trial, bit, bit / trial.hours});
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const RankedTrial& a, const RankedTrial& b) { return a.per_hour > b.per_hour; });
    return out;
}

} // namespace bathmos
