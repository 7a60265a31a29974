#include "core/calibration/fit_model.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <optional>

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
    rule.close_step = 1; // 1440 steps a cycle for most, so that all speeds share the lanes
    rule.least_substeps = 1;
    return rule;
}

} // namespace

FitModel::FitModel(const std::vector<Train>& believed, std::vector<FreeNumber> numbers,
                   std::vector<ObservedSpeed> observed, std::vector<std::size_t> train_of_run)
    : numbers_(std::move(numbers)), observed_(std::move(observed)), train_of_run_(std::move(train_of_run)),
      prior_sd_(static_cast<Eigen::Index>(size())) {
    for (std::size_t i = 0; i < observed_.size(); ++i)
        if (observed_[i].trend_back > 0)
            on_trend_.push_back(i);
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

FitModel FitModel::heeding_trend() const {
    FitModel out = *this;
    out.heeds_trend_ = true;
    return out;
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

// A train of a variant, with the tasks that it is run by.
struct FitModel::Spin {
    std::size_t variant, train;
    LiftModel model;
    std::vector<double> speeds_rpm;
    std::vector<std::size_t> tasks; ///< of each speed
};

std::vector<FitModel::Spin> FitModel::spins_of(const std::vector<Variant>& variants, Which which,
                                               std::vector<Run>& out) const {
    std::vector<std::pair<std::size_t, std::size_t>> wanted;
    for (std::size_t v = 0; v < variants.size(); ++v)
        for (std::size_t t = 0; t < spun_.size(); ++t)
            if (!variants[v].number || variants[v].number->moves(t))
                wanted.emplace_back(v, t);
    std::vector<std::optional<Spin>> made(wanted.size());
    std::vector<std::optional<InputError>> failed(wanted.size());
    parallel_for(wanted.size(), [&](std::size_t i) {
        const auto [v, t] = wanted[i];
        const Spun& spun = spun_[t];
        const auto last = which == Which::All ? spun.speeds_rpm.size() : spun.fitted;
        try {
            const Train train = train_at(variants[v].x, t);
            made[i] =
                Spin{v,
                     t,
                     LiftModel(train, spun.tables),
                     {spun.speeds_rpm.begin(), spun.speeds_rpm.begin() + static_cast<std::ptrdiff_t>(last)},
                     {}};
        } catch (const InputError& error) {
            failed[i] = error;
        }
    });
    std::vector<Spin> spins;
    for (std::size_t i = 0; i < made.size(); ++i)
        if (failed[i])
            out[wanted[i].first].failure = failed[i];
        else
            spins.push_back(std::move(*made[i]));
    return spins;
}

std::vector<FitModel::Run> FitModel::run(const std::vector<Variant>& variants, Which which, const Run* near,
                                         std::size_t workers, const std::stop_token& stop) const {
    CycleRule rule = rule_of_fit();
    if (near) {
        rule.least = 2;
        rule.most = 8;
    }
    std::vector<Run> out(variants.size());
    for (Run& one : out) {
        one.lift_m.resize(observed_.size());
        one.end.resize(spun_.size());
    }
    std::vector<Spin> spins = spins_of(variants, which, out);
    std::vector<LiftTask> tasks;
    for (Spin& spin : spins)
        try {
            std::vector<LiftTask> own;
            for (std::size_t i = 0; i < spin.speeds_rpm.size(); ++i)
                own.push_back(
                    spin.model.task(spin.speeds_rpm[i], rule, near ? &near->end[spin.train][i] : nullptr));
            for (LiftTask& one : own) {
                spin.tasks.push_back(tasks.size());
                tasks.push_back(std::move(one));
            }
        } catch (const InputError& error) { // too stiff to follow
            out[spin.variant].failure = error;
        }
    std::vector<LiftOfTask> lifts = run_lifts(tasks, rule, stop, workers);
    halve_runaways(spins, rule, tasks, lifts, stop);
    for (const Spin& spin : spins) {
        if (spin.tasks.empty())
            continue;
        for (const std::size_t task : spin.tasks)
            if (!lifts[task].finite)
                out[spin.variant].failure = InputError(
                    {"", "calibration", runaway_in_words(spin.model.stiffest(), tasks[task].chain->substeps),
                     "check the numbers that are left free"});
        take(spin, lifts, out[spin.variant]);
    }
    return out;
}

void FitModel::halve_runaways(std::vector<Spin>& spins, const CycleRule& rule, std::vector<LiftTask>& tasks,
                              std::vector<LiftOfTask>& lifts, const std::stop_token& stop) const {
    for (std::size_t halvings = 1; halvings <= kRunawayHalvings; ++halvings) {
        std::vector<std::size_t> which;
        std::vector<LiftTask> again;
        for (Spin& spin : spins)
            for (const std::size_t at : spin.tasks)
                if (!lifts[at].finite) {
                    tasks[at] = spin.model.task(tasks[at].speed_rpm, rule, tasks[at].start, halvings);
                    which.push_back(at);
                    again.push_back(tasks[at]);
                }
        if (again.empty())
            return;
        std::vector<LiftOfTask> found = run_lifts(again, rule, stop);
        for (std::size_t i = 0; i < which.size(); ++i)
            lifts[which[i]] = std::move(found[i]);
    }
}

void FitModel::take(const Spin& spin, const std::vector<LiftOfTask>& lifts, Run& out) const {
    for (std::size_t k = 0; k < observed_.size(); ++k) {
        const auto at = std::find(spin.speeds_rpm.begin(), spin.speeds_rpm.end(), observed_[k].speed_rpm);
        if (train_of(observed_[k]) == spin.train && at != spin.speeds_rpm.end())
            out.lift_m[k] = lifts[spin.tasks[static_cast<std::size_t>(at - spin.speeds_rpm.begin())]].lift_m;
    }
    for (const std::size_t task : spin.tasks)
        out.end[spin.train].push_back(lifts[task].end);
}

std::vector<std::vector<double>> FitModel::lifts(const Offsets& x, Which which, const std::stop_token& stop,
                                                 std::size_t workers) const {
    return ran(std::move(run({{x}}, which, nullptr, workers, stop).front())).lift_m;
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
    for (std::size_t i = 0; i < residual_count(); ++i)
        out.of.push_back(residual(x, lift_m, i));
    return out;
}

OffTrend FitModel::off_trend(const Offsets& x, const std::vector<std::vector<double>>& lift_m,
                             std::size_t at) const {
    const std::size_t from = at - observed_[at].trend_back;
    const ObservedSpeed &seen = observed_[at], &trend = observed_[from];
    return {seen.speed_rpm, off_trend_m(seen, seen.lift_m, trend, trend.lift_m),
            off_trend_m(seen, seen.lift_m + difference_m(x, lift_m[at], at), trend,
                        trend.lift_m + difference_m(x, lift_m[from], from)),
            seen.run};
}

std::vector<OffTrend> FitModel::off_trends(const Offsets& x,
                                           const std::vector<std::vector<double>>& lift_m) const {
    std::vector<OffTrend> out;
    for (const std::size_t at : on_trend_)
        out.push_back(off_trend(x, lift_m, at));
    return out;
}

Eigen::VectorXd FitModel::residual(const Offsets& x, const std::vector<std::vector<double>>& lift_m,
                                   std::size_t which) const {
    if (!fits(which))
        return {};
    if (of_trend(which))
        return Eigen::VectorXd::Constant(
            1, off_trend(x, lift_m, on_trend_[which - observed_.size()]).deviations());
    return whitened(x, lift_m[which], which);
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

FitModel::Run&& FitModel::ran(Run&& run) {
    if (run.failure)
        throw InputError(*run.failure);
    return std::move(run);
}

std::vector<std::optional<Residuals>> FitModel::residuals_at(const std::vector<Offsets>& places,
                                                             const std::stop_token& stop) const {
    std::vector<Variant> variants;
    for (const Offsets& x : places)
        variants.push_back({x});
    const std::vector<Run> runs = run(variants, Which::Fitted, nullptr, 0, stop);
    std::vector<std::optional<Residuals>> out(places.size());
    parallel_for(places.size(), [&](std::size_t i) {
        if (!runs[i].failure)
            out[i] = residuals_of(places[i], runs[i].lift_m);
    });
    return out;
}

Residuals FitModel::residuals(const Offsets& x, bool derivatives, const std::stop_token& stop) const {
    if (!derivatives)
        return residuals_of(x, lifts(x, Which::Fitted, stop));
    const Run start = ran(std::move(run({{x}}, Which::Fitted, nullptr, 0, stop).front()));
    // the trains beside it go on from where it ended, and so must it: what had not settled yet is no
    // difference
    std::vector<Variant> variants = {{x}};
    for (std::size_t k = 0; k < numbers_.size(); ++k) {
        variants.push_back({x, &numbers_[k]});
        variants.back().x(static_cast<Eigen::Index>(k)) += step_[k];
    }
    std::vector<Run> all = run(variants, Which::Fitted, &start, 0, stop);
    for (Run& one : all)
        ran(std::move(one));
    const Run& here = all.front();
    Residuals out = residuals_of(x, here.lift_m);
    for (std::size_t i = 0; i < residual_count(); ++i) {
        out.by_offset.push_back(Eigen::MatrixXd::Zero(out.of[i].size(), static_cast<Eigen::Index>(size())));
        const ObservedSpeed& seen = observed_[of_trend(i) ? on_trend_[i - observed_.size()] : i];
        for (std::size_t k = 0; k < numbers_.size(); ++k)
            if (fits(i) && numbers_[k].moves(train_of(seen)))
                out.by_offset[i].col(static_cast<Eigen::Index>(k)) =
                    (residual(variants[k + 1].x, all[k + 1].lift_m, i) - out.of[i]) / step_[k];
    }
    derive_by_sensor(x, here.lift_m, out);
    return out;
}

} // namespace bathmos
