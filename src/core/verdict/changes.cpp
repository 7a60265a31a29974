#include "core/verdict/changes.h"

#include "core/fit/judgement.h"
#include "core/motion/sweep.h"
#include "core/problem/input_error.h"
#include "core/train/train_check.h"
#include "core/uncertainty/limit_uncertainty.h"
#include "core/verdict/case_file.h"
#include "core/whatif/handles.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace bathmos {

namespace {

constexpr double kToldApart_rpm = 10;
constexpr const char* kSpringSchool = "more spring and load on everything, against less mass and less spring";
constexpr const char* kBindSchool =
    "close to bind damps surge at the nose, roomy forgives loft and height errors";
constexpr const char* kLinkSchool = "stiffer and heavier, against lighter and softer";

// Hours to change a part of a kind, an experienced hand, one cylinder's pair of valves; cover drains, count
// locks.
double hours_of(PartKind kind) {
    switch (kind) {
    case PartKind::Lobe:
        return 9;
    case PartKind::Valve:
    case PartKind::Guide:
        return 12;
    case PartKind::Lifter:
    case PartKind::Seat:
        return 4;
    case PartKind::Spring:
    case PartKind::Retainer:
    case PartKind::Locks:
    case PartKind::Shim:
    case PartKind::Seal:
        return 2.5;
    default:
        return 1.5;
    }
}

// A usual step: a handle that is scaled by an amount or a factor.
struct UsualStep {
    const char* handle;
    const char* label;
    const char* location;
    double add, times; ///< SI
    double hours, cost;
    const char* school;
};
const UsualStep kUsualSteps[] = {
    {"installed_height", "a 0.5 mm shim more", "height", -0.5e-3, 1, 2.5, 6, kBindSchool},
    {"installed_height", "a 0.5 mm shim less", "height", 0.5e-3, 1, 2.5, 0, kBindSchool},
    {"spring_rate", "10 % more spring rate, same seat load", "spring", 0, 1.1, 2.5, 180, kSpringSchool},
    {"spring_rate", "10 % less spring rate, same seat load", "spring", 0, 0.9, 2.5, 180, kSpringSchool},
    {"valve_mass", "10 g off the valve", "valve", -10e-3, 1, 12, 420, kSpringSchool},
    {"pushrod_wall", "pushrod wall 0.4 mm thicker", "pushrod", 0.4e-3, 1, 1.5, 140, kLinkSchool},
    {"pushrod_diameter", "pushrod 1.6 mm larger", "pushrod", 1.6e-3, 1, 3, 190, kLinkSchool},
    {"rocker_ratio", "ratio 0.05 lower", "rocker", -0.05, 1, 1.5, 380, ""},
    {"lobe_span", "lobe 4 crank degrees longer, same lift", "lobe", radians(4), 1, 9, 640, ""},
    {"lash", "lash 0.05 mm tighter", "lash", -0.05e-3, 1, 0.7, 0, ""},
    {"lash", "lash 0.05 mm wider", "lash", 0.05e-3, 1, 0.7, 0, ""},
    {"pressure", "a third less pressure on the head", "pressure", 0, 2.0 / 3, 0.5, 0, ""},
};

void add_steps(const Assembly& assembly, std::vector<TrainChange>& out) {
    for (const UsualStep& step : kUsualSteps)
        for (const Handle& handle : handles()) {
            if (handle.key != step.handle)
                continue;
            const auto now = handle.get(assembly.train);
            if (!now || (step.times != 1 && *now == 0) || *now * step.times + step.add <= 0)
                continue;
            // From what stands there when it is made: another change may have moved it.
            out.push_back({step.label, step.location, 0, step.cost, step.hours, step.school,
                           [&handle, &step](const Assembly& before) {
                               Assembly next = before;
                               if (const auto value = handle.get(next.train))
                                   handle.set(next.train, *value * step.times + step.add);
                               return next;
                           }});
        }
    if (assembly.train.retainer_mass_kg > 6e-3)
        out.push_back(
            {"retainer 3 g lighter", "retainer", 0, 95.0, 2.5, kSpringSchool, [](const Assembly& before) {
                 Assembly next = before;
                 next.train.retainer_mass_kg -= 3e-3;
                 return next;
             }});
    if (assembly.train.pushrod)
        out.push_back({"ball ends twice as stiff, same pushrod", "pushrod", 0, 60.0, 2, kLinkSchool,
                       [](const Assembly& before) {
                           Assembly next = before;
                           next.train.pushrod->end_stiffness_N_per_m *= 2;
                           return next;
                       }});
    out.push_back(
        {"8 % more spring load and rate", "spring", 0, 180.0, 2.5, kSpringSchool, [](const Assembly& before) {
             Assembly next = before;
             scale_loads(next.train, 1.08);
             return next;
         }});
}

std::string location_of(PartKind kind) {
    return kind == PartKind::Shim || kind == PartKind::Seat ? "height" : std::string(info(kind).key);
}

struct JudgedTrain {
    TrainFigures figures;
    FitJudgement fit;
};

// Findings with a motion at speed, or standing still.
JudgedTrain judged_train(const Assembly& assembly, const RigidMotion& rigid, const ChangeStudyQuery& query,
                         const Motion* motion) {
    JudgedTrain out{figures_of(assembly.train, rigid), {}};
    FitSurroundings round;
    round.engine = query.engine;
    round.build = query.build;
    out.fit = judge_fit(assembly, out.figures, rigid, round, motion);
    return out;
}

// "Bounce 0.21 mm of 0.25 mm at 7800 rev/min"
MeasuredText near_text(const Limit& limit, double value, double at_rpm) {
    const MetricInfo& metric = info(limit.metric);
    const std::string name(metric.label), at = fmt::format(" at {:.0f} rev/min", at_rpm);
    const Quantity quantity = quantity_of(limit.metric);
    if (quantity == Quantity::Count)
        return fmt::format("{} {:.{}f} {} of {:g}{}", name, value * metric.to_unit, metric.decimals,
                           metric.unit, limit.above, at);
    return {name + " {} of {}" + at, {{quantity, value}, {quantity, limit.above / metric.to_unit}}};
}

void add_near(ChangeOutcome& out, const LimitsInForce& limits, const Metrics& metrics, double at_rpm) {
    for (const Limit& limit : limits) {
        if (limit.from_low_speed)
            continue;
        const auto value = metrics.in_unit(limit.metric);
        if (value && *value > 0.8 * limit.above)
            out.near.push_back(near_text(limit, *metrics[limit.metric], at_rpm));
    }
    if (out.bind_margin_m < kBindClose_m)
        out.near.push_back({"bind margin {}", {{Quantity::Length, out.bind_margin_m}}});
}

void compute(Assembly before, Assembly after, const ChangeStudyQuery& query, ChangeOutcome& out) {
    before.train = under_pressure(std::move(before.train), query.head_Pa);
    after.train = under_pressure(std::move(after.train), query.head_Pa);
    if (const auto problems = check_train(after.train); !problems.empty())
        throw InputError(problems.front());
    const MotionModel model(after.train);
    SweepWatch sweep_watch;
    sweep_watch.stop = query.stop;
    const Sweep swept = sweep(after.train, query.range, query.limits, sweep_watch);
    const LimitSpeed& limit = swept.summary.limit;
    out.limit_rpm = limit.speed_rpm;
    out.beyond_range = !limit.speed_rpm;
    if (limit.first)
        out.limit_metric = limit.first->key;
    out.gain_rpm = limit.speed_rpm.value_or(query.range.last_rpm) - query.limit_rpm;
    out.contact_loss_rpm = contact_loss_rpm(limit);
    out.onset_rpm = onset_beside(rows_of(swept.motions), swept.summary.onset, query.measured).onset.speed_rpm;
    const auto gained = [](const std::optional<double>& now, const std::optional<double>& was) {
        return now && was ? std::optional(*now - *was) : std::nullopt;
    };
    out.contact_loss_gain_rpm = gained(out.contact_loss_rpm, query.contact_loss_rpm);
    out.onset_gain_rpm = gained(out.onset_rpm, query.onset_rpm);
    const Motion motion = simulate_one(after.train, query.at_rpm, query.stop);
    if (motion.finite) {
        out.seating_m_per_s = motion.metrics[Metric::Seating];
        out.loft_m = motion.metrics[Metric::Loft];
        const auto& cam = motion[Channel::CamForce];
        out.cam_N = *std::max_element(cam.begin(), cam.end());
    }
    // Findings of both at the same speed: only what the change brings is raised.
    const RigidMotion was(before.train, curve_of(before.train.lobe));
    const Motion motion_before = simulate_one(before.train, query.at_rpm, query.stop);
    const JudgedTrain now = judged_train(before, was, query, motion_before.finite ? &motion_before : nullptr);
    const JudgedTrain then = judged_train(after, model.rigid(), query, motion.finite ? &motion : nullptr);
    out.bind_margin_m = then.figures.bind_margin_m;
    out.bind_before_m = now.figures.bind_margin_m;
    if (then.fit.piston)
        out.piston_m = then.fit.piston->least_m;
    for (const SpringFigures& spring : then.figures.springs)
        if (spring.stress_open_Pa)
            out.stress_Pa = std::max(out.stress_Pa.value_or(0), *spring.stress_open_Pa);
    std::set<std::pair<std::string, Severity>> known;
    for (const Finding& f : now.fit.findings)
        known.insert({f.rule + f.part, f.severity});
    for (const Finding& f : then.fit.findings)
        if (f.severity != Severity::Note && !known.contains({f.rule + f.part, f.severity}))
            out.raised.push_back(f);
    if (motion.finite)
        add_near(out, query.limits, motion.metrics, query.at_rpm);
    if (query.uncertainty_trains > 0 && out.limit_rpm) {
        UncertaintyQuery uncertain;
        uncertain.range = query.range;
        uncertain.limits = query.limits;
        uncertain.near_rpm = *out.limit_rpm;
        uncertain.trains = uncertain.first_trains = query.uncertainty_trains;
        UncertaintyWatch watch;
        watch.stop = query.stop;
        const LimitUncertainty result = uncertainty_of(after.train, uncertain, watch);
        out.low_rpm = result.low_rpm;
        out.high_rpm = result.high_rpm;
    }
}

} // namespace

