#include "core/calibration/fit_model.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

// Of a rig's sensor: gain, phase (set by the reduction, so nearly free), delay.
constexpr double kGain_sd = 0.006, kPhase_sd_deg = 2, kDelay_s = 3.5e-6, kDelay_sd_s = 1.5e-6;
// Step of the differences, in standard deviations of belief: 1440 steps a cycle leave some tenths of a
// micrometre of noise where contacts open and close, and what one standard deviation does is often no more.
// Where a step does more than kMostChange (rms, in standard deviations of a reading) it is made shorter.
constexpr double kStep = 0.75, kShortest = 0.1, kMostChange = 0.4;

CycleRule rule_of_fit() {
    CycleRule rule;
    rule.settled_m = 0.1e-6;
    rule.most = 12;
    rule.averaged = 4;
    rule.most_with_oil = 40;
    rule.settled_extension_m = 0.2e-6;
    rule.halve_at_clash = false;
    rule.recorded = Recorded::Lift;
    rule.close_step = 1; // 1440 steps a cycle for most, so that all speeds share the lanes
    rule.least_substeps = 1;
    return rule;
}

std::vector<double> mean_lift(const Motion& motion) {
    if (motion.cloud_m.empty())
        return motion[Channel::Lift];
    std::vector<double> out(kGridPoints, 0.0);
    for (const std::vector<double>& cycle : motion.cloud_m)
        for (std::size_t i = 0; i < kGridPoints; ++i)
            out[i] += cycle[i] / static_cast<double>(motion.cloud_m.size());
    return out;
}

} // namespace

FitModel::FitModel(const std::vector<Train>& believed, std::vector<FreeNumber> numbers,
                   std::vector<ObservedSpeed> observed, std::vector<std::size_t> train_of_run)
    : numbers_(std::move(numbers)), observed_(std::move(observed)), train_of_run_(std::move(train_of_run)),
      prior_sd_(static_cast<Eigen::Index>(size())) {
    for (std::size_t i = 0; i < numbers_.size(); ++i)
        prior_sd_(static_cast<Eigen::Index>(i)) = numbers_[i].prior_sd;
    for (std::size_t r = 0; r < train_of_run_.size(); ++r)
        prior_sd_.segment<kSensor>(static_cast<Eigen::Index>(numbers_.size() + kSensor * r)) << kGain_sd,
            kPhase_sd_deg, kDelay_sd_s;
    for (const FreeNumber& one : numbers_)
        step_.push_back(kStep * one.prior_sd);
    for (const Train& one : believed)
        spun_.push_back({one, std::make_shared<CamTables>(curve_of(one.lobe)), {}, 0});
    for (const bool held_out : {false, true}) {
        for (const ObservedSpeed& one : observed_) {
            std::vector<double>& speeds = spun_[train_of(one)].speeds_rpm;
            if (one.held_out == held_out &&
                std::find(speeds.begin(), speeds.end(), one.speed_rpm) == speeds.end())
                speeds.push_back(one.speed_rpm);
        }
        for (Spun& spun : spun_)
            if (!held_out)
                spun.fitted = spun.speeds_rpm.size();
    }
}

std::size_t FitModel::place_of(std::string_view key, std::size_t train) const {
    const auto at = std::find_if(numbers_.begin(), numbers_.end(),
                                 [&](const FreeNumber& n) { return n.key == key && n.moves(train); });
    return at == numbers_.end() ? size() : static_cast<std::size_t>(at - numbers_.begin());
}

Train FitModel::train_at(const Offsets& x, std::size_t train) const {
    Train out = spun_[train].believed;
    for (std::size_t i = 0; i < numbers_.size(); ++i)
        if (const double offset = x(static_cast<Eigen::Index>(i)); offset != 0 && numbers_[i].moves(train))
            move_number(out, numbers_[i], offset);
    return out;
}

FitModel::Run FitModel::run(const Offsets& x, Which which, const Run* near, const FreeNumber* number,
                            std::size_t workers, const std::stop_token& stop) const {
    Run out;
    out.lift_m.resize(observed_.size());
    out.end.resize(spun_.size());
    for (std::size_t t = 0; t < spun_.size(); ++t)
        if (!number || number->moves(t))
            run_one(x, t, which, near, workers, stop, out);
    return out;
}

void FitModel::run_one(const Offsets& x, std::size_t train, Which which, const Run* near, std::size_t workers,
                       const std::stop_token& stop, Run& out) const {
    const Spun& spun = spun_[train];
    const auto place = [&](double speed_rpm) {
        return static_cast<std::size_t>(std::find(spun.speeds_rpm.begin(), spun.speeds_rpm.end(), speed_rpm) -
                                        spun.speeds_rpm.begin());
    };
    std::vector<RestState>& end = out.end[train];
    end.resize(spun.speeds_rpm.size());
    std::vector<std::vector<double>> by_speed(spun.speeds_rpm.size());
    std::string trouble;
    CycleRule rule = rule_of_fit();
    if (near) {
        rule.least = 2;
        rule.most = 8;
        rule.start = [&](double speed_rpm) { return &near->end[train][place(speed_rpm)]; };
    }
    const auto take = [&](Motion&& motion) {
        const std::size_t at = place(motion.speed_rpm);
        if (motion.finite)
            by_speed[at] = mean_lift(motion);
        else
            trouble = motion.trouble;
        end[at] = std::move(motion.end);
        return std::vector<double>{};
    };
    const auto last = which == Which::All ? spun.speeds_rpm.size() : spun.fitted;
    const std::vector<double> wanted(spun.speeds_rpm.begin(),
                                     spun.speeds_rpm.begin() + static_cast<std::ptrdiff_t>(last));
    MotionModel(train_at(x, train), spun.tables).run_on(wanted, take, stop, rule, workers);
    if (!trouble.empty())
        throw InputError({"", "calibration", trouble, "check the numbers that are left free"});
    for (std::size_t i = 0; i < observed_.size(); ++i)
        if (train_of(observed_[i]) == train)
            out.lift_m[i] = by_speed[place(observed_[i].speed_rpm)];
}

