#include "core/bench/ratio_sheet.h"

#include "core/bench/straight_line.h"

#include <Eigen/QR>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kVaries = 4, kFirstRise_m = 0.1e-3;
constexpr double kSameRise_m = 20e-6, kApart_m = 30e-6, kOff = 0.01;

// What was read at one rise, up and down.
struct Level {
    double rise_m = 0, lift_m = 0;
    std::size_t readings = 0;
    std::optional<double> up_m, down_m;
};

std::vector<Level> levels_of(const RatioSheet& sheet) {
    const std::vector<Figure> rise = means_of(sheet.rise_m), lift = means_of(sheet.lift_m);
    if (rise.size() != lift.size() || (!sheet.turn.empty() && sheet.turn.size() != rise.size()))
        refuse(
            "lift_mm",
            fmt::format("{} rises, {} lifts and {} directions", rise.size(), lift.size(), sheet.turn.size()),
            "give one lift, and one direction if any, for each rise");
    std::vector<Level> out;
    const auto peak =
        static_cast<std::size_t>(std::ranges::max_element(rise, {}, &Figure::value) - rise.begin());
    const double slope = rise[peak].value > 0 ? lift[peak].value / rise[peak].value : 0;
    for (std::size_t i = 0; i < rise.size(); ++i) {
        auto at = std::ranges::find_if(
            out, [&](const Level& one) { return std::abs(one.rise_m - rise[i].value) < kSameRise_m; });
        if (at == out.end())
            at = out.insert(out.end(), Level{rise[i].value, 0, 0, {}, {}});
        // as it would be at the level's own rise, which the hand missed by a little
        const double there_m = lift[i].value - slope * (rise[i].value - at->rise_m);
        at->lift_m += (there_m - at->lift_m) / static_cast<double>(++at->readings);
        (sheet.turn.empty() || sheet.turn[i] == Turn::Up ? at->up_m : at->down_m) = there_m;
    }
    std::ranges::sort(out, {}, &Level::rise_m);
    if (out.size() < 3)
        refuse("rise_mm", fmt::format("{} different rises", out.size()), "read at three rises or more");
    return out;
}

// What a single reading scatters: about parabolas through four neighbours, as the ratio itself may change
// along the lift, and between up and down.
double scatter_of(const std::vector<Level>& levels) {
    double squares = 0, freedom = 0;
    for (std::size_t i = 0; i + 4 <= levels.size(); ++i) {
        Eigen::Matrix<double, 4, 3> x;
        Eigen::Vector4d y;
        double readings = 0;
        for (Eigen::Index k = 0; k < 4; ++k) {
            const Level& one = levels[i + static_cast<std::size_t>(k)];
            const double t = (one.rise_m - levels[i].rise_m) / (levels[i + 3].rise_m - levels[i].rise_m);
            x.row(k) << 1, t, t * t;
            y(k) = one.lift_m;
            readings += static_cast<double>(one.readings) / 4;
        }
        const Eigen::Vector3d c = x.colPivHouseholderQr().solve(y);
        squares += (y - x * c).squaredNorm() * readings;
        freedom += 1;
    }
    for (const Level& one : levels)
        if (one.up_m && one.down_m) {
            squares += std::pow(*one.up_m - *one.down_m, 2) / 2;
            freedom += 1;
        }
    return freedom > 0 ? by_student(std::sqrt(squares / freedom), freedom) : 0;
}

void compare_up_and_down(const std::vector<Level>& levels, std::vector<Told>& told) {
    const Level* lowest = nullptr;
    double most = 0, most_at = 0;
    for (const Level& one : levels)
        if (one.up_m && one.down_m) {
            lowest = lowest ? lowest : &one;
            if (std::abs(*one.up_m - *one.down_m) > std::abs(most)) {
                most = *one.up_m - *one.down_m;
                most_at = one.rise_m;
            }
        }
    if (!lowest || std::abs(most) <= kApart_m)
        return;
    if (std::abs(*lowest->up_m - *lowest->down_m) > kApart_m)
        told.push_back(
            {"dial_moved",
             {"back at a rise of {} the valve's dial shows {} more than before: it has moved; read again",
              {{Quantity::Length, lowest->rise_m}, {Quantity::Length, *lowest->down_m - *lowest->up_m}}}});
    else
        told.push_back({"up_down_differ",
                        {"at a rise of {} up and down are {} apart: lash, a bent part or friction",
                         {{Quantity::Length, most_at}, {Quantity::Length, std::abs(most)}}}});
}

// On the way up where that was read at both levels: a working reading is taken going up, and a dial stays
// behind where it turns.
double lift_at(const std::vector<Level>& levels, double rise_m) {
    for (std::size_t i = 1; i < levels.size(); ++i)
        if (rise_m <= levels[i].rise_m + kSameRise_m || i + 1 == levels.size()) {
            const Level &a = levels[i - 1], &b = levels[i];
            const bool up = a.up_m && b.up_m;
            const double low = up ? *a.up_m : a.lift_m, high = up ? *b.up_m : b.lift_m;
            return low + (high - low) * (rise_m - a.rise_m) / (b.rise_m - a.rise_m);
        }
    return levels.back().lift_m;
}

