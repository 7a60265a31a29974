#include "core/lobe/lobe_fit.h"

#include "core/math/robust.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <Eigen/Dense>
#include <Eigen/Sparse>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

using Sparse = Eigen::SparseMatrix<double>;
constexpr int kKnots = static_cast<int>(kLobeKnots);
constexpr double kClosedWithin_m = 0.05e-3; // how far an end of the event may stand off the base circle

struct Readings {
    std::vector<double> angle_rad; // strictly increasing, less than a turn
    std::vector<double> rise_m;
    std::size_t measured = 0; // the first ones; base circle filled in follows
};

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

// Readings in SI; where the turn is not complete, base circle at the typical step.
Readings to_si(const LobeTable& table) {
    check_readings(table);
    const double per_angle = radians(table.angle_unit == AngleUnit::CamDegree ? 1.0 : 0.5);
    const double per_lift = table.lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m;
    Readings out;
    std::vector<double> steps;
    for (std::size_t i = 0; i < table.angle.size(); ++i) {
        out.angle_rad.push_back(table.angle[i] * per_angle);
        out.rise_m.push_back(table.lift[i] * per_lift);
        if (i > 0)
            steps.push_back(out.angle_rad[i] - out.angle_rad[i - 1]);
    }
    const double step = median(steps), turn = 2 * kPi;
    double span = out.angle_rad.back() - out.angle_rad.front();
    // A full turn may repeat its first reading at the end.
    if (span > turn + 1e-9)
        refuse(".angle", fmt::format("the readings span {:.1f} cam degrees", degrees(span)),
               "give one turn of the cam at most, and check whether angles are cam or crank degrees");
    const double gap_ends = std::abs(out.rise_m.back() - out.rise_m.front());
    if (span > turn - 1e-9) {
        if (gap_ends > kClosedWithin_m)
            refuse(".lift",
                   fmt::format("the lobe is not closed: {:.3f} mm at the start, {:.3f} mm a turn later",
                               out.rise_m.front() * 1e3, out.rise_m.back() * 1e3),
                   "both must be the same place on the cam; gauge it again");
        out.angle_rad.pop_back();
        out.rise_m.pop_back();
        span = out.angle_rad.back() - out.angle_rad.front();
    }
    out.measured = out.angle_rad.size();
    const double missing = turn - span;
    if (missing > 1.5 * step) {
        for (const double end : {out.rise_m.front(), out.rise_m.back()})
            if (std::abs(end) > kClosedWithin_m)
                refuse(
                    ".lift",
                    fmt::format("the lobe is not closed: it ends {:.3f} mm off the base circle", end * 1e3),
                    "gauge on until the rise is 0 on both sides (within 0.05 mm), or give the full turn");
        const auto fill = static_cast<int>(std::floor(missing / step - 0.5));
        for (int i = 1; i <= fill; ++i) {
            out.angle_rad.push_back(out.angle_rad[out.measured - 1] + missing * i / (fill + 1));
            out.rise_m.push_back(0);
        }
    }
    const auto [low, high] = std::minmax_element(out.rise_m.begin(), out.rise_m.end());
    if (*high - *low < 0.2e-3)
        refuse(".lift", fmt::format("the lift is only {:.3f} mm", (*high - *low) * 1e3),
               "check the unit: mm or in");
    return out;
}

Sparse basis_rows(const std::vector<double>& angle_rad, int order) {
    std::vector<Eigen::Triplet<double>> entries;
    const double scale = std::pow(kKnots / (2 * kPi), order);
    for (std::size_t i = 0; i < angle_rad.size(); ++i) {
        const PeriodicSpline::Place p = PeriodicSpline::place(angle_rad[i], kLobeKnots);
        const auto w = quintic_weights(p.t, order);
        for (int j = 0; j < 6; ++j)
            entries.emplace_back(static_cast<int>(i),
                                 static_cast<int>(PeriodicSpline::wrap(p.knot, j - 2, kLobeKnots)),
                                 scale * w[static_cast<std::size_t>(j)]);
    }
    Sparse rows(static_cast<int>(angle_rad.size()), kKnots);
    rows.setFromTriplets(entries.begin(), entries.end());
    return rows;
}

// Integral of the squared fourth derivative, per knot: fourth differences of the coefficients weighted by the
// overlap of linear splines (2/3 on the diagonal, 1/6 beside it).
Sparse penalty() {
    constexpr double difference[] = {1, -4, 6, -4, 1};
    std::vector<Eigen::Triplet<double>> d, m;
    for (int i = 0; i < kKnots; ++i) {
        for (int j = 0; j < 5; ++j)
            d.emplace_back(i, (i + j) % kKnots, difference[j]);
        m.emplace_back(i, i, 2.0 / 3);
        m.emplace_back(i, (i + 1) % kKnots, 1.0 / 6);
        m.emplace_back((i + 1) % kKnots, i, 1.0 / 6);
    }
    Sparse differences(kKnots, kKnots), overlap(kKnots, kKnots);
    differences.setFromTriplets(d.begin(), d.end());
    overlap.setFromTriplets(m.begin(), m.end());
    return Sparse(differences.transpose() * overlap * differences);
}

