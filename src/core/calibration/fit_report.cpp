#include "core/calibration/fit_report.h"

#include "core/calibration/lobe_seen.h"
#include "core/math/robust.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <random>

namespace bathmos {

namespace {

constexpr double kFarOff_m = 40e-6;

double amount_at(const FreeNumber& number, double value, double offset) {
    return number.logarithmic ? value * std::exp(offset) : value + offset;
}

// True where a little further the same way is refused: the train is then put at that end, as a descent
// stops just short of it. A factor on loads has no end and no place to read back.
bool put_at_end(Train& train, const FreeNumber& number, double offset) {
    if (number.key == "springs.load" || offset == 0)
        return false;
    constexpr double kLittle = 0.05;
    const double by = std::copysign(kLittle * number.prior_sd, offset), here = value_of(train, number);
    Train further = train;
    move_number(further, number, by);
    const double wanted = number.logarithmic ? here * std::expm1(by) : by;
    if (std::abs(value_of(further, number) - here) >= 0.5 * std::abs(wanted))
        return false;
    train = std::move(further);
    return true;
}

} // namespace

Calibration FitReport::of(const Found& found, const std::vector<std::vector<double>>& believed_lift_m,
                          const std::stop_token& stop) const {
    Calibration out;
    out.train = model_.train_at(found.place.x, 0);
    if (model_.trains() > 1)
        out.other = model_.train_at(found.place.x, 1);
    add_numbers(found, out);
    add_correlations(found, out);
    add_residuals(found.place.x, believed_lift_m, stop, out);
    add_draws(found, out);
    warn(out);
    return out;
}

void FitReport::add_numbers(const Found& found, Calibration& out) const {
    for (std::size_t i = 0; i < model_.numbers().size(); ++i) {
        const FreeNumber& number = model_.numbers()[i];
        const auto k = static_cast<Eigen::Index>(i);
        const double sd = std::sqrt(found.covariance(k, k)), offset = found.place.x(k);
        FittedNumber one{number};
        Train& train = number.of_other() ? *out.other : out.train;
        one.believed = value_of(model_.believed(number.of_other() ? 1 : 0), number);
        one.value = amount_at(number, one.believed, offset);
        one.sd = number.logarithmic ? sd * one.value : sd;
        one.prior_sd = number.logarithmic ? number.prior_sd * one.believed : number.prior_sd;
        one.departs_sigma = offset / number.prior_sd;
        one.told = sd < 0.8 * number.prior_sd;
        one.at_end = put_at_end(train, number, offset);
        if (one.at_end)
            one.value = value_of(train, number);
        note_tolerance(train, number, sd);
        if (out.other && !number.only) {
            put_at_end(*out.other, number, offset);
            note_tolerance(*out.other, number, sd);
        }
        out.numbers.push_back(std::move(one));
    }
}

void FitReport::add_correlations(const Found& found, Calibration& out) const {
    const Eigen::VectorXd sd = found.covariance.diagonal().cwiseSqrt();
    for (std::size_t a = 0; a < model_.numbers().size(); ++a)
        for (std::size_t b = a + 1; b < model_.numbers().size(); ++b) {
            const auto i = static_cast<Eigen::Index>(a), k = static_cast<Eigen::Index>(b);
            const double r = found.covariance(i, k) / (sd(i) * sd(k));
            if (std::abs(r) > 0.8)
                out.correlations.push_back({name_of(model_.numbers()[a]), name_of(model_.numbers()[b]), r});
        }
}

void FitReport::add_residuals(const Offsets& x, const std::vector<std::vector<double>>& believed_lift_m,
                              const std::stop_token& stop, Calibration& out) const {
    const auto lift_m = model_.lifts(x, Which::All, stop);
    Offsets before = x;
    before.head(static_cast<Eigen::Index>(model_.numbers().size())).setZero();
    const auto rms = [](Eigen::VectorXd d) {
        d.array() -= d.mean(); // each speed has its own zero
        return std::sqrt(d.squaredNorm() / static_cast<double>(d.size()));
    };
    for (std::size_t i = 0; i < model_.observed().size(); ++i) {
        const ObservedSpeed& seen = model_.observed()[i];
        const Eigen::VectorXd d = model_.difference_m(x, lift_m[i], i);
        const Eigen::VectorXd b = model_.difference_m(before, believed_lift_m[i], i);
        SpeedResidual one{seen.speed_rpm, seen.run, rms(d), rms(b), seen.held_out, seen.crank_deg, {}, {}};
        one.difference_m.assign(d.data(), d.data() + d.size());
        one.believed_difference_m.assign(b.data(), b.data() + b.size());
        out.residuals.push_back(std::move(one));
    }
}

// A fit that stays far off at half of a run's speeds is of another train, or of a sensor that lies; one
// that is off at the same angles at all slow speeds, of another lobe.
void FitReport::warn_of_run(std::size_t run, Calibration& out) const {
    std::vector<double> rms_m;
    for (const SpeedResidual& one : out.residuals)
        if (one.run == run)
            rms_m.push_back(one.rms_m);
    const double middle = rms_m.empty() ? 0 : median(rms_m);
    if (middle > kFarOff_m) {
        out.warnings.push_back(
            fmt::format("even the fitted model stays {:.0f} um (rms) off at half of the speeds of {}: "
                        "that run may be of another train, or its sensor may be clipped or badly "
                        "scaled; the numbers fitted are not to be believed",
                        middle * 1e6, name_of_run(run)));
        return;
    }
    const Train& fitted = run < query_.runs.size() ? out.train : *out.other;
    if (const auto lobe = lobe_seen(fitted, out.residuals, run); lobe && lobe->departs)
        out.warnings.push_back(said_of(*lobe->departs, name_of_run(run)));
}

std::string FitReport::name_of_run(std::size_t run) const {
    const std::size_t own = query_.runs.size();
    const RigRun& named = run < own ? *query_.runs[run] : *query_.other->runs[run - own];
    return named.source.empty() ? fmt::format("run {}", run + 1) : named.source;
}

void FitReport::warn(Calibration& out) const {
    for (std::size_t run = 0; run < model_.runs(); ++run)
        warn_of_run(run, out);
    for (const FittedNumber& one : out.numbers)
        if (one.at_end)
            out.warnings.push_back(fmt::format("{} was held at the end of what it may be: the run asks for "
                                               "more, so something else is wrong ({})",
                                               label_of(one.number), one.number.bench));
    for (const FittedNumber& one : out.numbers)
        if (std::abs(one.departs_sigma) > 4)
            out.warnings.push_back(fmt::format("{} lies {:.0f} standard deviations of the belief away "
                                               "from it: measure it before building on it "
                                               "({})",
                                               label_of(one.number), std::abs(one.departs_sigma),
                                               one.number.bench));
}

void FitReport::warn_of_onset(const OffTrend& missed, Calibration& out) const {
    out.warnings.push_back(fmt::format(
        "at {:.0f} rev/min of {} the valve is {:.0f} um (rms) off the trend of the speeds before, that of "
        "the fitted model {:.0f} um: nothing that was tried explains this onset, and the limit is less sure "
        "than its band says; run finer steps round it, and measure springs and installed height on the bench",
        missed.speed_rpm, name_of_run(missed.run), missed.seen_m * 1e6, missed.shown_m * 1e6));
}

// Draws from the normal distribution that the fit leaves.
void FitReport::add_draws(const Found& found, Calibration& out) const {
    const Eigen::MatrixXd root = found.covariance.llt().matrixL();
    std::mt19937 random(query_.seed);
    std::normal_distribution<double> normal;
    for (std::size_t i = 0; i < query_.draws; ++i) {
        Eigen::VectorXd z(root.cols());
        for (Eigen::Index k = 0; k < z.size(); ++k)
            z(k) = normal(random);
        out.draws.push_back(model_.train_at(found.place.x + root * z, 0));
        if (out.other)
            out.other_draws.push_back(model_.train_at(found.place.x + root * z, 1));
    }
}

} // namespace bathmos
