#include "core/calibration/calibrate.h"

#include "core/calibration/fit_report.h"
#include "core/calibration/hypotheses.h"
#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr int kRoundsOfLooking = 4;

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
    const FitReport report(query, model);

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
    const std::optional<WeighedHypothesis> two = look_for_two(search, model, all, *chosen);
    if (two)
        chosen = &*two;
    Calibration out = report.of(chosen->found, believed_lift_m, watch.stop);
    out.chosen = chosen->cause;
    out.chosen_only = chosen->only;
    out.chosen_with = chosen->with;
    out.hypotheses = ranked(model, all, two);
    out.trains_run = search.trains_run() + model.numbers().size() + 1; // those of the steps' lengths
    if (watch.progress)
        watch.progress(1);
    return out;
}

} // namespace bathmos
