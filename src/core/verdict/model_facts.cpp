#include "core/verdict/case_file.h"

#include "core/motion/limit_gain.h"
#include "core/train/train_check.h"
#include "core/whatif/handles.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kMoreSpring = 1.10, kMoreStiffness = 1.30, kMoreDamping = 4;
constexpr double kLeastDamping = 0.04;
constexpr std::size_t kNumbersTold = 4; // of one part's change

void more_spring(Train& t) {
    scale_loads(t, kMoreSpring);
}

void more_stiffness(Train& t) {
    scale_stiffness(t, kMoreStiffness);
}

void more_damping(Train& t) {
    scale_spring_damping(t, kMoreDamping, kLeastDamping);
}

LimitQuestion question_of(const FactsQuery& query) {
    return {query.range, query.limits, query.stop};
}

// The train with one part as it was before; a follower takes its lash along. Empty where it had none.
std::optional<Train> with_part_of(const Train& before, Train train, PartKind kind) {
    const auto old = part_from(before, kind);
    if (kind == PartKind::Lifter && before.hydraulic() != train.hydraulic()) {
        train.lash_m = before.lash_m;
        if (!old && train.layout == Layout::Finger) {
            train.lifter.reset(); // a solid pivot
            return train;
        }
    }
    if (!old || !takes(train.layout, kind))
        return std::nullopt;
    put_into(train, *old);
    return train;
}

} // namespace

ModelFacts model_facts(const Train& train, const FactsQuery& query) {
    SweepWatch watch;
    watch.stop = query.stop;
    FactsQuery rest = query;
    if (query.progress) {
        watch.progress = [&](double share) { query.progress(0.6 * share); };
        rest.progress = [&](double share) { query.progress(0.6 + 0.4 * share); };
    }
    return model_facts(train, sweep(train, query.range, query.limits, watch), rest);
}

ModelFacts model_facts(const Train& train, const Sweep& swept, const FactsQuery& query) {
    ModelFacts out;
    out.contact_loss_rpm = contact_loss_rpm(swept.summary.limit);
    out.rows = rows_of(swept.motions);
    out.limit_rpm = swept.summary.limit.speed_rpm;
    if (swept.summary.limit.first)
        out.limit_metric = swept.summary.limit.first->metric;
    out.onset_rpm = swept.summary.onset.onset.speed_rpm;
    out.onset_metric = swept.summary.onset.onset.metric;
    for (const auto& motion : swept.motions)
        if (motion->clashed && !out.clash_rpm)
            out.clash_rpm = motion->speed_rpm;
    out.bind_margin_m = figures_of(train, RigidMotion(train, curve_of(train.lobe))).bind_margin_m;
    struct Remedy {
        std::string_view key, label;
        void (*apply)(Train&);
        bool has_place;
    };
    const Remedy remedies[] = {
        {"spring", "10 % more spring", more_spring, true},
        {"stiffness", "a train 30 % stiffer at the same mass", more_stiffness, true},
        {"damping", "four times the damping in the spring", more_damping, true},
        {"pressure_off", "no pressure on the head", take_pressure_off,
         train.back_pressure_Pa != 0 || train.pressure_table.has_value()},
        {"solid_follower", "a solid follower", fit_solid_follower, train.hydraulic()},
    };
    double done = 0;
    for (const Remedy& remedy : remedies) {
        if (query.progress)
            query.progress(done++ / std::size(remedies));
        if (!remedy.has_place)
            continue;
        Train cured = train;
        remedy.apply(cured);
        if (const auto gain = limit_gain(cured, out.limit_rpm, question_of(query)))
            out.cures.push_back({remedy.key, remedy.label, *gain});
    }
    return out;
}

RigFacts rig_facts(const RigRun& run) {
    RigFacts out;
    out.name = run.source;
    out.onset_rpm = run.onset.onset.speed_rpm;
    out.onset_metric = run.onset.onset.metric;
    out.half_step_rpm = run.onset.onset.half_step_rpm;
    out.bands = run.onset.bands;
    out.rows = run.rows();
    for (const Crossing& c : run.limit.crossings)
        if (c.limit.metric == Metric::HeldOpen)
            out.held_open_rpm = c.speed_rpm;
    out.limit_rpm = run.limit.speed_rpm;
    if (run.limit.first)
        out.limit_metric = run.limit.first->metric;
    return out;
}

std::optional<double> RigFacts::first_rpm() const {
    return onset_rpm && limit_rpm ? std::min(onset_rpm, limit_rpm) : onset_rpm ? onset_rpm : limit_rpm;
}
std::optional<Metric> RigFacts::first_metric() const {
    return first_rpm() == onset_rpm ? onset_metric : limit_metric;
}

ChangeFacts change_facts(const Assembly& before, const Assembly& after, std::optional<double> limit_after_rpm,
                         const FactsQuery& query) {
    ChangeFacts out;
    std::map<PartKind, StateChange> by_kind;
    std::map<PartKind, std::size_t> numbers;
    for (const Difference& d : differences(before, after)) {
        if (d.key == "name")
            continue;
        const auto kind = kind_of(d);
        if (!kind) {
            StateChange change{kind, told(d), std::nullopt, d.key};
            if (d.key == "installed_height_mm")
                out.spring = true;
            if (d.key == "lash_mm" && before.train.hydraulic() == after.train.hydraulic()) {
                out.lobe = true;
                Train undone = after.train;
                undone.lash_m = before.train.lash_m;
                change.undone_gain_rpm = limit_gain(undone, limit_after_rpm, question_of(query));
            }
            out.changes.push_back(std::move(change));
            if (d.key == "back_pressure_kPa")
                out.boost = after.train.back_pressure_Pa > before.train.back_pressure_Pa;
            continue;
        }
        StateChange& change = by_kind[*kind];
        change.kind = kind;
        if (!d.before && !d.after) // which part it is goes before its numbers
            change.text = told(d) + MeasuredText(change.text.empty() ? "" : ", ") + change.text;
        else if (++numbers[*kind] <= kNumbersTold)
            change.text += MeasuredText(change.text.empty() ? "" : ", ") + told(d);
    }
    const auto moving = [](const Train& t) {
        return t.valve.mass_kg + t.retainer_mass_kg + t.locks_mass_kg + t.cap_mass_kg;
    };
    out.heavier = moving(after.train) > 1.03 * moving(before.train);
    const auto stiffness = [](const Train& t) {
        return figures_of(t, RigidMotion(t, curve_of(t.lobe))).stiffness_N_per_m;
    };
    if (check_train(before.train).empty() && check_train(after.train).empty())
        out.softer_link = stiffness(after.train) < 0.97 * stiffness(before.train);
    for (auto& [kind, change] : by_kind) {
        if (const std::size_t more = numbers[kind]; more > kNumbersTold)
            change.text += fmt::format(" and {} more", more - kNumbersTold);
        out.spring = out.spring || kind == PartKind::Spring || kind == PartKind::Retainer ||
                     kind == PartKind::Locks || kind == PartKind::Shim || kind == PartKind::Seat;
        out.lobe = out.lobe || kind == PartKind::Lobe;
        out.follower = out.follower ||
                       (kind == PartKind::Lifter && (before.train.hydraulic() || after.train.hydraulic()));
        if (const auto undone = with_part_of(before.train, after.train, kind))
            change.undone_gain_rpm = limit_gain(*undone, limit_after_rpm, question_of(query));
        out.changes.push_back(std::move(change));
    }
    return out;
}

} // namespace bathmos
