#include "core/bench/spring_sheet.h"

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
constexpr double kTallest_m = 0.5, kMost_N = 1e5;      // that a bench presses
constexpr double kSameHeight_m = 5e-6;
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

// Where the curve meets the line through what was read beyond solid; with one reading there, halfway to it as
// far as its load allows.
Figure solid_of(const std::vector<Point>& way, const Above& above, const Curve& curve, double height_own_m) {
    const std::vector<Point> beyond(way.begin() + static_cast<std::ptrdiff_t>(above.count), way.end());
    const double last_m = way[above.count - 1].height_m, first_m = beyond.front().height_m;
    const double rub = curve.rub() ? way.front().rub * curve.rub()->value : 0;
    const auto over = [&](const Point& p) { return p.load_N - rub - curve.at(p.height_m); };
    // the excess over the curve falls on a line whose zero is solid
    double mean_h = 0, mean_e = 0, hh = 0, he = 0;
    const auto n = static_cast<double>(beyond.size());
    for (const Point& p : beyond) {
        mean_h += p.height_m / n;
        mean_e += over(p) / n;
    }
    for (const Point& p : beyond) {
        hh += std::pow(p.height_m - mean_h, 2);
        he += (p.height_m - mean_h) * (over(p) - mean_e);
    }
    if (!(he < 0)) { // one reading, or several that do not rise
        const double most =
            std::clamp(over(beyond.front()) / (kSolidRate * above.rate_N_per_m), 0.0, last_m - first_m);
        return {first_m + most / 2, std::hypot(most / std::sqrt(12.0), height_own_m)};
    }
    const double slope = he / hh, at = mean_h - mean_e / slope;
    const double sd = curve.reading_sd() / std::abs(slope) * std::sqrt(1 / n + std::pow(at - mean_h, 2) / hh);
    return {std::clamp(at, first_m, last_m), std::hypot(sd, height_own_m)};
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
        load.sd = std::hypot(load.sd, out.rate_N_per_m.value * height_own_m);
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
    const Above above = above_solid(way);
    if (above.count < 2)
        refuse("height_mm", "the spring is solid at nearly all of these heights", "read it above solid, too");
    const double lowest_m = way[above.count - 1].height_m - kSameHeight_m;
    std::vector<Point> clear;
    for (const Point& p : points)
        if (p.height_m > lowest_m)
            clear.push_back(p);
    const Curve curve = curve_of(clear, above.count);

    SpringFigures out;
    const double height_own_m = sheet.height_resolution_m / std::sqrt(12.0);
    out.rate_N_per_m = curve.rate(curve.high_m(), curve.low_m());
    out.friction_N = curve.rub();
    if (above.reached)
        out.solid_m = solid_of(way, above, curve, height_own_m);
    else
        out.told.push_back(
            {"solid_not_reached",
             {"nowhere stiff down to {}: solid is lower", {{Quantity::Length, way.back().height_m}}}});
    at_the_build(sheet, curve, height_own_m, out);
    check_entries(sheet, out);
    const auto drift =
        told_of_drift(sheet.load_N, "the load cell", Quantity::Force, out.seat_N ? out.seat_N->value : 0);
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
