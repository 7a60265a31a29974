#include "core/bench/spring_sheet.h"

#include "core/bench/straight_line.h"
#include "core/math/robust.h"

#include <Eigen/Cholesky>
#include <Eigen/QR>
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <map>

namespace bathmos::bench {

namespace {

constexpr double kSolidRate = 10, kAlreadyStiff = 2.5; // times the median local rate
constexpr double kTouching = 4, kTouchingShare = 0.01; // deviations and share of the load over the curve
constexpr double kTallest_m = 0.5, kMost_N = 1e5;      // that a bench presses
constexpr double kSameHeight_m = 5e-6;
constexpr double kSetShare = 0.005, kLean = 0.0524; // of the free length; tangent of 3 degrees
constexpr double kEntryShare = 0.05, kBeyondRange = 0.1;
constexpr double kLeastNoise = 1e-6; // share of the load that no reading is better than

struct Point {
    double height_m, load_N, sd_N, rub; // rub: +1 down, -1 up, 0 where only one direction was read
};

std::vector<Point> points_of(const SpringSheet& sheet) {
    const std::vector<Figure> loads = means_of(sheet.load_N);
    if (sheet.height_m.size() != loads.size() || (!sheet.going.empty() && sheet.going.size() != loads.size()))
        refuse("load_N",
               fmt::format("{} heights, {} loads and {} directions", sheet.height_m.size(), loads.size(),
                           sheet.going.size()),
               "give one load, and one direction if any, for each height");
    const auto up = static_cast<std::size_t>(std::count(sheet.going.begin(), sheet.going.end(), Going::Up));
    const bool both = up > 0 && up < sheet.going.size();
    std::vector<Point> out;
    for (std::size_t i = 0; i < loads.size(); ++i)
        out.push_back({sheet.height_m[i], loads[i].value, loads[i].sd,
                       !both                         ? 0.0
                       : sheet.going[i] == Going::Up ? -1.0
                                                     : 1.0});
    return out;
}

// Mean load at each height of one direction, tallest first.
std::vector<Point> one_way(const std::vector<Point>& points) {
    std::size_t down = 0;
    for (const Point& p : points)
        down += p.rub >= 0 ? 1 : 0;
    const bool take_down = 2 * down >= points.size();
    std::vector<Point> sorted;
    for (const Point& p : points)
        if ((p.rub >= 0) == take_down)
            sorted.push_back(p);
    std::stable_sort(sorted.begin(), sorted.end(),
                     [](const Point& a, const Point& b) { return a.height_m > b.height_m; });
    std::vector<Point> out;
    double count = 0;
    for (const Point& p : sorted)
        if (!out.empty() && out.back().height_m - p.height_m < kSameHeight_m) {
            out.back().load_N += (p.load_N - out.back().load_N) / ++count;
        } else {
            out.push_back(p);
            count = 1;
        }
    return out;
}

// How many of the heights, tallest first, are above solid; and the median local rate.
struct Above {
    std::size_t count = 0;
    double rate_N_per_m = 0;
    bool reached = false;
};
Above above_solid(const std::vector<Point>& way) {
    std::vector<double> rate;
    for (std::size_t i = 1; i < way.size(); ++i)
        rate.push_back((way[i].load_N - way[i - 1].load_N) / (way[i - 1].height_m - way[i].height_m));
    Above out{way.size(), median(rate), false};
    if (!(out.rate_N_per_m > 0))
        refuse("load_N",
               fmt::format("falls as the spring is pressed, by {:.3g} N/mm", out.rate_N_per_m / 1e3),
               "heights and loads, or up and down, may be exchanged");
    for (std::size_t i = 0; i < rate.size() && !out.reached; ++i)
        if (rate[i] > kSolidRate * out.rate_N_per_m) {
            out.reached = true;
            out.count = i + 1;
            while (out.count > 2 && rate[out.count - 2] > kAlreadyStiff * out.rate_N_per_m)
                --out.count;
        }
    return out;
}

// A polynomial in the height, with half of the loop as a step, by least squares.
class Curve {
  public:
    Curve(const std::vector<Point>& points, int degree) : degree_(degree), points_(points) {
        low_ = high_ = points.front().height_m;
        bool down = false, up = false;
        for (const Point& p : points) {
            low_ = std::min(low_, p.height_m);
            high_ = std::max(high_, p.height_m);
            down = down || p.rub > 0;
            up = up || p.rub < 0;
        }
        rub_ = down && up; // one direction alone does not part it from the load
        const auto n = static_cast<Eigen::Index>(points.size());
        Eigen::MatrixXd x(n, terms());
        Eigen::VectorXd y(n);
        double own = 0, largest = 0;
        for (Eigen::Index i = 0; i < n; ++i) {
            const Point& p = points[static_cast<std::size_t>(i)];
            x.row(i) = row(p.height_m, p.rub);
            y(i) = p.load_N;
            own += p.sd_N * p.sd_N / static_cast<double>(n);
            largest = std::max(largest, std::abs(p.load_N));
        }
        c_ = x.colPivHouseholderQr().solve(y);
        const double least = std::max(own, std::pow(kLeastNoise * largest, 2)),
                     count = static_cast<double>(n), k = static_cast<double>(terms());
        const double squares = (y - x * c_).squaredNorm();
        variance_ = std::max(least, std::pow(by_student(std::sqrt(squares / (count - k)), count - k), 2));
        covariance_ =
            variance_ * (x.transpose() * x).ldlt().solve(Eigen::MatrixXd::Identity(terms(), terms()));
        const double mean_square = squares / count + least;
        criterion_ = count * std::log(mean_square) + 2 * k +
                     (count - k - 2 > 0 ? 2 * (k + 1) * (k + 2) / (count - k - 2)
                                        : std::numeric_limits<double>::infinity());
    }

