#include "core/lobe/lobe_fit.h"

#include "core/lobe/base_circle.h"
#include "core/math/robust.h"
#include "core/math/roots.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kClosedWithin_m = 0.05e-3; // how far an end of the event may stand off the base circle

[[noreturn]] void refuse(std::string place, std::string what, std::string mend) {
    throw InputError({"", "lobe.table" + place, std::move(what), std::move(mend)});
}

void check_readings(const LobeTable& table) {
    if (table.angle.size() != table.lift.size())
        refuse("", fmt::format("{} angles but {} lifts", table.angle.size(), table.lift.size()),
               "give one lift for each angle");
    if (table.angle.size() < kLobeMinReadings)
        refuse("", fmt::format("only {} readings", table.angle.size()),
               fmt::format("a profile needs at least {}, every 5 cam degrees or closer", kLobeMinReadings));
    for (std::size_t i = 0; i < table.angle.size(); ++i) {
        if (!std::isfinite(table.angle[i]) || !std::isfinite(table.lift[i]))
            refuse(fmt::format("[{}]", i), "is not a number", "give angle and lift as plain numbers");
        if (i > 0 && !(table.angle[i] > table.angle[i - 1]))
            refuse(fmt::format(".angle[{}]", i),
                   fmt::format("{} follows {}", table.angle[i], table.angle[i - 1]),
                   "angles must increase from reading to reading");
    }
}

// The readings that count, in SI, with the base circle's step taken off.
LobeReadings counted(const LobeTable& table) {
    const double per_angle = radians(table.angle_unit == AngleUnit::CamDegree ? 1.0 : 0.5);
    const double per_lift = table.lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m;
    const BaseCircle base = table.base == BaseStep::AsGauged ? BaseCircle{} : base_circle_of(table);
    LobeReadings out;
    for (std::size_t i = 0; i < table.angle.size(); ++i) {
        if (std::find(table.left_out.begin(), table.left_out.end(), i) != table.left_out.end())
            continue;
        const double angle = table.angle[i] * per_angle;
        const double off = table.base == BaseStep::RunoutOff ? base.at(angle) : base.zero_m;
        out.angle_rad.push_back(angle);
        out.cam_lift_m.push_back(table.lift[i] * per_lift - off);
        out.place.push_back(i);
    }
    if (out.angle_rad.size() < kLobeMinReadings)
        refuse(".left_out", fmt::format("only {} readings are left", out.angle_rad.size()),
               "take readings back that were left out");
    return out;
}

// A full turn may repeat its first reading at the end.
void drop_repeated_end(LobeReadings& out) {
    const double span = out.angle_rad.back() - out.angle_rad.front();
    if (span > 2 * kPi + 1e-9)
        refuse(".angle", fmt::format("the readings span {:.1f} cam degrees", degrees(span)),
               "give one turn of the cam at most, and check whether angles are cam or crank degrees");
    if (span < 2 * kPi - 1e-9)
        return;
    if (std::abs(out.cam_lift_m.back() - out.cam_lift_m.front()) > kClosedWithin_m)
        refuse(".lift",
               fmt::format("the lobe is not closed: {:.3f} mm at the start, {:.3f} mm a turn later",
                           out.cam_lift_m.front() * 1e3, out.cam_lift_m.back() * 1e3),
               "both must be the same place on the cam; gauge it again");
    out.angle_rad.pop_back();
    out.cam_lift_m.pop_back();
    out.place.pop_back();
}

void fill_with_base_circle(LobeReadings& out) {
    std::vector<double> steps;
    for (std::size_t i = 1; i < out.measured; ++i)
        steps.push_back(out.angle_rad[i] - out.angle_rad[i - 1]);
    const double step = median(steps);
    const double missing = 2 * kPi - (out.angle_rad.back() - out.angle_rad.front());
    if (missing <= 1.5 * step)
        return;
    for (const double end : {out.cam_lift_m.front(), out.cam_lift_m.back()})
        if (std::abs(end) > kClosedWithin_m)
            refuse(".lift",
                   fmt::format("the lobe is not closed: it ends {:.3f} mm off the base circle", end * 1e3),
                   "gauge on until the cam lift is 0 on both sides (within 0.05 mm), or give the full turn");
    const auto fill = static_cast<int>(std::floor(missing / step - 0.5));
    for (int i = 1; i <= fill; ++i) {
        out.angle_rad.push_back(out.angle_rad[out.measured - 1] + missing * i / (fill + 1));
        out.cam_lift_m.push_back(0);
    }
}

