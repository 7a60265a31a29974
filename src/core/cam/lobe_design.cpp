#include "core/cam/lobe_design.h"

#include "core/lobe/lobe_events.h"
#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"
#include "core/units/units.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <glpk.h>
#include <memory>
#include <optional>

namespace bathmos {

namespace {

// Inside: lengths in mm, angles in tens of cam degrees, so that rise and all derivatives are near one.
constexpr double kTen_rad = 10 * kPi / 180;
constexpr std::size_t kDesignKnots = 120; // each third cam degree: a subset of what a table is smoothed with
constexpr int kHalf = static_cast<int>(kDesignKnots / 2 + 1); // coefficients from the nose to the far side
constexpr double kGrid_rad = 0.5 * kPi / 180;
constexpr double kAimSlack = 0.005; // of the aim that is given up for the least jerk
constexpr double kWithin = 0.997;   // of a limit that is asked for at the grid, as it is passed between
constexpr double kBinds = 0.99;
constexpr double kRampWeight = 2; // of jerk on the ramp against that of the whole lobe
constexpr double kNothing = 1e-9; // weights under this are rounding, and spoil the programme's scaling

enum Limited { Acceleration, Deceleration, Jerk, Ramp, Radius, kLimits };
constexpr int kRampJerk = kLimits; // one more column: jerk where the ramp runs, which nobody limits
struct LimitKind {
    const char* key;
    const char* label;
    int order;
};
constexpr LimitKind kLimitKinds[kLimits] = {{"most_acceleration", "flank acceleration", 2},
                                            {"most_deceleration", "nose deceleration", 2},
                                            {"most_jerk", "jerk", 3},
                                            {"ramp_velocity", "ramp velocity", 1},
                                            {"least_radius", "radius of curvature", 0}};

double per_si(int order) { // from SI per rad^order to mm per ten degrees^order
    return 1e3 * std::pow(kTen_rad, order);
}

std::array<double, kLimits> limits_of(const LobeGoals& g) {
    return {g.most_acceleration_m_per_rad2, g.most_deceleration_m_per_rad2, g.most_jerk_m_per_rad3,
            g.ramp_velocity_m_per_rad, g.least_radius_m};
}

[[noreturn]] void refuse(const std::string& key, std::string what, std::string mend) {
    throw InputError({"", key.empty() ? "goals" : "goals." + key, std::move(what), std::move(mend)});
}

void check_goals(const LobeGoals& g) {
    if (!(g.lift_m > 0.2e-3 && g.lift_m < 0.05))
        refuse("lift", "the lift must lie between 0.2 and 50 mm", "give the lobe's lift at the follower");
    if (!(g.low_height_m > 0 && g.low_height_m < g.high_height_m && g.high_height_m < g.lift_m))
        refuse("low_height", "the heights must rise: 0, low height, high height, lift",
               "give the low height near the top of the ramp, the high one at the usual check height");
    if (!(g.high_duration_crank_rad > radians(20) && g.high_duration_crank_rad < g.low_duration_crank_rad &&
          g.low_duration_crank_rad < radians(640)))
        refuse("low_duration", "the duration at the low height must be longer than that at the high one",
               "give crank degrees between 20 and 640, the longer at the lower height");
    for (int i = 0; i < kLimits; ++i)
        if (!(limits_of(g)[static_cast<std::size_t>(i)] >= 0))
            refuse(kLimitKinds[i].key, "a limit cannot be below 0", "leave it at 0 for no limit");
    if (g.least_radius_m > 0 && !(g.base_radius_m > 0))
        refuse("base_radius", "a least radius needs the base radius", "give half the base circle's diameter");
}

// Where the ramp has come down to the base circle: it takes as long again as at its steady velocity.
double foot_rad(const LobeGoals& g) {
    const double low = g.low_duration_crank_rad / 4;
    const double ramp =
        g.ramp_velocity_m_per_rad > 0 ? 2.2 * g.low_height_m / g.ramp_velocity_m_per_rad : radians(25);
    return std::min(low + std::max(ramp, radians(12)), radians(176));
}

double inner_limit(int which, double limit_si) {
    return limit_si * per_si(kLimitKinds[which].order) * (which == Radius ? 1 / kWithin : kWithin);
}

// What GLPK keeps for a thread goes with the last of its programmes.
struct GlpkHere {
    GlpkHere() = default;
    GlpkHere(const GlpkHere&) = delete;
    GlpkHere& operator=(const GlpkHere&) = delete;
    ~GlpkHere() { glp_free_env(); }
};

struct Row {
    std::vector<int> column;
    std::vector<double> value;
};

// A derivative at an angle, as weights of the coefficients from the nose outward, in inner units.
std::array<double, kHalf> weights_at(double theta_rad, int order) {
    std::array<double, kHalf> sum{};
    const PeriodicSpline::Place p = PeriodicSpline::place(theta_rad, kDesignKnots);
    const auto w = quintic_weights(p.t, order);
    const double scale = std::pow(kDesignKnots / (2 * kPi) * kTen_rad, order);
    for (std::size_t j = 0; j < w.size(); ++j) {
        const std::size_t knot = PeriodicSpline::wrap(p.knot, static_cast<int>(j) - 2, kDesignKnots);
        sum[std::min(knot, kDesignKnots - knot)] += scale * w[j];
    }
    return sum;
}

// The linear programme. Its first columns are second differences of the coefficients, d_j at the knots 1 to
// one past the foot: acceleration is then a matter of neighbours only, which keeps the programme well
// conditioned. As all coefficients outside are 0, c_i = sum over j > i of (j - i) d_j. Then comes one column
// for each limit, fixed at what is asked for or free to be minimised.
class Programme {
  public:
    Programme(const LobeGoals& goals, std::array<double, kLimits> limit)
        : problem_(glp_create_prob()),
          free_(static_cast<int>(std::ceil(foot_rad(goals) * kDesignKnots / (2 * kPi)))) {
        glp_prob* p = problem_.get();
        glp_add_cols(p, free_ + kLimits + 1);
        glp_set_col_bnds(p, limit_column(kRampJerk), GLP_LO, 0, 0);
        const double foot = foot_rad(goals), low = goals.low_duration_crank_rad / 4;
        for (int i = 0; i < free_; ++i)
            glp_set_col_bnds(p, i + 1, GLP_FR, 0, 0);
        for (int i = 0; i < kLimits; ++i) {
            const double asked = inner_limit(i, limit[static_cast<std::size_t>(i)]);
            if (asked > 0)
                glp_set_col_bnds(p, limit_column(i), GLP_FX, asked, asked);
            else
                glp_set_col_bnds(p, limit_column(i), i == Radius ? GLP_FR : GLP_LO, 0, 0);
        }
        add(row_at(0, 0), GLP_FX, goals.lift_m * 1e3);
        add(row_at(low, 0), GLP_FX, goals.low_height_m * 1e3);
        add(row_at(goals.high_duration_crank_rad / 4, 0), GLP_FX, goals.high_height_m * 1e3);
        add(with(row_at(low, 1), Ramp, 1), GLP_LO, 0);
        const int last = static_cast<int>((foot + radians(4)) / kGrid_rad);
        for (int step = 0; step <= last; ++step) {
            const double theta = step * kGrid_rad;
            const Row velocity = row_at(theta, 1), acceleration = row_at(theta, 2), jerk = row_at(theta, 3);
            add(velocity, GLP_UP, 0);
            add(with(acceleration, Acceleration, -1), GLP_UP, 0);
            add(with(acceleration, Deceleration, 1), GLP_LO, 0);
            add(with(jerk, Jerk, -1), GLP_UP, 0);
            add(with(jerk, Jerk, 1), GLP_LO, 0);
            if (theta >= low) {
                add(with(velocity, Ramp, 1), GLP_LO, 0);
                add(with(jerk, kRampJerk, -1), GLP_UP, 0);
                add(with(jerk, kRampJerk, 1), GLP_LO, 0);
            }
            // Below the high height the flank and the ramp only slow down towards the base circle.
            if (theta >= goals.high_duration_crank_rad / 4)
                add(acceleration, GLP_LO, 0);
            if (goals.least_radius_m > 0)
                add_radius(theta, goals.base_radius_m);
        }
        load();
    }