std::optional<double> ChangeOutcome::cost_per_100_rpm() const {
    return cost && gain_rpm > 5 ? std::optional(*cost / gain_rpm * 100) : std::nullopt;
}

bool opposite_moves(double contact_loss_gain_rpm, double onset_gain_rpm) {
    return contact_loss_gain_rpm * onset_gain_rpm < 0 &&
           std::min(std::abs(contact_loss_gain_rpm), std::abs(onset_gain_rpm)) > kToldApart_rpm;
}

bool ChangeOutcome::opposed() const {
    return contact_loss_gain_rpm && onset_gain_rpm && opposite_moves(*contact_loss_gain_rpm, *onset_gain_rpm);
}

bool ChangeOutcome::reaches(double target_rpm) const {
    return trouble.empty() && (beyond_range || (limit_rpm && *limit_rpm >= target_rpm));
}

double ChangeOutcome::risk() const {
    double out = static_cast<double>(near.size());
    for (const Finding& f : raised)
        out += f.severity == Severity::Stop ? 10 : 3;
    return out;
}

std::vector<TrainChange> possible_changes(const Project& project, const Assembly& assembly, ValveSide side) {
    std::vector<TrainChange> out;
    const auto of_the_other_side = [&](Id id) {
        const std::vector<Id> users = project.users_of(id);
        return !users.empty() && std::none_of(users.begin(), users.end(), [&](Id build) {
            return project.builds.at(build).side == side;
        });
    };
    for (const auto& [id, part] : project.parts) {
        const FittedPart* there = assembly.find(part.kind);
        const bool moves = !info(part.kind).section.empty() || part.kind == PartKind::Shim;
        const bool sided =
            part.kind == PartKind::Lobe || part.kind == PartKind::Valve || part.kind == PartKind::Pushrod;
        if ((there && there->part == id) || (sided && of_the_other_side(id)) ||
            !takes(assembly.train.layout, part.kind) || !moves)
            continue;
        const bool spring = part.kind == PartKind::Spring, link = part.kind == PartKind::Pushrod;
        out.push_back({fmt::format("{}: {}{}", info(part.kind).label, part.name,
                                   part.serial.empty() ? "" : fmt::format(" ({})", part.serial)),
                       location_of(part.kind), id, part.cost, hours_of(part.kind),
                       spring ? kSpringSchool
                       : link ? kLinkSchool
                              : "",
                       [id = id, part = part](const Assembly& before) { return fitted(before, id, part); }});
    }
    add_steps(assembly, out);
    return out;
}