// What the readings ask of the coefficients: normal matrix and right-hand side of least squares.
struct System {
    PeriodicBand normal{kLobeKnots};
    std::vector<double> right = std::vector<double>(kLobeKnots, 0.0);
};

System system_of(const LobeReadings& readings) {
    System out;
    for (std::size_t i = 0; i < readings.angle_rad.size(); ++i) {
        const PeriodicSpline::Place p = PeriodicSpline::place(readings.angle_rad[i], kLobeKnots);
        const auto w = quintic_weights(p.t, 0);
        for (std::size_t a = 0; a < w.size(); ++a) {
            const std::size_t row = PeriodicSpline::wrap(p.knot, static_cast<int>(a) - 2, kLobeKnots);
            out.right[row] += w[a] * readings.cam_lift_m[i];
            for (std::size_t b = a; b < w.size(); ++b)
                out.normal.at(row, b - a) += w[a] * w[b];
        }
    }
    return out;
}

// Fourth difference i takes the coefficients i .. i+4.
constexpr std::array<double, 5> kDifference = {1, -4, 6, -4, 1};

double difference(const std::vector<double>& c, std::size_t i) {
    double sum = 0;
    for (std::size_t j = 0; j < kDifference.size(); ++j)
        sum += kDifference[j] * c[(i + j) % c.size()];
    return sum;
}

// One fit under given variances of the fourth differences.
struct LobeFit {
    std::vector<double> coefficients;
    PeriodicBand covariance; // of the coefficients, per unit of noise variance
    double rms_m = 0;
    double parameters = 0; // trace of the hat matrix
};

class Smoother {
  public:
    explicit Smoother(const LobeReadings& readings) : readings_(readings), system_(system_of(readings)) {}

    // `penalty`: noise variance over the difference's variance, at each knot.
    // The residual costs a look at every reading, and few rounds ask for it.
    LobeFit fit(const std::vector<double>& penalty, bool with_residual = true) const {
        PeriodicBand matrix = system_.normal;
        for (std::size_t i = 0; i < kLobeKnots; ++i)
            for (std::size_t a = 0; a < kDifference.size(); ++a)
                for (std::size_t b = a; b < kDifference.size(); ++b)
                    matrix.at((i + a) % kLobeKnots, b - a) += penalty[i] * kDifference[a] * kDifference[b];
        const PeriodicBandFactor factor(matrix);
        LobeFit out{factor.solve(system_.right), factor.inverse_band()};
        for (std::size_t i = 0; i < kLobeKnots; ++i)
            for (std::size_t k = 0; k <= PeriodicBand::kReach; ++k)
                out.parameters += (k == 0 ? 1 : 2) * system_.normal.at(i, k) * out.covariance.at(i, k);
        if (!with_residual)
            return out;
        const PeriodicSpline spline(out.coefficients);
        for (std::size_t i = 0; i < readings_.measured; ++i)
            out.rms_m += std::pow(readings_.cam_lift_m[i] - spline.at(readings_.angle_rad[i], 0), 2);
        out.rms_m = std::sqrt(out.rms_m / static_cast<double>(readings_.measured));
        return out;
    }

    std::size_t readings() const { return readings_.angle_rad.size(); }
    std::size_t measured() const { return readings_.measured; }

  private:
    const LobeReadings& readings_;
    System system_;
};

// The one penalty whose residual is the noise: the discrepancy principle.
std::vector<double> even_penalty(const Smoother& smoother, double noise_m) {
    const auto all = [](double log10) { return std::vector<double>(kLobeKnots, std::pow(10, log10)); };
    const auto excess = [&](double log10) { return smoother.fit(all(log10)).rms_m - noise_m; };
    return all(find_root(excess, -9, 9, 1e-3)); // the residual grows with the penalty
}