    void hold(int which, double most) { // inner units
        if (which == Radius)
            glp_set_col_bnds(problem_.get(), limit_column(which), GLP_LO, most, 0);
        else
            glp_set_col_bnds(problem_.get(), limit_column(which), GLP_UP, 0, most);
    }
    double limit(int which) const { return glp_get_col_prim(problem_.get(), limit_column(which)); }

    // Minimises (or, for the radius, maximises) one limit; false where there is no lobe.
    bool extreme(int which) {
        clear_aim();
        glp_set_obj_dir(problem_.get(), which == Radius ? GLP_MAX : GLP_MIN);
        glp_set_obj_coef(problem_.get(), limit_column(which), 1);
        return solve();
    } // The least jerk, and on the ramp less than that.
    bool smoothest() {
        clear_aim();
        glp_set_obj_dir(problem_.get(), GLP_MIN);
        glp_set_obj_coef(problem_.get(), limit_column(Jerk), 1);
        glp_set_obj_coef(problem_.get(), limit_column(kRampJerk), kRampWeight);
        return solve();
    }
    bool most_area() {
        clear_aim();
        glp_set_obj_dir(problem_.get(), GLP_MAX);
        const Row area = area_row();
        for (std::size_t j = 0; j < area.column.size(); ++j)
            glp_set_obj_coef(problem_.get(), area.column[j], area.value[j]);
        return solve();
    }
    void keep_area(double least) {
        add(area_row(), GLP_LO, least);
        load();
    }
    double area() const {
        const Row row = area_row();
        double sum = 0;
        for (std::size_t j = 0; j < row.column.size(); ++j)
            sum += row.value[j] * glp_get_col_prim(problem_.get(), row.column[j]);
        return sum;
    }
    PeriodicSpline spline() const {
        std::array<double, kHalf> half{};
        for (int i = 0; i < free_; ++i)
            for (int j = i + 1; j <= free_; ++j)
                half[static_cast<std::size_t>(i)] += (j - i) * glp_get_col_prim(problem_.get(), j);
        std::vector<double> c(kDesignKnots);
        for (std::size_t k = 0; k < kDesignKnots; ++k)
            c[k] = 1e-3 * half[std::min(k, kDesignKnots - k)];
        return PeriodicSpline(std::move(c));
    }