    Eigen::Index terms() const { return degree_ + 1 + (rub_ ? 1 : 0); }
    double criterion() const { return criterion_; }
    double low_m() const { return low_; }
    double high_m() const { return high_; }
    double at(double height_m) const { return row(height_m, 0).dot(c_); }
    Figure load(double height_m) const { return by(row(height_m, 0)); }
    /// Mean rate between two heights.
    Figure rate(double tall_m, double short_m) const {
        return by((row(short_m, 0) - row(tall_m, 0)) / (tall_m - short_m));
    }
    std::optional<Figure> rub() const {
        if (!rub_)
            return std::nullopt;
        Eigen::RowVectorXd only = Eigen::RowVectorXd::Zero(terms());
        only(terms() - 1) = 1;
        return by(only);
    }
    double reading_sd() const { return std::sqrt(variance_); }

  private:
    Eigen::RowVectorXd row(double height_m, double rub) const {
        Eigen::RowVectorXd out(terms());
        const double t = (2 * height_m - low_ - high_) / (high_ - low_);
        for (int k = 0; k <= degree_; ++k)
            out(k) = std::pow(t, k);
        if (rub_)
            out(terms() - 1) = rub;
        return out;
    }
    Figure by(const Eigen::RowVectorXd& weights) const {
        return {weights.dot(c_), std::sqrt((weights * covariance_ * weights.transpose()).value())};
    }

