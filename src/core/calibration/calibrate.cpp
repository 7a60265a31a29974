#include "core/calibration/calibrate.h"

#include "core/calibration/lobe_seen.h"
#include "core/calibration/search.h"
#include "core/math/robust.h"
#include "core/problem/input_error.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <mutex>
#include <random>
#include <span>

namespace bathmos {

namespace {

constexpr double kFarOff_m = 40e-6;
constexpr double kMayWin = 12;      // of evidence that looking round may win
constexpr double kWorthAnother = 1; // of evidence won: look round once more
constexpr int kRoundsOfLooking = 4;

struct Widened {
    std::string_view key;
    double sd; ///< in the offset's unit
};

// A number that departs with the scanned one, by so much of its unit for one of that number's.
struct Carried {
    std::string_view key;
    double per_offset = 0;
};

// What departs if a cause is true, and where to look for it first.
struct Departure {
    std::string_view cause;
    std::vector<Widened> widened;
    std::string_view scanned;
    std::vector<double> scan;
    Carried carried{};
};

const std::vector<Departure>& departures() {
    static const std::vector<Departure> kDepartures = {
        {"spring_weak",
         {{"springs.free_length_mm", 3e-3}, {"springs.load", 0.08}},
         "springs.free_length_mm",
         {-0.4e-3, -0.8e-3, -1.2e-3, -1.6e-3, -2e-3, -2.4e-3, -2.8e-3, -3.2e-3, -3.6e-3, -4e-3, -4.5e-3,
          0.6e-3}},
        // a spring that has set is shorter and softer: neither alone leads there
        {"spring_weak",
         {{"springs.free_length_mm", 3e-3}, {"springs.load", 0.08}},
         "springs.free_length_mm",
         {-0.6e-3, -1.2e-3, -1.8e-3, -2.4e-3, -3e-3, -3.6e-3},
         {"springs.load", 40}},
        {"spring_weak", {{"springs.load", 0.08}}, "springs.load", {0.04, -0.03, -0.06, -0.09, -0.12, -0.15}},
        {"spring_not_as_believed",
         {{"installed_height_mm", 2e-3}},
         "installed_height_mm",
         {0.4e-3, 0.8e-3, 1.2e-3, 1.6e-3, 2e-3, 2.4e-3, 2.8e-3, 3.2e-3, -0.5e-3, -1e-3, -1.5e-3}},
        {"train_flexible",
         {{"pushrod.end_stiffness_N_per_mm", 1.5},
          {"pushrod.stiffness_N_per_mm", 0.8},
          {"rocker.stiffness_N_per_mm", 0.8},
          {"contacts.cam.stiffness_N_per_mm", 0.8}},
         "pushrod.end_stiffness_N_per_mm",
         {0.4, -0.3, -0.6, -0.9, -1.2, -1.5, -1.9, -2.3, -2.7}},
        {"train_flexible",
         {{"pushrod.stiffness_N_per_mm", 0.8},
          {"rocker.stiffness_N_per_mm", 0.8},
          {"contacts.cam.stiffness_N_per_mm", 0.8}},
         "rocker.stiffness_N_per_mm",
         {-0.15, -0.3, -0.5, -0.8}},
        {"train_flexible",
         {{"contacts.tip.stiffness_N_per_mm", 0.8}, {"contacts.cam.stiffness_N_per_mm", 0.8}},
         "contacts.tip.stiffness_N_per_mm",
         {-0.15, -0.3, -0.5, -0.8}},
        {"surge",
         {{"springs.damping_ratio", 1.0}, {"springs.friction_N", 1.0}},
         "springs.damping_ratio",
         {0.7, -0.5, -1, -1.5, -2}},
        {"hard_landing",
         {{"contacts.seat.damping_s_per_m", 0.9}, {"contacts.seat.stiffness_N_per_mm", 0.5}},
         "contacts.seat.damping_s_per_m",
         {-0.4, -0.8, -1.2, 0.4, 0.8}},
        {"pump_up",
         {{"lifter.hydraulic.supply_kPa", 0.8}, {"lifter.hydraulic.leak_mm3_per_s_per_kPa", 1.0}},
         "lifter.hydraulic.supply_kPa",
         {-0.4, 0.3, 0.6, 0.9, 1.2, 1.6, 2}},
    };
    return kDepartures;
}

Belief as_believed(const FitModel& model) {
    return {model.prior_sd(), model.size(), {}};
}

// A departure of one train's number, or of one that all trains share, and the belief under it.
struct Suspected {
    std::optional<std::size_t> only;
    Belief belief;
};

// None where the number to look along is not free: each kind of train has a row of its own.
std::vector<Suspected> suspected(const Departure& row, const FitModel& model) {
    std::vector<Suspected> out;
    for (std::size_t train = 0; train < model.trains(); ++train) {
        Belief belief = as_believed(model);
        belief.scanned = model.place_of(row.scanned, train);
        belief.scan = row.scan;
        if (belief.scanned == model.size() || (train > 0 && !model.numbers()[belief.scanned].only))
            continue; // a shared one was looked at with the first train
        for (const Widened& one : row.widened)
            if (const std::size_t at = model.place_of(one.key, train); at < model.size()) {
                double& sd = belief.sd(static_cast<Eigen::Index>(at));
                sd = std::max(sd, one.sd);
            }
        if (const std::size_t at = model.place_of(row.carried.key, train); at < model.size())
            belief.carried = {at, row.carried.per_offset};
        else if (!row.carried.key.empty())
            continue; // the row without it is another one
        out.push_back({model.numbers()[belief.scanned].only, std::move(belief)});
    }
    return out;
}

// The answer in words of the train: values, deviations, what was not told.
class Report {
  public:
    Report(const CalibrationQuery& query, const FitModel& model) : query_(query), model_(model) {}