ChangeOutcome try_changes(const Assembly& assembly, const std::vector<TrainChange>& all,
                          const std::vector<std::size_t>& chosen, const ChangeStudyQuery& query) {
    ChangeOutcome out;
    out.changes = chosen;
    out.cost = 0;
    for (std::size_t i : chosen) {
        const TrainChange& change = all[i];
        out.label += (out.label.empty() ? "" : " + ") + change.label;
        out.hours += change.hours;
        out.cost = out.cost && change.cost ? std::optional(*out.cost + *change.cost) : std::nullopt;
        if (out.school.empty())
            out.school = change.school;
    }
    try {
        Assembly after = assembly;
        for (std::size_t i : chosen)
            after = all[i].apply(after);
        compute(assembly, after, query, out);
    } catch (const InputError& error) {
        out.trouble = error.what();
    }
    return out;
}

std::vector<ChangeOutcome> study_single_changes(const Assembly& assembly, const std::vector<TrainChange>& all,
                                                const ChangeStudyQuery& query) {
    std::vector<ChangeOutcome> out;
    for (std::size_t i = 0; i < all.size(); ++i) {
        throw_if_stopped(query.stop);
        out.push_back(try_changes(assembly, all, {i}, query));
        if (query.found)
            query.found(out.back());
        if (query.progress)
            query.progress(static_cast<double>(i + 1) / static_cast<double>(all.size()));
    }
    sort_outcomes(out, ChangeOrder::Gain);
    return out;
}

