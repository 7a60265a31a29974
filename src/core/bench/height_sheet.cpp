#include "core/bench/height_sheet.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace bathmos::bench {

namespace {

constexpr double kSameTaper_rad = 0.05 * kPi / 180, kSameBall_m = 5e-6;
constexpr double kLeastApart_m = 30e-6; // two measures of a height, whatever their errors say
constexpr double kAlike_m = 5e-6, kNear_m = 0.1e-3;
constexpr std::size_t kMostShims = 4, kMostThicknesses = 60;

void check(const HeightSheet& s) {
    require_between("old_height_mm", Quantity::Length, {s.old_height_m.value}, 1e-3, 0.5);
    for (const auto& [name, one] : {std::pair{"old", &s.before}, {"new", &s.after}}) {
        const std::string of = std::string(name) + ".";
        require_between(of + "step_mm", Quantity::Length, {one->step_m.value}, 0, 0.1);
        require_between(of + "ball_depth_mm", Quantity::Length, {one->ball_depth_m.value}, -0.05, 0.1);
        require_between(of + "taper_deg", Quantity::Angle, {one->taper_rad}, 0, kPi / 4);
    }
    require_between("ball_mm", Quantity::Length, {s.ball_m}, 1e-3, 0.1);
    for (const auto& [key, value] :
         {std::pair{"micrometer_mm", s.micrometer_m ? s.micrometer_m->value : 0.04},
          {"wanted_mm", s.wanted_m.value_or(0.04)}})
        require_between(key, Quantity::Length, {value}, 1e-3, 0.5);
    require_between("shims_mm", Quantity::Length, s.shims_m, 1e-5, 0.02);
    if (s.shims_m.size() > kMostThicknesses)
        refuse("shims_mm", fmt::format("{} thicknesses", s.shims_m.size()),
               fmt::format("give at most {}: each thickness once", kMostThicknesses));
}

// What tapers and balls say of whether two gaugings compare.
std::vector<Told> not_comparable(const HeightSheet& s) {
    std::vector<Told> out;
    const auto deg = [](double rad) { return degrees(rad); };
    if (std::abs(s.before.taper_rad - s.after.taper_rad) > kSameTaper_rad)
        out.push_back({"taper_differs",
                       fmt::format("the retainers' tapers are {:.2f} and {:.2f} degrees: depths of a ball do "
                                   "not compare; set the height by the micrometer",
                                   deg(s.before.taper_rad), deg(s.after.taper_rad))});
    else if (s.lock_taper_rad && std::abs(*s.lock_taper_rad - s.after.taper_rad) > kSameTaper_rad)
        out.push_back(
            {"taper_differs", fmt::format("the locks' taper is {:.2f} degrees, the retainer's {:.2f}: "
                                          "these do not belong together",
                                          deg(*s.lock_taper_rad), deg(s.after.taper_rad))});
    if (s.new_ball_m && std::abs(*s.new_ball_m - s.ball_m) > kSameBall_m)
        out.push_back({"ball_differs",
                       {"gauged with balls of {} and {}: gauge both over the same one",
                        {{Quantity::Length, s.ball_m}, {Quantity::Length, *s.new_ball_m}}}});
    return out;
}

double sum_of(const std::vector<double>& values) {
    double out = 0;
    for (const double value : values)
        out += value;
    return out;
}

void fit_shims(const HeightSheet& s, HeightFigures& out) {
    out.shimmed_m = out.height_m->value;
    if (s.wanted_m) {
        std::vector<double> stock = s.shims_m;
        std::ranges::sort(stock, std::greater());
        const double gap = out.height_m->value - *s.wanted_m;
        out.shims_m = nearest_shims(stock, gap, false);
        if (std::abs(gap - sum_of(out.shims_m)) > kNear_m)
            out.shims_m = nearest_shims(stock, gap, true);
        out.shimmed_m -= sum_of(out.shims_m);
        if (const double off = out.shimmed_m - *s.wanted_m; std::abs(off) > kNear_m)
            out.told.push_back(
                {"out_of_reach",
                 {off < 0 ? "{} shorter than wanted without any shim: another step or lock is needed"
                          : "{} taller than wanted: the shims at hand do not reach",
                  {{Quantity::Length, std::abs(off)}}}});
    }
    if (s.rate_N_per_m && s.seat_N)
        out.seat_N = Figure{*s.seat_N + *s.rate_N_per_m * (s.old_height_m.value - out.shimmed_m),
                            *s.rate_N_per_m * out.height_m->sd};
}

} // namespace

std::vector<double> nearest_shims(const std::vector<double>& stock_m, double gap_m, bool again) {
    std::vector<double> best, now;
    double least = std::abs(gap_m);
    const std::function<void(std::size_t, double)> add = [&](std::size_t from, double sum) {
        const double off = std::abs(gap_m - sum);
        if (off < least - kAlike_m || (off < least + kAlike_m && now.size() < best.size())) {
            least = std::min(least, off);
            best = now;
        }
        if (now.size() == kMostShims || sum > gap_m + kNear_m)
            return;
        for (std::size_t i = from; i < stock_m.size(); ++i) {
            now.push_back(stock_m[i]);
            add(again ? i : i + 1, sum + stock_m[i]);
            now.pop_back();
        }
    };
    add(0, 0);
    return best;
}

HeightFigures figures_of(const HeightSheet& s) {
    check(s);
    HeightFigures out;
    out.step_m = minus(s.before.step_m, s.after.step_m);
    out.lock_m = minus(s.after.ball_depth_m, s.before.ball_depth_m);
    out.told = not_comparable(s);
    if (out.told.empty())
        out.height_m = stated(plus(s.old_height_m, plus(out.step_m, out.lock_m)));
    out.step_m = stated(out.step_m);
    out.lock_m = stated(out.lock_m);
    if (out.height_m && s.micrometer_m) {
        const double apart = s.micrometer_m->value - out.height_m->value;
        if (std::abs(apart) >
            std::max(kLeastApart_m, 2 * std::hypot(out.height_m->sd, stated(*s.micrometer_m).sd)))
            out.told.push_back(
                {"disagrees",
                 {"the micrometer says {}, ball and steps {}: {} apart, more than they are known to; swapped "
                  "steps, another ball, locks not seated?",
                  {{Quantity::Length, s.micrometer_m->value},
                   {Quantity::Length, out.height_m->value},
                   {Quantity::Length, apart}}}});
    } else if (s.micrometer_m) {
        out.height_m = stated(*s.micrometer_m);
    }
    if (out.height_m)
        fit_shims(s, out);
    return out;
}

} // namespace bathmos::bench