    Calibration of(const Found& found, const std::vector<std::vector<double>>& believed_lift_m,
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

  private:
    double amount(const FreeNumber& number, double value, double offset) const {
        return number.logarithmic ? value * std::exp(offset) : value + offset;
    }

    // True where a little further the same way is refused: the train is then put at that end, as a descent
    // stops just short of it. A factor on loads has no end and no place to read back.
    static bool put_at_end(Train& train, const FreeNumber& number, double offset) {
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

    void add_numbers(const Found& found, Calibration& out) const {
        for (std::size_t i = 0; i < model_.numbers().size(); ++i) {
            const FreeNumber& number = model_.numbers()[i];
            const auto k = static_cast<Eigen::Index>(i);
            const double sd = std::sqrt(found.covariance(k, k)), offset = found.place.x(k);
            FittedNumber one{number};
            Train& train = number.of_other() ? *out.other : out.train;
            one.believed = value_of(model_.believed(number.of_other() ? 1 : 0), number);
            one.value = amount(number, one.believed, offset);
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

    void add_correlations(const Found& found, Calibration& out) const {
        const Eigen::VectorXd sd = found.covariance.diagonal().cwiseSqrt();
        for (std::size_t a = 0; a < model_.numbers().size(); ++a)
            for (std::size_t b = a + 1; b < model_.numbers().size(); ++b) {
                const auto i = static_cast<Eigen::Index>(a), k = static_cast<Eigen::Index>(b);
                const double r = found.covariance(i, k) / (sd(i) * sd(k));
                if (std::abs(r) > 0.8)
                    out.correlations.push_back(
                        {name_of(model_.numbers()[a]), name_of(model_.numbers()[b]), r});
            }
    }

    void add_residuals(const Offsets& x, const std::vector<std::vector<double>>& believed_lift_m,
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
            SpeedResidual one{seen.speed_rpm, seen.run,       rms(d), rms(b),
                              seen.held_out,  seen.crank_deg, {},     {}};
            one.difference_m.assign(d.data(), d.data() + d.size());
            one.believed_difference_m.assign(b.data(), b.data() + b.size());
            out.residuals.push_back(std::move(one));
        }
    }

    // A fit that stays far off at half of a run's speeds is of another train, or of a sensor that lies; one
    // that is off at the same angles at all slow speeds, of another lobe.
    void warn_of_run(std::size_t run, Calibration& out) const {
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

    std::string name_of_run(std::size_t run) const {
        const std::size_t own = query_.runs.size();
        const RigRun& named = run < own ? *query_.runs[run] : *query_.other->runs[run - own];
        return named.source.empty() ? fmt::format("run {}", run + 1) : named.source;
    }

    void warn(Calibration& out) const {
        for (std::size_t run = 0; run < model_.runs(); ++run)
            warn_of_run(run, out);
        for (const FittedNumber& one : out.numbers)
            if (one.at_end)
                out.warnings.push_back(
                    fmt::format("{} was held at the end of what it may be: the run asks for "
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

    // Draws from the normal distribution that the fit leaves.
    void add_draws(const Found& found, Calibration& out) const {
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

    const CalibrationQuery& query_;
    const FitModel& model_;
};

// Appends what the runs of one train show; they are numbered on from those that are there.
void observe_runs(const Train& train, const std::vector<const RigRun*>& runs, std::size_t first_run,
                  std::vector<ObservedSpeed>& out) {
    const MotionModel mechanism(train);
    std::ptrdiff_t fitted = 0;
    for (std::size_t r = 0; r < runs.size(); ++r)
        for (ObservedSpeed& one : observe(*runs[r], first_run + r, mechanism.chain().rigid_m)) {
            fitted += one.held_out ? 0 : 1;
            out.push_back(std::move(one));
        }
    if (fitted < kLeastSpeeds)
        throw InputError({runs.empty() ? "" : runs.front()->source, "calibration",
                          fmt::format("{} speeds with two good cycles or more", fitted),
                          "give a run over at least three speeds, up to where the valve leaves the lobe"});
}

// What is fitted: one train and its runs, or two.
FitModel model_of(const CalibrationQuery& query) {
    std::vector<Train> believed = {with_run_options(query.believed)};
    std::vector<ObservedSpeed> seen;
    observe_runs(believed.front(), query.runs, 0, seen);
    std::vector<std::size_t> train_of_run(query.runs.size(), 0);
    if (!query.other)
        return {believed, free_numbers(believed.front(), query.free), std::move(seen), train_of_run};
    believed.push_back(with_run_options(query.other->believed));
    observe_runs(believed.back(), query.other->runs, query.runs.size(), seen);
    train_of_run.resize(query.runs.size() + query.other->runs.size(), 1);
    return {believed, joint_numbers(believed[0], believed[1], query.free), std::move(seen), train_of_run};
}

// How many trains a whole calibration runs, for its progress: scans, steps downhill and once more, and the
// looking round two of them.
double expected_trains(const FitModel& model) {
    const double numbers = static_cast<double>(model.numbers().size()), step = numbers + 2;
    double out = 6 * step + 2 * 12 * numbers;
    for (const Departure& row : departures())
        out += static_cast<double>(suspected(row, model).size()) *
               (4 * static_cast<double>(row.scan.size()) + 3 * step);
    return out;
}

struct WeighedHypothesis {
    std::string cause;
    std::optional<std::size_t> only;
    Belief belief;
    Found found;
    std::span<const Widened> widened{};
    bool settled = false; ///< nothing better lies round it
};

bool less_likely(const WeighedHypothesis& a, const WeighedHypothesis& b) {
    return a.found.log_evidence < b.found.log_evidence;
}

// As believed, which is found already, and each departure that the free numbers allow, looked for from
// belief; `better` hears of each that explains the runs better than all before it.
std::vector<WeighedHypothesis>
look_for_departures(const Search& search, const FitModel& model, const Place& belief_itself, Found as_it_was,
                    const std::function<void(const WeighedHypothesis&)>& better) {
    std::vector<WeighedHypothesis> all = {
        {"as_believed", std::nullopt, as_believed(model), std::move(as_it_was)}};
    for (const Departure& row : departures())
        for (Suspected& one : suspected(row, model))
            all.push_back({std::string(row.cause), one.only, std::move(one.belief), {}, row.widened});
    std::vector<const Belief*> beliefs;
    for (std::size_t i = 1; i < all.size(); ++i)
        beliefs.push_back(&all[i].belief);
    const auto valleys = search.valleys(belief_itself, beliefs);
    std::mutex mutex;
    double most = all.front().found.log_evidence + kLeastEvidence;
    parallel_for(all.size() - 1, [&](std::size_t i) {
        WeighedHypothesis& one = all[i + 1];
        one.found = search.find(one.belief, belief_itself, valleys[i]);
        const std::scoped_lock lock(mutex);
        if (one.found.log_evidence > most) {
            most = one.found.log_evidence;
            better(one);
        }
    });
    return all;
}

// Once more, from where the likeliest stands: what it found of the other numbers helps the rest.
void look_from_the_likeliest(const Search& search, std::vector<WeighedHypothesis>& all) {
    const Place winner = std::max_element(all.begin(), all.end(), less_likely)->found.place;
    parallel_for(all.size(), [&](std::size_t i) {
        all[i].found = search.found_from(winner, all[i].belief, std::move(all[i].found));
    });
}

// Belief and those that may yet be the likeliest are compared by their very best.
bool look_round(const Search& search, std::vector<WeighedHypothesis>& all) {
    const double most = std::max_element(all.begin(), all.end(), less_likely)->found.log_evidence;
    const double belief = all.front().found.log_evidence;
    bool moved = false;
    for (WeighedHypothesis& one : all) {
        if (one.settled || (&one != &all.front() &&
                            one.found.log_evidence < std::max(most - kMayWin, belief + 0.5 * kLeastEvidence)))
            continue;
        const double before = one.found.log_evidence;
        one.found = search.looked_round(std::move(one.found), one.belief);
        one.settled = one.found.log_evidence < before + kWorthAnother;
        moved = moved || !one.settled;
    }
    return moved;
}

// The train of a hypothesis where its own numbers are as believed.
Train put_back(const FitModel& model, const WeighedHypothesis& one) {
    Offsets x = one.found.place.x;
    for (const Widened& number : one.widened)
        if (const std::size_t at = model.place_of(number.key, one.only.value_or(0)); at < model.size())
            x(static_cast<Eigen::Index>(at)) = 0;
    return model.train_at(x, 0);
}

// The best of each cause over as_believed, which stands first in `all`; likeliest first.
std::vector<Hypothesis> ranked(const FitModel& model, const std::vector<WeighedHypothesis>& all) {
    std::vector<Hypothesis> out;
    for (const WeighedHypothesis& one : all) {
        const double over = one.found.log_evidence - all.front().found.log_evidence;
        const auto known = std::find_if(out.begin(), out.end(), [&](const Hypothesis& h) {
            return h.cause == one.cause && h.only == one.only;
        });
        if (known != out.end() && known->log_evidence >= over)
            continue;
        Hypothesis told{one.cause, one.only, over, model.train_at(one.found.place.x, 0),
                        put_back(model, one)};
        if (known == out.end())
            out.push_back(std::move(told));
        else
            *known = std::move(told);
    }
    std::stable_sort(out.begin(), out.end(), [](const Hypothesis& a, const Hypothesis& b) {
        return a.log_evidence > b.log_evidence;
    });
    return out;
}

} // namespace

Train accepted(const Calibration& calibration, const Train& believed, const std::set<std::string>& keys) {
    Train out = with_run_options(believed);
    std::set<std::string> left = keys;
    for (const FittedNumber& one : calibration.numbers) {
        if (!one.number.moves(0) || left.erase(one.number.key) == 0)
            continue;
        const bool factor = one.number.logarithmic;
        move_number(out, one.number, factor ? std::log(one.value / one.believed) : one.value - one.believed);
        note_tolerance(out, one.number, factor ? one.sd / one.value : one.sd);
    }
    if (!left.empty())
        throw InputError({"", *left.begin(), "was not free in this calibration", "calibrate again with it"});
    return out;
}

Calibration calibrate(const CalibrationQuery& query, const CalibrationWatch& watch) {
    FitModel model = model_of(query);
    const Offsets none = Offsets::Zero(static_cast<Eigen::Index>(model.size()));
    model.fit_steps(none, watch.stop);
    double trains_so_far = 0;
    const Search search(model, watch.stop, [&, expected = expected_trains(model)](std::size_t trains) {
        trains_so_far += static_cast<double>(trains);
        if (watch.progress)
            watch.progress(std::min(0.99, trains_so_far / expected));
    });
    const auto believed_lift_m = model.lifts(none, Which::All, watch.stop);
    const Report report(query, model);

    const Place belief_itself = search.place_at(none);
    Found as_it_was = search.find(as_believed(model), belief_itself);
    if (watch.estimate) {
        Calibration first = report.of(as_it_was, believed_lift_m, watch.stop);
        first.chosen = "as_believed";
        watch.estimate(first);
    }
    std::vector<WeighedHypothesis> all = look_for_departures(
        search, model, belief_itself, std::move(as_it_was), [&](const WeighedHypothesis& better) {
            if (!watch.estimate)
                return;
            Calibration estimate = report.of(better.found, believed_lift_m, watch.stop);
            estimate.chosen = better.cause;
            estimate.chosen_only = better.only;
            watch.estimate(estimate);
        });
    if (std::max_element(all.begin(), all.end(), less_likely) != all.begin()) // else they started there
        look_from_the_likeliest(search, all);
    for (int round = 0; round < kRoundsOfLooking && look_round(search, all); ++round) {
    }
    const WeighedHypothesis* chosen = &*std::max_element(all.begin(), all.end(), less_likely);
    if (chosen->found.log_evidence < all.front().found.log_evidence + kLeastEvidence)
        chosen = &all.front();
    Calibration out = report.of(chosen->found, believed_lift_m, watch.stop);
    out.chosen = chosen->cause;
    out.chosen_only = chosen->only;
    out.hypotheses = ranked(model, all);
    out.trains_run = search.trains_run() + model.numbers().size() + 1; // those of the steps' lengths
    if (watch.progress)
        watch.progress(1);
    return out;
}

} // namespace bathmos