std::vector<ChangeOutcome> combinations_that_reach(const Assembly& assembly,
                                                   const std::vector<TrainChange>& all,
                                                   const std::vector<ChangeOutcome>& singles,
                                                   const ChangeStudyQuery& query) {
    struct Candidate {
        std::vector<std::size_t> changes;
        double hope = 0;
    };
    std::vector<std::pair<std::size_t, double>> gains;
    std::vector<std::vector<std::size_t>> reached;
    for (const ChangeOutcome& s : singles)
        if (s.trouble.empty() && s.changes.size() == 1 && s.gain_rpm > 10) {
            if (s.reaches(query.target_rpm))
                reached.push_back(s.changes);
            else
                gains.emplace_back(s.changes.front(), s.gain_rpm);
        }
    std::vector<Candidate> candidates;
    const auto apart = [&](std::size_t a, std::size_t b) { return all[a].location != all[b].location; };
    for (std::size_t i = 0; i < gains.size(); ++i)
        for (std::size_t j = i + 1; j < gains.size(); ++j) {
            if (!apart(gains[i].first, gains[j].first))
                continue;
            candidates.push_back({{gains[i].first, gains[j].first}, gains[i].second + gains[j].second});
            for (std::size_t k = j + 1; k < gains.size(); ++k)
                if (apart(gains[i].first, gains[k].first) && apart(gains[j].first, gains[k].first))
                    candidates.push_back({{gains[i].first, gains[j].first, gains[k].first},
                                          gains[i].second + gains[j].second + gains[k].second});
        }
    // Pairs before threes where both may reach it; then the most hopeful. Gains seldom add up fully.
    const double missing = query.target_rpm - query.limit_rpm;
    std::erase_if(candidates, [&](const Candidate& c) { return c.hope < 0.8 * missing; });
    std::stable_sort(candidates.begin(), candidates.end(), [](const Candidate& a, const Candidate& b) {
        return a.changes.size() != b.changes.size() ? a.changes.size() < b.changes.size() : a.hope > b.hope;
    });
    std::vector<ChangeOutcome> out;
    std::size_t tried = 0, pairs = 0;
    for (const Candidate& c : candidates) {
        if (tried >= query.most_combinations)
            break;
        const bool holds_one = std::any_of(reached.begin(), reached.end(), [&](const auto& smaller) {
            return std::all_of(smaller.begin(), smaller.end(), [&](std::size_t i) {
                return std::find(c.changes.begin(), c.changes.end(), i) != c.changes.end();
            });
        });
        if (holds_one || (c.changes.size() == 2 && ++pairs > (query.most_combinations + 1) / 2))
            continue; // half of the tries are left to threes
        throw_if_stopped(query.stop);
        ChangeOutcome outcome = try_changes(assembly, all, c.changes, query);
        ++tried;
        if (query.progress)
            query.progress(static_cast<double>(tried) /
                           static_cast<double>(std::min(query.most_combinations, candidates.size())));
        if (!outcome.reaches(query.target_rpm))
            continue;
        reached.push_back(c.changes);
        if (query.found)
            query.found(outcome);
        out.push_back(std::move(outcome));
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const ChangeOutcome& a, const ChangeOutcome& b) { return a.hours < b.hours; });
    return out;
}

void sort_outcomes(std::vector<ChangeOutcome>& outcomes, ChangeOrder order) {
    const auto key = [&](const ChangeOutcome& o) {
        if (!o.trouble.empty())
            return std::pair(1e12, 0.0);
        switch (order) {
        case ChangeOrder::CostPerSpeed:
            return std::pair(o.gain_rpm > 5 ? o.cost_per_100_rpm().value_or(1e9) : 1e10, -o.gain_rpm);
        case ChangeOrder::Risk:
            return std::pair(o.gain_rpm > 5 ? o.risk() : 1e6, -o.gain_rpm);
        case ChangeOrder::Gain:
            break;
        }
        return std::pair(-o.gain_rpm, o.hours);
    };
    std::stable_sort(outcomes.begin(), outcomes.end(),
                     [&](const ChangeOutcome& a, const ChangeOutcome& b) { return key(a) < key(b); });
}

} // namespace bathmos