  private:
    struct Delete {
        void operator()(glp_prob* p) const { glp_delete_prob(p); }
    };
    int limit_column(int which) const { return free_ + 1 + which; }
    // Weights of the coefficients, as a row over the programme's columns.
    Row row_of(const std::array<double, kHalf>& weights) const {
        Row row;
        double sum = 0, slope = 0; // of the weights inside knot j: sum of w_i (j - i), sum of w_i
        for (int j = 1; j <= free_; ++j) {
            slope += weights[static_cast<std::size_t>(j - 1)];
            sum += slope;
            if (std::abs(sum) > kNothing) {
                row.column.push_back(j);
                row.value.push_back(sum);
            }
        }
        return row;
    }
    Row row_at(double theta_rad, int order) const { return row_of(weights_at(theta_rad, order)); }
    Row area_row() const {
        std::array<double, kHalf> weights;
        weights.fill(2);
        weights.front() = weights.back() = 1;
        return row_of(weights);
    }
    Row with(Row row, int which, double value) const {
        row.column.push_back(limit_column(which));
        row.value.push_back(value);
        return row;
    }
    // base radius + rise + acceleration per rad2 not under the least radius
    void add_radius(double theta, double base_radius_m) {
        std::array<double, kHalf> weights = weights_at(theta, 0);
        const std::array<double, kHalf> bend = weights_at(theta, 2);
        for (std::size_t i = 0; i < weights.size(); ++i)
            weights[i] += bend[i] / (kTen_rad * kTen_rad);
        add(with(row_of(weights), Radius, -1), GLP_LO, -base_radius_m * 1e3);
    }
    void add(const Row& row, int kind, double bound) {
        const int at = glp_add_rows(problem_.get(), 1);
        glp_set_row_bnds(problem_.get(), at, kind, bound, bound);
        for (std::size_t j = 0; j < row.column.size(); ++j) {
            row_index_.push_back(at);
            column_index_.push_back(row.column[j]);
            value_.push_back(row.value[j]);
        }
    }
    void load() {
        glp_load_matrix(problem_.get(), static_cast<int>(value_.size()) - 1, row_index_.data(),
                        column_index_.data(), value_.data());
    }
    void clear_aim() {
        for (int i = 0; i <= free_ + kLimits + 1; ++i)
            glp_set_obj_coef(problem_.get(), i, 0);
    }
    // Another way where one loses its footing: a programme of many nearly equal rows can do that.
    bool solve() {
        glp_smcp how;
        glp_init_smcp(&how);
        how.msg_lev = GLP_MSG_OFF;
        for (const int way : {0, 1, 2}) {
            how.presolve = way == 0 ? GLP_ON : GLP_OFF;
            how.meth = way == 2 ? GLP_PRIMAL : GLP_DUALP;
            if (way > 0) {
                glp_scale_prob(problem_.get(), GLP_SF_AUTO);
                way == 1 ? glp_adv_basis(problem_.get(), 0) : glp_std_basis(problem_.get());
            }
            const int end = glp_simplex(problem_.get(), &how), status = glp_get_status(problem_.get());
            if (end == 0 && status == GLP_OPT)
                return true;
            if (end == GLP_ENOPFS || (end == 0 && (status == GLP_NOFEAS || status == GLP_INFEAS)))
                return false;
        }
        refuse("", "the optimisation lost its footing on these goals", "change one of them by a little");
    }