constexpr int kAlike = 20;           // knots either side whose differences speak for one knot, fading out
constexpr double kPrior = 12;        // differences' worth of the floor, so that quiet stretches stay quiet
constexpr double kFloorShare = 1e-3; // of the mean variance: the floor
constexpr int kTogether = 6;         // first rounds with one variance for all
constexpr int kRounds = 24;          // the fixed point is within the noise of itself by then
// A spike of a few degrees: its knots' own variance, where it exceeds that of the stretch around 45 times.
// Less than that is seen in noise.
constexpr int kSpike = 3;
constexpr double kSpikeRatio = 45, kSpikePrior = 0.1;

// A sum of squared differences and how many of them the readings settle.
struct Evidence {
    double squares = 0, settled = 0;
    void add(const Evidence& other, double weight = 1) {
        squares += weight * other.squares;
        settled += weight * other.settled;
    }
};

// Variance of the difference at a knot from its own and its neighbours' evidence.
double variance_at(const std::vector<Evidence>& evidence, std::size_t knot, double floor) {
    Evidence stretch, spike, around;
    for (int j = -kAlike; j <= kAlike; ++j) {
        const Evidence& e = evidence[PeriodicSpline::wrap(knot, j, kLobeKnots)];
        stretch.add(e, 1 - std::abs(j) / (kAlike + 1.0));
        if (std::abs(j) <= kSpike)
            spike.add(e);
        if (std::abs(j) > 2 * kSpike)
            around.add(e);
    }
    const auto variance = [&](const Evidence& e) {
        return (e.squares + kPrior * floor) / (e.settled + kPrior);
    };
    const double wide = variance(stretch), narrow = spike.squares / (spike.settled + kSpikePrior);
    return narrow > kSpikeRatio * std::max(variance(around), floor) ? std::max(wide, narrow) : wide;
}

// Variances of the fourth differences under which the readings are most likely, as penalties. With
// `noise_m` 0 the noise is found with them, from the residual.
std::vector<double> local_penalty(const Smoother& smoother, double& noise_m, double least_noise_m) {
    const bool find_noise = noise_m == 0;
    double noise2 = std::pow(find_noise ? std::max(least_noise_m, 2e-6) : noise_m, 2);
    std::vector<double> variance(kLobeKnots, 1e-12), penalty(kLobeKnots);
    std::vector<Evidence> evidence(kLobeKnots);
    for (int round = 0;; ++round) {
        for (std::size_t i = 0; i < kLobeKnots; ++i)
            penalty[i] = noise2 / variance[i];
        if (round == kRounds - 1)
            break;
        const LobeFit fit = smoother.fit(penalty, find_noise);
        Evidence all;
        for (std::size_t i = 0; i < kLobeKnots; ++i) {
            const double spread = fit.covariance.form(i, kDifference.data(), kDifference.size());
            // settled: the share of this difference that comes from the readings, not from the penalty
            evidence[i] = {std::pow(difference(fit.coefficients, i), 2),
                           std::clamp(1 - penalty[i] * spread, 1e-9, 1.0)};
            all.add(evidence[i]);
        }
        if (find_noise) {
            const double free = std::max(0.2 * static_cast<double>(smoother.measured()),
                                         static_cast<double>(smoother.measured()) - fit.parameters);
            noise2 = std::max(std::pow(fit.rms_m, 2) * static_cast<double>(smoother.measured()) / free,
                              least_noise_m * least_noise_m);
        }
        const double mean = all.squares / all.settled;
        for (std::size_t i = 0; i < kLobeKnots; ++i)
            variance[i] = round < kTogether ? mean : variance_at(evidence, i, kFloorShare * mean);
    }
    noise_m = std::sqrt(noise2);
    return penalty;
}

double nose_of(const PeriodicSpline& spline) {
    double best = 0, best_rise = -1;
    for (int i = 0; i < 4 * static_cast<int>(kLobeKnots); ++i) {
        const double angle = 2 * kPi * i / (4 * static_cast<int>(kLobeKnots));
        if (spline.at(angle, 0) > best_rise) {
            best_rise = spline.at(angle, 0);
            best = angle;
        }
    }
    const double step = 2 * kPi / (4 * static_cast<int>(kLobeKnots));
    return find_root([&](double angle) { return spline.at(angle, 1); }, best - step, best + step, 1e-12);
}

} // namespace