std::vector<std::vector<double>> FitModel::lifts(const Offsets& x, Which which, const std::stop_token& stop,
                                                 std::size_t workers) const {
    return run(x, which, nullptr, nullptr, workers, stop).lift_m;
}

Reading FitModel::reading_at(const Offsets& x, std::size_t run) const {
    Reading out;
    const auto first = static_cast<Eigen::Index>(numbers_.size() + kSensor * run);
    out.gain = x(first);
    out.phase_deg = x(first + 1);
    out.delay_s = kDelay_s + x(first + 2);
    const std::size_t train = train_of_run_[run];
    if (!spun_[train].believed.drive_ripple)
        return out;
    Train drive; // nothing else of the train: this is asked for thousands of times
    drive.drive_ripple = spun_[train].believed.drive_ripple;
    for (std::size_t i = 0; i < numbers_.size(); ++i)
        if (numbers_[i].moves(train) && numbers_[i].key.starts_with("drive_ripple."))
            move_number(drive, numbers_[i], x(static_cast<Eigen::Index>(i)));
    out.ripple = *drive.drive_ripple;
    return out;
}

Eigen::VectorXd FitModel::difference_m(const Offsets& x, const std::vector<double>& lift_m,
                                       std::size_t at) const {
    const ObservedSpeed& seen = observed_[at];
    return read_lift(lift_m, reading_at(x, seen.run), seen) - seen.lift_m;
}

Eigen::VectorXd FitModel::whitened(const Offsets& x, const std::vector<double>& lift_m,
                                   std::size_t at) const {
    return observed_[at].spread.triangularView<Eigen::Lower>().solve(-difference_m(x, lift_m, at));
}

Residuals FitModel::residuals_of(const Offsets& x, const std::vector<std::vector<double>>& lift_m) const {
    Residuals out;
    out.of.resize(observed_.size());
    for (std::size_t i = 0; i < observed_.size(); ++i)
        if (!observed_[i].held_out)
            out.of[i] = whitened(x, lift_m[i], i);
    return out;
}

void FitModel::derive_by_sensor(const Offsets& x, const std::vector<std::vector<double>>& lift_m,
                                Residuals& out) const {
    for (std::size_t i = 0; i < observed_.size(); ++i)
        for (std::size_t k = 0; k < kSensor && !observed_[i].held_out; ++k) {
            const auto column = static_cast<Eigen::Index>(numbers_.size() + kSensor * observed_[i].run + k);
            const double step = 0.03 * prior_sd_(column);
            Offsets above = x, below = x;
            above(column) += step;
            below(column) -= step;
            out.by_offset[i].col(column) =
                (whitened(above, lift_m[i], i) - whitened(below, lift_m[i], i)) / (2 * step);
        }
}

void FitModel::fit_steps(const Offsets& x, const std::stop_token& stop) {
    const Residuals here = residuals(x, true, stop);
    for (std::size_t k = 0; k < numbers_.size(); ++k) {
        double largest = 0;
        for (std::size_t i = 0; i < observed_.size(); ++i)
            if (!observed_[i].held_out)
                largest = std::max(largest, here.by_offset[i].col(static_cast<Eigen::Index>(k)).norm() *
                                                step_[k] / std::sqrt(static_cast<double>(here.of[i].size())));
        if (largest > kMostChange)
            step_[k] *= std::max(kShortest / kStep, kMostChange / largest);
    }
}

bool FitModel::bends_soon(std::size_t number) const {
    return step_[number] < 0.99 * kStep * numbers_[number].prior_sd;
}

Residuals FitModel::residuals(const Offsets& x, bool derivatives, const std::stop_token& stop) const {
    if (!derivatives)
        return residuals_of(x, lifts(x, Which::Fitted, stop));
    const Run start = run(x, Which::Fitted, nullptr, nullptr, 0, stop);
    // the trains beside it go on from where it ended, and so must it: what had not settled yet is no
    // difference
    const Run here = run(x, Which::Fitted, &start, nullptr, 0, stop);
    std::vector<Run> near(numbers_.size());
    std::vector<Offsets> at(numbers_.size(), x);
    for (std::size_t k = 0; k < numbers_.size(); ++k)
        at[k](static_cast<Eigen::Index>(k)) += step_[k];
    parallel_for(at.size(),
                 [&](std::size_t k) { near[k] = run(at[k], Which::Fitted, &start, &numbers_[k], 1, stop); });
    Residuals out = residuals_of(x, here.lift_m);
    for (std::size_t i = 0; i < observed_.size(); ++i) {
        out.by_offset.push_back(Eigen::MatrixXd::Zero(out.of[i].size(), static_cast<Eigen::Index>(size())));
        for (std::size_t k = 0; k < numbers_.size(); ++k)
            if (!observed_[i].held_out && numbers_[k].moves(train_of(observed_[i])))
                out.by_offset[i].col(static_cast<Eigen::Index>(k)) =
                    (whitened(at[k], near[k].lift_m[i], i) - out.of[i]) / step_[k];
    }
    derive_by_sensor(x, here.lift_m, out);
    return out;
}

} // namespace bathmos
