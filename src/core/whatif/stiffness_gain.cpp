#include "core/whatif/stiffness_gain.h"

#include "core/problem/input_error.h"
#include "core/train/train_figures.h"

#include <algorithm>
#include <cmath>
#include <mutex>

namespace bathmos {

namespace {

double moving_kg(const Train& train) {
    return figures_of(train, RigidMotion(train, curve_of(train.lobe))).equivalent_mass_total_kg;
}

} // namespace

Train with_stiffer(Train train, const std::string& part, double factor, bool with_mass) {
    const double more = with_mass ? factor : 1;
    if (part == "cam") {
        train.contacts.cam_stiffness_N_per_m *= factor; // it does not move
    } else if (part == "pushrod" && train.pushrod) {
        train.pushrod->stiffness_N_per_m = factor * link_stiffness_N_per_m(*train.pushrod);
        train.pushrod->mass_kg *= more;
    } else if (part == "rocker" && train.rocker) {
        train.rocker->stiffness_N_per_m *= factor;
        train.rocker->inertia_kg_m2 *= more;
    } else if (part == "tip" && train.layout == Layout::Bucket) {
        train.contacts.tip_stiffness_N_per_m *= factor;
        if (train.lifter)
            train.lifter->mass_kg *= std::cbrt(more);
    } else {
        throw InputError({"", part, "is no link between this train's cam and valve",
                          "give one of the parts that its compliance is made of"});
    }
    return train;
}

StiffnessBudget stiffness_budget(const Train& train, const LimitQuestion& question,
                                 const ProgressSink& progress) {
    const RigidMotion rigid(train, curve_of(train.lobe));
    const TrainFigures figures = figures_of(train, rigid);
    StiffnessBudget out;
    for (const Share& share : figures.compliance_m_per_N)
        out.links.push_back({share.part, share.value * figures.stiffness_N_per_m, {}, {}, 0});
    std::stable_sort(out.links.begin(), out.links.end(),
                     [](const StiffnessGain& a, const StiffnessGain& b) { return a.share > b.share; });
    if (out.links.front().share > kMendFirst)
        out.mend_first = out.links.front().part;
    const auto now = limit_within(train, question, {});
    if (now && *now < question.range.last_rpm)
        out.limit_rpm = now;
    std::mutex mutex;
    double done = 1;
    const auto moves = [](const StiffnessGain& link) { return link.part != "cam"; };
    const double all = 1 + static_cast<double>(out.links.size()) +
                       static_cast<double>(std::count_if(out.links.begin(), out.links.end(), moves));
    const auto gain = [&](const StiffnessGain& link, bool with_mass) {
        const auto found = limit_gain(with_stiffer(train, link.part, 1 + kStiffer, with_mass), now, question);
        const std::scoped_lock lock(mutex);
        if (progress)
            progress(++done / all);
        return found;
    };
    parallel_for(2 * out.links.size(), [&](std::size_t i) {
        StiffnessGain& link = out.links[i / 2];
        if (i % 2 == 0)
            link.same_mass_rpm = gain(link, false);
        else if (moves(link))
            link.true_mass_rpm = gain(link, true);
    });
    for (StiffnessGain& link : out.links)
        link.added_kg =
            moving_kg(with_stiffer(train, link.part, 1 + kStiffer, true)) - figures.equivalent_mass_total_kg;
    return out;
}

} // namespace bathmos