std::optional<Figure> stiffness_of(const WorkingLifts& working, const std::vector<Level>& levels,
                                   double own_m) {
    if (working.rise_m.size() != working.lift_m.size() || working.rise_m.size() != working.force_N.size())
        refuse("working", "has not as many forces and lifts as rises",
               "give a lift and a force for each rise");
    std::vector<double> force, give;
    for (std::size_t i = 0; i < working.rise_m.size(); ++i)
        if (const double rise = working.rise_m[i]; working.force_N[i] > 0 &&
                                                   rise > levels.front().rise_m + kSameRise_m &&
                                                   rise < levels.back().rise_m + kSameRise_m) {
            force.push_back(working.force_N[i]);
            give.push_back(lift_at(levels, rise) - working.lift_m[i]);
        }
    if (force.size() < 2)
        return std::nullopt;
    StraightLine line = line_from_origin(force, give, own_m);
    if (force.size() > 2 && std::ranges::max(force) > 1.2 * std::ranges::min(force))
        if (const StraightLine free = line_through(force, give, own_m);
            std::abs(free.at_zero.value) > 3 * free.at_zero.sd)
            line = free;
    if (!(line.slope.value > 0))
        return std::nullopt;
    return Figure{1 / line.slope.value, line.slope.sd / (line.slope.value * line.slope.value)};
}

// Where local ratios differ by more than they are known to, and by a hundredth.
std::optional<RatioTable> table_of(const std::vector<Level>& levels, const std::vector<LocalRatio>& local) {
    if (local.size() < 3)
        return std::nullopt;
    const auto by_ratio = [](const LocalRatio& one) { return one.ratio.value; };
    const auto [low, high] = std::ranges::minmax_element(local, {}, by_ratio);
    const double apart = high->ratio.value - low->ratio.value;
    if (apart < kVaries * std::hypot(low->ratio.sd, high->ratio.sd) || apart < kOff * high->ratio.value)
        return std::nullopt;
    RatioTable out{{0}, {0}};
    for (const Level& one : levels)
        if (one.rise_m > kFirstRise_m && one.lift_m > out.output_m.back()) {
            out.input_m.push_back(one.rise_m);
            out.output_m.push_back(one.lift_m);
        }
    return out.input_m.size() > 3 ? std::optional(out) : std::nullopt;
}

} // namespace

RatioFigures figures_of(const RatioSheet& sheet) {
    require_between("rise_mm", Quantity::Length, all_of(sheet.rise_m), -0.01, 0.1);
    require_between("lift_mm", Quantity::Length, all_of(sheet.lift_m), -0.01, 0.1);
    if (sheet.working) {
        require_between("working.lift_mm", Quantity::Length, sheet.working->lift_m, -0.01, 0.1);
        require_between("working.force_N", Quantity::Force, sheet.working->force_N, 0, 1e5);
    }
    const std::vector<Level> levels = levels_of(sheet);
    RatioFigures out;
    const Level& peak = levels.back();
    if (!(peak.rise_m > 0) || !(peak.lift_m > 0))
        refuse("lift_mm",
               fmt::format("the valve lifts {:.3f} mm at a rise of {:.3f}", 1e3 * peak.lift_m,
                           1e3 * peak.rise_m),
               "zero both dials on the base circle, so that they rise together");
    const double scatter = scatter_of(levels), ratio = peak.lift_m / peak.rise_m;
    const double own = std::hypot(sheet.lift_m.own_sd(), ratio * sheet.rise_m.own_sd());
    const double one = std::max(scatter, own);
    out.ratio = {ratio, one / std::sqrt(static_cast<double>(peak.readings)) / peak.rise_m};
    for (std::size_t i = 1; i + 1 < levels.size(); ++i) {
        std::vector<double> x, y;
        for (std::size_t k = i - 1; k <= i + 1; ++k) {
            x.push_back(levels[k].rise_m);
            y.push_back(levels[k].lift_m);
        }
        Figure slope = line_through(x, y).slope;
        const double middle = (x[0] + x[1] + x[2]) / 3;
        slope.sd =
            one / std::sqrt(static_cast<double>(levels[i].readings)) /
            std::sqrt(std::pow(x[0] - middle, 2) + std::pow(x[1] - middle, 2) + std::pow(x[2] - middle, 2));
        out.local.push_back({levels[i].rise_m, slope});
    }
    out.table = table_of(levels, out.local);
    if (sheet.working)
        out.stiffness_N_per_m = stiffness_of(*sheet.working, levels, one);
    compare_up_and_down(levels, out.told);
    if (sheet.believed && std::abs(ratio / *sheet.believed - 1) > kOff)
        out.told.push_back(
            {"not_as_believed", fmt::format("{:.3f} measured, {:.3f} believed: {:+.1f} %", ratio,
                                            *sheet.believed, 100 * (ratio / *sheet.believed - 1))});
    for (const auto& [readings, what] :
         {std::pair{&sheet.rise_m, "the dial at the lobe"}, {&sheet.lift_m, "the dial at the valve"}}) {
        const auto drift = told_of_drift(*readings, what, Quantity::Length, peak.lift_m, one);
        out.told.insert(out.told.end(), drift.begin(), drift.end());
    }
    return out;
}

} // namespace bathmos::bench