    std::unique_ptr<glp_prob, Delete> problem_;
    int free_;                                              // columns that make the lobe
    std::vector<int> row_index_ = {0}, column_index_ = {0}; // GLPK counts from 1
    std::vector<double> value_ = {0};
};

// Why no lobe meets the goals: what each limit alone would have to be, the others as asked.
[[noreturn]] void say_what_binds(const LobeGoals& goals, const std::stop_token& stop) {
    const auto asked = limits_of(goals);
    std::string needs;
    for (int i = 0; i < kLimits; ++i) {
        const auto k = static_cast<std::size_t>(i);
        if (!(asked[k] > 0))
            continue;
        throw_if_stopped(stop);
        auto loose = asked;
        loose[k] = 0;
        Programme programme(goals, loose);
        if (!programme.extreme(i))
            continue;
        const double inner = programme.limit(i), per_deg = std::pow(0.1, kLimitKinds[i].order);
        const char* unit[] = {"mm", "mm/deg", "mm/deg2", "mm/deg3"};
        const double value = i == Radius ? inner : inner * per_deg;
        const double limit = i == Radius ? asked[k] * 1e3 : asked[k] * per_si(kLimitKinds[i].order) * per_deg;
        needs += fmt::format("{}{}: needs {:.3g} {}, allowed {:.3g}", needs.empty() ? "" : "; ",
                             kLimitKinds[i].label, value, unit[kLimitKinds[i].order], limit);
    }
    if (needs.empty())
        refuse("", "no lobe has this lift with these durations at these heights under these limits",
               "loosen more than one limit, or bring the two durations and the lift closer together");
    refuse("", "no lobe meets all goals; what binds, each alone: " + needs,
           "loosen one of these limits, lengthen the low duration, or ask for less lift");
}

std::vector<DesignLimit> used(const LobeGoals& goals, const PeriodicSpline& spline) {
    const auto asked = limits_of(goals);
    std::array<double, kLimits> value{};
    value[Radius] = 1e9;
    const double low = goals.low_duration_crank_rad / 4;
    for (double theta = 0; theta < kPi; theta += 0.1 * kPi / 180) {
        const double a = spline.at(theta, 2);
        value[Acceleration] = std::max(value[Acceleration], a);
        value[Deceleration] = std::max(value[Deceleration], -a);
        value[Jerk] = std::max(value[Jerk], std::abs(spline.at(theta, 3)));
        if (theta >= low)
            value[Ramp] = std::max(value[Ramp], -spline.at(theta, 1));
        if (goals.base_radius_m > 0)
            value[Radius] = std::min(value[Radius], goals.base_radius_m + spline.at(theta, 0) + a);
    }
    std::vector<DesignLimit> out;
    for (int i = 0; i < kLimits; ++i) {
        const auto k = static_cast<std::size_t>(i);
        if (i == Radius && !(goals.least_radius_m > 0))
            value[k] = 0;
        const bool binds =
            asked[k] > 0 && (i == Radius ? value[k] * kBinds <= asked[k] : value[k] >= kBinds * asked[k]);
        out.push_back(
            {kLimitKinds[i].key, kLimitKinds[i].label, kLimitKinds[i].order, asked[k], value[k], binds});
    }
    return out;
}

LobeTable table_of(const PeriodicSpline& spline) {
    LobeTable table;
    table.noise_m = 0.01e-6; // it is exact; the smoothing then goes through every reading
    for (int i = -360; i < 360; ++i) {
        table.angle.push_back(0.5 * i);
        table.lift.push_back(std::max(0.0, spline.at(radians(0.5 * i), 0) * 1e3));
    }
    return table;
}

} // namespace

LobeDesign design_lobe(const LobeGoals& goals, const std::stop_token& stop) {
    check_goals(goals);
    const GlpkHere here;
    Programme programme(goals, limits_of(goals));
    const int aim = goals.aim == DesignAim::LeastDeceleration ? Deceleration : Jerk;
    const auto asked = limits_of(goals);
    for (int i = 0; i < kLimits; ++i)
        if (const auto k = static_cast<std::size_t>(i); asked[k] > 0)
            programme.hold(i, inner_limit(i, asked[k]));
    const bool found = goals.aim == DesignAim::MostArea ? programme.most_area() : programme.extreme(aim);
    if (!found)
        say_what_binds(goals, stop);
    throw_if_stopped(stop);
    // Of all lobes that are nearly as good, the one with the least jerk.
    if (goals.aim == DesignAim::MostArea)
        programme.keep_area(programme.area() * (1 - kAimSlack));
    else if (aim == Deceleration)
        programme.hold(Deceleration, programme.limit(Deceleration) * (1 + kAimSlack));
    else
        programme.hold(Jerk, programme.limit(Jerk) * (1 + kAimSlack));
    if (!programme.smoothest())
        say_what_binds(goals, stop);
    const PeriodicSpline spline = programme.spline();
    LobeDesign out;
    out.limits = used(goals, spline);
    out.table = table_of(spline);
    for (const double rise : out.table.lift)
        out.area_m_rad += rise * 1e-3 * radians(0.5);
    return out;
}

std::vector<TradePoint> trade_of(const LobeGoals& goals, std::size_t points, const std::stop_token& stop) {
    LobeGoals ask = goals;
    ask.most_deceleration_m_per_rad2 = 0;
    ask.aim = DesignAim::LeastDeceleration;
    const double least = design_lobe(ask, stop).limits[Deceleration].value;
    ask.aim = DesignAim::MostArea;
    const double most = std::max(design_lobe(ask, stop).limits[Deceleration].value, 1.02 * least);
    std::vector<TradePoint> out;
    for (std::size_t i = 0; i < points; ++i) {
        throw_if_stopped(stop);
        const double share = static_cast<double>(i) / static_cast<double>(points - 1);
        ask.most_deceleration_m_per_rad2 = least * std::pow(most / least, share) * 1.005;
        const LobeDesign d = design_lobe(ask, stop);
        out.push_back(
            {d.limits[Deceleration].value, d.area_m_rad, d.limits[Acceleration].value, d.limits[Jerk].value});
    }
    return out;
}

} // namespace bathmos