struct Fit {
    Eigen::VectorXd coefficients;
    double rms_m;
};

class Smoother {
  public:
    explicit Smoother(const Readings& readings)
        : rows_(basis_rows(readings.angle_rad, 0)), normal_(rows_.transpose() * rows_), penalty_(penalty()),
          rise_(Eigen::Map<const Eigen::VectorXd>(readings.rise_m.data(),
                                                  static_cast<int>(readings.rise_m.size()))),
          measured_(static_cast<int>(readings.measured)) {
        solver_.analyzePattern(Sparse(normal_ + penalty_));
    }

    Fit fit(double strength) {
        solver_.factorize(Sparse(normal_ + strength * penalty_));
        Fit out;
        out.coefficients = solver_.solve(rows_.transpose() * rise_);
        const Eigen::VectorXd residual = rise_ - rows_ * out.coefficients;
        out.rms_m = std::sqrt(residual.head(measured_).squaredNorm() / measured_);
        return out;
    }

    const Sparse& rows() const { return rows_; }
    Sparse system(double strength) const { return Sparse(normal_ + strength * penalty_); }

  private:
    Sparse rows_, normal_, penalty_;
    Eigen::VectorXd rise_;
    int measured_;
    Eigen::SimplicialLDLT<Sparse> solver_;
};

double nose_of(const PeriodicSpline& spline) {
    double best = 0, best_rise = -1;
    for (int i = 0; i < 4 * kKnots; ++i) {
        const double angle = 2 * kPi * i / (4 * kKnots);
        if (spline.at(angle, 0) > best_rise) {
            best_rise = spline.at(angle, 0);
            best = angle;
        }
    }
    const double step = 2 * kPi / (4 * kKnots);
    return bisect([&](double angle) { return spline.at(angle, 1); }, best - step, best + step, 1e-12);
}

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

} // namespace

double estimate_noise_m(const LobeTable& table) {
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
        return std::max(rounding, 0.5e-6);
    // Base-circle readings are nearly flat, so their differences have mean 0 and hold noise only.
    double squares = 0;
    const double cut = 4 * std::max(robust_sigma(second), rounding / per_lift);
    std::size_t used = 0;
    for (double s : second)
        if (std::abs(s) <= cut) {
            squares += s * s;
            ++used;
        }
    const double noise = std::sqrt(squares / static_cast<double>(std::max<std::size_t>(used, 1)) / 6);
    return std::max(noise * per_lift, rounding);
}

LobeCurve smooth_lobe(const LobeTable& table) {
    const Readings readings = to_si(table);
    Smoother smoother(readings);
    SmoothingReport report;
    report.estimated = !table.noise_m.has_value();
    report.noise_m = table.noise_m.value_or(report.estimated ? estimate_noise_m(table) : 0.0);

    double low = -9, high = 9; // log10 of the strength; the residual grows with it
    if (smoother.fit(std::pow(10, high)).rms_m <= report.noise_m)
        refuse(".noise_um", fmt::format("a noise of {:.1f} um hides the whole lobe", report.noise_m * 1e6),
               "state the gauge's repeatability, usually 1 to 5 um");
    while (high - low > 1e-3) {
        const double mid = 0.5 * (low + high);
        (smoother.fit(std::pow(10, mid)).rms_m < report.noise_m ? low : high) = mid;
    }
    report.strength = std::pow(10, low);
    const Fit fit = smoother.fit(report.strength);
    report.residual_rms_m = fit.rms_m;
    PeriodicSpline spline(std::vector<double>(fit.coefficients.data(), fit.coefficients.data() + kKnots));
    report.nose_in_table_rad = nose_of(spline);
    for (std::size_t i = 0; i < readings.measured; ++i) {
        report.angle_rad.push_back(std::remainder(readings.angle_rad[i] - report.nose_in_table_rad, 2 * kPi));
        report.residual_m.push_back(readings.rise_m[i] - spline.at(readings.angle_rad[i], 0));
    }
    const double nose_rad = report.nose_in_table_rad;
    return LobeCurve::of(std::move(spline), nose_rad, std::move(report));
}

std::vector<double> derivative_sigma(const LobeTable& table, const SmoothingReport& report,
                                     const std::vector<double>& theta_rad, int order) {
    const Smoother smoother(to_si(table));
    std::vector<double> in_table;
    for (double theta : theta_rad)
        in_table.push_back(theta + report.nose_in_table_rad);
    const Eigen::MatrixXd wanted = Eigen::MatrixXd(basis_rows(in_table, order));
    const Eigen::LLT<Eigen::MatrixXd> system(Eigen::MatrixXd(smoother.system(report.strength)));
    // variance of L (A^-1 B^T) e for white e: sigma^2 |B A^-1 L^T|^2 per row
    const Eigen::MatrixXd spread = smoother.rows() * system.solve(wanted.transpose());
    std::vector<double> sigma;
    for (int i = 0; i < spread.cols(); ++i)
        sigma.push_back(report.noise_m * spread.col(i).norm());
    return sigma;
}

} // namespace bathmos