    int degree_;
    std::vector<Point> points_;
    double low_ = 0, high_ = 0, variance_ = 0, criterion_ = 0;
    bool rub_ = false;
    Eigen::VectorXd c_;
    Eigen::MatrixXd covariance_;
};

Curve curve_of(const std::vector<Point>& points, std::size_t heights) {
    std::optional<Curve> best;
    for (int degree = 1; degree <= 3 && static_cast<std::size_t>(degree) < heights; ++degree) {
        const auto freedom = static_cast<double>(points.size()) - degree - 2;
        if (degree > 1 && freedom < 1)
            break;
        Curve one(points, degree);
        if (!best || one.criterion() < best->criterion())
            best = std::move(one);
    }
    return *best;
}

// Points taller than a height.
std::vector<Point> taller_than(const std::vector<Point>& points, double height_m) {
    std::vector<Point> out;
    for (const Point& p : points)
        if (p.height_m > height_m)
            out.push_back(p);
    return out;
}

// The reading just before the stiff ones may lie beyond solid itself, by too little for its local rate to
// show it: then it stands above the curve through those before it.
void leave_out_touching(const std::vector<Point>& points, const std::vector<Point>& way, Above& above) {
    while (above.reached && above.count > 3) {
        const Point& last = way[above.count - 1];
        const std::vector<Point> before =
            taller_than(points, way[above.count - 2].height_m - kSameHeight_m); // on the way back, too
        if (before.size() < 4)
            return;
        const Curve curve = curve_of(before, above.count - 1);
        const Figure expected = curve.load(last.height_m);
        const double rub = curve.rub() ? last.rub * curve.rub()->value : 0;
        const double over = last.load_N - rub - expected.value;
        if (over <= kTouching * std::hypot(curve.reading_sd(), expected.sd) ||
            over <= kTouchingShare * last.load_N)
            return;
        --above.count;
    }
}

// Where the curve meets the line through all that was read beyond solid, in both directions; with one reading
// there, halfway to it as far as its load allows.
Figure solid_of(const std::vector<Point>& points, const std::vector<Point>& way, const Above& above,
                const Curve& curve, double height_own_m) {
    const double last_m = way[above.count - 1].height_m, first_m = way[above.count].height_m;
    const double rub = curve.rub() ? curve.rub()->value : 0;
    std::vector<double> height, excess; // over the curve; it falls on a line whose zero is solid
    for (const Point& p : points)
        if (p.height_m < last_m - kSameHeight_m) {
            height.push_back(p.height_m);
            excess.push_back(p.load_N - p.rub * rub - curve.at(p.height_m));
        }
    const auto [low, high] = std::ranges::minmax(height);
    const bool line_is_there = high - low > kSameHeight_m;
    const StraightLine line =
        line_is_there ? line_through(height, excess, curve.reading_sd()) : StraightLine{};
    if (!(line.slope.value < 0)) { // one reading, or several that do not rise
        const double over_N = way[above.count].load_N - way.front().rub * rub - curve.at(first_m);
        const double most = std::clamp(over_N / (kSolidRate * above.rate_N_per_m), 0.0, last_m - first_m);
        return {first_m + most / 2, std::hypot(most / std::sqrt(12.0), height_own_m)};
    }
    const double slope = -line.slope.value, at = -line.at_zero.value / line.slope.value;
    const auto n = static_cast<double>(height.size());
    double mean_m = 0, spread = 0;
    for (const double one : height)
        mean_m += one / n;
    for (const double one : height)
        spread += (one - mean_m) * (one - mean_m);
    // a reading is off by its load and by its height, both along this line; more where the line shows it
    const double one_m =
        std::max(line.residual_sd / slope, std::hypot(curve.reading_sd() / slope, height_own_m));
    return {std::clamp(at, first_m, last_m), one_m * std::sqrt(1 / n + std::pow(at - mean_m, 2) / spread)};
}

// Loads, rate and margin at the build's own heights.
void at_the_build(const SpringSheet& sheet, const Curve& curve, double height_own_m, SpringFigures& out) {
    const double reach_m = kBeyondRange * (curve.high_m() - curve.low_m());
    const auto load_at = [&](double height_m, const char* what) {
        if (height_m > curve.high_m() + reach_m || height_m < curve.low_m() - reach_m)
            out.told.push_back(
                {"beyond_readings",
                 {std::string(what) + " height {} is beyond what was read", {{Quantity::Length, height_m}}}});
        Figure load = curve.load(height_m);
        // every load rests on the same zeros, which scatter as the readings do
        const double zero_sd =
            sheet.load_N.zeros() > 0 ? curve.reading_sd() / std::sqrt(sheet.load_N.zeros()) : 0;
        load.sd = std::hypot(load.sd, out.rate_N_per_m.value * height_own_m, zero_sd);
        return load;
    };
    if (!sheet.installed_height_m)
        return;
    out.seat_N = load_at(*sheet.installed_height_m, "installed");
    if (!sheet.valve_lift_m)
        return;
    const double open_m = *sheet.installed_height_m - *sheet.valve_lift_m;
    out.open_N = load_at(open_m, "open");
    out.rate_N_per_m = curve.rate(*sheet.installed_height_m, open_m);
    if (out.solid_m)
        out.margin_m = Figure{open_m - out.solid_m->value, out.solid_m->sd};
}

// A drift is the difference of two zeros and as unsure as they are; spread over the readings it tilts the way
// down against the way up, by as much of it as lies between them, or the one way that was read.
void add_drift(const Readings& load_N, const std::vector<Point>& points, const Curve& curve,
               SpringFigures& out) {
    if (load_N.zeros() < 2)
        return;
    const double drift_sd = std::sqrt(2.0) * curve.reading_sd();
    if (!out.friction_N) {
        out.rate_N_per_m.sd = std::hypot(out.rate_N_per_m.sd, drift_sd / (curve.high_m() - curve.low_m()));
        return;
    }
    double place[2] = {0, 0}, count[2] = {0, 0}; // of the readings up, and down
    for (std::size_t i = 0; i < points.size(); ++i)
        if (points[i].height_m >= curve.low_m()) {
            place[points[i].rub > 0] += static_cast<double>(i);
            ++count[points[i].rub > 0];
        }
    const double between =
        std::abs(place[0] / count[0] - place[1] / count[1]) / static_cast<double>(points.size() + 1);
    out.friction_N->sd = std::hypot(out.friction_N->sd, drift_sd * between / 2);
}

// A spring that is shorter once it was pressed has taken a set; one that leans loads the stem sideways.
void check_shape(const SpringSheet& sheet, SpringFigures& out) {
    if (sheet.free_length_m && sheet.free_after_m)
        if (const double lost = *sheet.free_length_m - *sheet.free_after_m;
            lost > kSetShare * *sheet.free_length_m)
            out.told.push_back(
                {"set",
                 {"it stands {} shorter after it was pressed to solid: it has taken a set, press it "
                  "again and measure what is left",
                  {{Quantity::Length, lost}}}});
    const double tall = sheet.free_length_m.value_or(0);
    if (sheet.lean_m && tall > 0 && *sheet.lean_m > kLean * tall)
        out.told.push_back({"leans",
                            {"it leans by {} at the top, over 3 degrees: it pushes the stem aside",
                             {{Quantity::Length, *sheet.lean_m}}}});
}

void check_entries(const SpringSheet& sheet, SpringFigures& out) {
    const ClaimedSpring& claimed = sheet.claimed;
    if (claimed.seat_N && claimed.open_N && sheet.valve_lift_m) {
        const double rate = claimed.rate_N_per_m.value_or(out.rate_N_per_m.value);
        const double open = *claimed.seat_N + rate * *sheet.valve_lift_m;
        if (std::abs(open / *claimed.open_N - 1) > kEntryShare)
            out.told.push_back({"entry",
                                {"{} on the seat and {} over a lift of {} make {} open, {} is written: one "
                                 "of them is of another column, unit or height",
                                 {{Quantity::Force, *claimed.seat_N},
                                  {Quantity::Stiffness, rate},
                                  {Quantity::Length, *sheet.valve_lift_m},
                                  {Quantity::Force, open},
                                  {Quantity::Force, *claimed.open_N}}}});
    }
    const auto beside = [&](const char* what, std::optional<double> written, std::optional<Figure> read) {
        if (written && read && std::abs(*written / read->value - 1) > kEntryShare)
            out.told.push_back(
                {"not_as_claimed",
                 {std::string(what) +
                      " is {} by these readings, {} is written: another spring, height or unit",
                  {{Quantity::Force, read->value}, {Quantity::Force, *written}}}});
    };
    beside("seat load", claimed.seat_N, out.seat_N);
    beside("open load", claimed.open_N, out.open_N);
}

} // namespace

SpringFigures figures_of(const SpringSheet& sheet) {
    require_between("height_mm", Quantity::Length, sheet.height_m, 1e-3, kTallest_m);
    require_between("load_N", Quantity::Force, all_of(sheet.load_N), -100, kMost_N);
    if (sheet.installed_height_m)
        require_between("installed_height_mm", Quantity::Length, {*sheet.installed_height_m}, 1e-3,
                        kTallest_m);
    if (sheet.valve_lift_m)
        require_between("valve_lift_mm", Quantity::Length, {*sheet.valve_lift_m}, 0,
                        sheet.installed_height_m.value_or(kTallest_m));
    const std::vector<Point> points = points_of(sheet), way = one_way(points);
    if (way.size() < 3)
        refuse("height_mm", fmt::format("{} heights in one direction", way.size()),
               "read the load at three heights or more");
    Above above = above_solid(way);
    leave_out_touching(points, way, above);
    if (above.count < 2)
        refuse("height_mm", "the spring is solid at nearly all of these heights", "read it above solid, too");
    const double lowest_m = way[above.count - 1].height_m - kSameHeight_m;
    const Curve curve = curve_of(taller_than(points, lowest_m), above.count);

    SpringFigures out;
    const double height_own_m = sheet.height_resolution_m / std::sqrt(12.0);
    out.rate_N_per_m = curve.rate(curve.high_m(), curve.low_m());
    out.friction_N = curve.rub();
    if (above.reached)
        out.solid_m = solid_of(points, way, above, curve, height_own_m);
    else
        out.told.push_back(
            {"solid_not_reached",
             {"nowhere stiff down to {}: solid is lower", {{Quantity::Length, way.back().height_m}}}});
    at_the_build(sheet, curve, height_own_m, out);
    add_drift(sheet.load_N, points, curve, out);
    check_entries(sheet, out);
    check_shape(sheet, out);
    if (sheet.mass_kg && *sheet.mass_kg > 0 && out.rate_N_per_m.value > 0)
        out.surge_Hz =
            0.5 * std::sqrt(out.rate_N_per_m.value / (sheet.active_share * *sheet.mass_kg)); // [Wahl]
    const auto drift = told_of_drift(sheet.load_N, "the load cell", Quantity::Force,
                                     out.seat_N ? out.seat_N->value : 0, curve.reading_sd());
    out.told.insert(out.told.end(), drift.begin(), drift.end());
    for (const std::size_t place : to_repeat(sheet.load_N))
        out.told.push_back({"repeat",
                            {"readings at {} differ by more than they should: read it again",
                             {{Quantity::Length, sheet.height_m[place]}}}});
    for (std::size_t i = above.count; i-- > 0;) {
        out.curve_height_m.push_back(way[i].height_m);
        out.curve_load_N.push_back(curve.at(way[i].height_m));
    }
    return out;
}

} // namespace bathmos::bench
