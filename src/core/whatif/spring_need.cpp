#include "core/whatif/spring_need.h"

#include "core/motion/limit_gain.h"
#include "core/problem/input_error.h"
#include "core/train/train_figures.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr int kHalvings = 60;

// The free length, and pitches with it: they fill what the dead coils leave.
void set_free_length(CoilGeometry& coil, double free_m) {
    const double dead = axial_wire_m(coil) * coil.dead_coils;
    for (double& pitch : coil.pitch_m)
        pitch *= (free_m - dead) / (coil.free_length_m - dead);
    coil.free_length_m = free_m;
}

// A coil of another rate carries the load at the height by its free length; found by halving, as uneven
// pitches close one after another.
void make_coil(Spring& spring, double height_m, double seat_N, double factor) {
    auto& coil = std::get<CoilGeometry>(spring.kind);
    coil.shear_modulus_Pa *= factor;
    double low = height_m,
           high = height_m + 4 * seat_N / SpringStatics(spring).rate_N_per_m(coil.free_length_m);
    for (int i = 0; i < kHalvings; ++i) {
        set_free_length(coil, (low + high) / 2);
        (SpringStatics(spring).load_N(height_m) < seat_N ? low : high) = coil.free_length_m;
    }
}

double open_stress_Pa(const Train& train, double lift_m) {
    double out = 0;
    for (const Spring& spring : train.springs)
        if (const auto stress = SpringStatics(spring).stress_Pa(train.installed_height_m - lift_m))
            out = std::max(out, *stress);
    return out;
}

std::string refusal(const TriedSpring& tried, const SpringNeedQuery& query) {
    if (query.most_open_N > 0 && tried.open_N > query.most_open_N)
        return "over the load that is allowed";
    if (query.most_stress_Pa > 0 && tried.stress_Pa > query.most_stress_Pa)
        return "over the stress that is allowed";
    return {};
}

std::vector<double> spread(double now, double least, double most, std::size_t steps) {
    std::vector<double> out;
    for (std::size_t i = 0; i < steps; ++i)
        out.push_back(now *
                      (least + (most - least) * static_cast<double>(i) / static_cast<double>(steps - 1)));
    return out;
}

TriedSpring tried_spring(const Train& train, const SpringPoint& point, double lift_m,
                         const SpringNeedQuery& query, std::optional<double> near_rpm,
                         const std::stop_token& stop) {
    TriedSpring out;
    out.spring = point;
    try {
        const Train changed = with_spring(train, point);
        out.open_N = load_of(changed.springs, changed.installed_height_m - lift_m);
        out.stress_Pa = open_stress_Pa(changed, lift_m);
        out.refused = refusal(out, query);
        const auto limit = limit_within(changed, {query.range, query.limits, stop}, near_rpm);
        if (limit) {
            out.limit_rpm = *limit;
            out.in_range = *limit < query.range.last_rpm;
        } else if (out.refused.empty()) {
            out.refused = "the train cannot be run with it";
        }
    } catch (const InputError& error) {
        out.refused = error.problem().what;
    }
    return out;
}

void choose(SpringNeed& need, const SpringNeedQuery& query) {
    for (const TriedSpring& one : need.tried) {
        if (one.keeps(query) && (!need.least_load || one.open_N < need.least_load->open_N))
            need.least_load = one;
        if (one.refused.empty() && (!need.most_margin || one.limit_rpm > need.most_margin->limit_rpm))
            need.most_margin = one;
    }
}

} // namespace

SpringPoint spring_point(const Train& train) {
    SpringPoint out{load_of(train.springs, train.installed_height_m), 0};
    for (const Spring& spring : train.springs)
        out.rate_N_per_m += SpringStatics(spring).rate_N_per_m(train.installed_height_m);
    return out;
}

Train with_spring(Train train, const SpringPoint& point) {
    const SpringPoint now = spring_point(train);
    if (!(point.seat_N > 0 && point.rate_N_per_m > 0 && now.seat_N > 0 && now.rate_N_per_m > 0))
        throw InputError({"", "springs", "load or rate is not above 0", "give a spring that pushes"});
    const double height_m = train.installed_height_m, factor = point.rate_N_per_m / now.rate_N_per_m;
    for (Spring& spring : train.springs) {
        const double before_N = SpringStatics(spring).load_N(height_m);
        const double seat_N = point.seat_N * before_N / now.seat_N;
        if (auto* table = std::get_if<LoadTable>(&spring.kind))
            for (double& load : table->load_N)
                load = seat_N + factor * (load - before_N);
        else
            make_coil(spring, height_m, seat_N, factor);
    }
    return train;
}

SpringNeed spring_need(const Train& train, const SpringNeedQuery& query, const ProgressSink& progress,
                       const std::stop_token& stop) {
    if (!(query.target_rpm > query.range.first_rpm &&
          query.target_rpm + query.tolerance_rpm <= query.range.last_rpm))
        throw InputError(
            {"", "target",
             fmt::format("{:.0f} rev/min is not within the speeds that are run", query.target_rpm),
             fmt::format("run speeds beyond {:.0f} rev/min", query.target_rpm + query.tolerance_rpm)});
    if (query.steps < 2 || train.springs.empty())
        throw InputError({"", "springs", "nothing to try", "give the train a spring"});
    const SpringPoint now = spring_point(train);
    const double lift_m = RigidMotion(train, curve_of(train.lobe)).peak_m();
    SpringNeed out;
    out.seat_N = spread(now.seat_N, query.least_seat, query.most_seat, query.steps);
    out.rate_N_per_m = spread(now.rate_N_per_m, query.least_rate, query.most_rate, query.steps);
    std::optional<double> row_begin;
    for (const double seat_N : out.seat_N) {
        std::optional<double> near = row_begin;
        for (const double rate : out.rate_N_per_m) {
            throw_if_stopped(stop);
            out.tried.push_back(tried_spring(train, {seat_N, rate}, lift_m, query, near, stop));
            if (out.tried.back().limit_rpm > 0)
                near = out.tried.back().limit_rpm;
            if (rate == out.rate_N_per_m.front())
                row_begin = near;
            if (progress)
                progress(static_cast<double>(out.tried.size()) /
                         static_cast<double>(query.steps * query.steps));
        }
    }
    choose(out, query);
    return out;
}

} // namespace bathmos