double rounding_step_m(const LobeTable& table) {
    const double per_lift = table.lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m;
    for (double step = 0.1; step > 1e-7; step /= 10) {
        const bool all = std::all_of(table.lift.begin(), table.lift.end(), [&](double lift) {
            return std::abs(lift / step - std::round(lift / step)) < 1e-6;
        });
        if (all)
            return step * per_lift;
    }
    return 1e-7 * per_lift;
}

std::optional<double> base_circle_noise_m(const LobeTable& table) {
    const double per_lift = table.lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m;
    const double rounding = rounding_step_m(table) / std::sqrt(12.0);
    const double low = *std::min_element(table.lift.begin(), table.lift.end());
    const double near_base = low + 0.02e-3 / per_lift;
    std::vector<double> second;
    for (std::size_t i = 1; i + 1 < table.lift.size(); ++i) {
        const bool base = std::max({table.lift[i - 1], table.lift[i], table.lift[i + 1]}) < near_base;
        if (base)
            second.push_back(table.lift[i - 1] - 2 * table.lift[i] + table.lift[i + 1]);
    }
    if (second.size() < 12)
        return std::nullopt;
    // Base-circle readings are nearly flat, so their differences have mean 0 and hold noise only.
    double squares = 0;
    const double cut = 4 * std::max(robust_sd(second), rounding / per_lift);
    std::size_t used = 0;
    for (double s : second)
        if (std::abs(s) <= cut) {
            squares += s * s;
            ++used;
        }
    const double noise = std::sqrt(squares / static_cast<double>(std::max<std::size_t>(used, 1)) / 6);
    return std::max(noise * per_lift, rounding);
}

LobeReadings readings_of(const LobeTable& table) {
    check_readings(table);
    LobeReadings out = counted(table);
    drop_repeated_end(out);
    out.measured = out.angle_rad.size();
    fill_with_base_circle(out);
    const auto [low, high] = std::minmax_element(out.cam_lift_m.begin(), out.cam_lift_m.end());
    if (*high - *low < 0.2e-3)
        refuse(".lift", fmt::format("the lift is only {:.3f} mm", (*high - *low) * 1e3),
               "check the unit: mm or in");
    return out;
}

LobeCurve smooth_lobe(const LobeTable& table) {
    const LobeReadings readings = readings_of(table);
    const Smoother smoother(readings);
    const double least_m = std::max(rounding_step_m(table) / std::sqrt(12.0), 0.05e-6);
    const std::optional<double> from_base = base_circle_noise_m(table);
    double noise_m = table.noise_m.value_or(from_base.value_or(0));
    const double whole_m = *std::max_element(readings.cam_lift_m.begin(), readings.cam_lift_m.end());
    if (noise_m > 0.02 * whole_m)
        refuse(".noise_um", fmt::format("a noise of {:.1f} um hides the whole lobe", noise_m * 1e6),
               "state the gauge's repeatability, usually 1 to 5 um");
    std::vector<double> penalty = local_penalty(smoother, noise_m, least_m);
    if (table.smoothing.rule == SmoothingRule::Even)
        penalty = even_penalty(smoother, noise_m);
    for (double& p : penalty)
        p *= table.smoothing.strength;
    LobeFit fit = smoother.fit(penalty);

    SmoothingReport report;
    report.estimated = !table.noise_m.has_value();
    report.noise_m = noise_m;
    report.parameters = fit.parameters;
    report.residual_rms_m = fit.rms_m;
    PeriodicSpline spline(fit.coefficients);
    report.nose_in_table_rad = nose_of(spline);
    for (std::size_t i = 0; i < readings.measured; ++i) {
        report.angle_rad.push_back(std::remainder(readings.angle_rad[i] - report.nose_in_table_rad, 2 * kPi));
        report.residual_m.push_back(readings.cam_lift_m[i] - spline.at(readings.angle_rad[i], 0));
    }
    for (std::size_t i = 0; i < kLobeKnots; ++i)
        for (std::size_t k = 0; k <= PeriodicBand::kReach; ++k)
            fit.covariance.at(i, k) *= noise_m * noise_m;
    const double nose_rad = report.nose_in_table_rad;
    return LobeCurve::of(std::move(spline), nose_rad, std::move(report),
                         std::make_shared<const PeriodicBand>(std::move(fit.covariance)));
}

} // namespace bathmos
