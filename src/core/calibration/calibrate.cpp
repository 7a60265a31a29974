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

// How far a calibration has come. Each part of it that is not the last takes the same share of what is left;
// that there will be another is not known before.
class Progress {
  public:
    explicit Progress(const ProgressSink& sink) : sink_(sink) {}
    void part(double expected_trains) {
        from_ = share();
        trains_ = 0;
        expected_ = expected_trains;
    }
    void ran(std::size_t trains) {
        trains_ += static_cast<double>(trains);
        if (sink_)
            sink_(share());
    }
    void finish() {
        if (sink_)
            sink_(1);
    }

  private:
    static constexpr double kOfWhatIsLeft = 0.8;
    double share() const { return from_ + kOfWhatIsLeft * (1 - from_) * std::min(1.0, trains_ / expected_); }

    const ProgressSink& sink_;
    double from_ = 0, trains_ = 0, expected_ = 1;
};

// How many trains a search for one departure runs: scans, steps downhill and once more, and the looking round
// two of them.
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

namespace {

constexpr double kTrainsForTwo = 1200; // by how many are run on the engines of docs/calibration.md

using Better = std::function<void(const WeighedHypothesis&)>;

// What explains the runs, as far as it was looked for; as believed stands first.
struct Explained {
    std::vector<WeighedHypothesis> all;
    std::size_t likeliest = 0;              ///< what one departure is chosen, or belief
    std::optional<WeighedHypothesis> two{}; ///< chosen where it is there
    const WeighedHypothesis& chosen() const { return two ? *two : all[likeliest]; }
};

Explained explained(const Search& search, const FitModel& model, const Place& belief_itself, Found as_it_was,
                    const Better& better, Progress& progress) {
    Explained out{look_for_departures(search, model, belief_itself, std::move(as_it_was), better)};
    std::vector<WeighedHypothesis>& all = out.all;
    if (std::max_element(all.begin(), all.end(), less_likely) != all.begin()) // else they started there
        look_from_the_likeliest(search, all);
    for (int round = 0; round < kRoundsOfLooking && look_round(search, all); ++round) {
    }
    const auto likeliest = std::max_element(all.begin(), all.end(), less_likely);
    if (likeliest->found.log_evidence >= all.front().found.log_evidence + kLeastEvidence)
        out.likeliest = static_cast<std::size_t>(likeliest - all.begin());
    progress.part(kTrainsForTwo);
    out.two = look_for_two(search, model, all, out.chosen());
    return out;
}

std::optional<OffTrend> missed_by(const Explained& one, const FitModel& model, const std::stop_token& stop) {
    const Offsets& x = one.chosen().found.place.x;
    return missed_onset(model.off_trends(x, model.lifts(x, Which::Fitted, stop)));
}

} // namespace

Calibration calibrate(const CalibrationQuery& query, const CalibrationWatch& watch) {
    FitModel model = model_of(query);
    const Offsets none = Offsets::Zero(static_cast<Eigen::Index>(model.size()));
    model.fit_steps(none, watch.stop);
    Progress progress(watch.progress);
    progress.part(expected_trains(model));
    const auto ran = [&](std::size_t trains) { progress.ran(trains); };
    const Search search(model, watch.stop, ran);
    const auto believed_lift_m = model.lifts(none, Which::All, watch.stop);
    const FitReport report(query, model);

    const Place belief_itself = search.place_at(none);
    Found as_it_was = search.find(as_believed(model), belief_itself);
    if (watch.estimate) {
        Calibration first = report.of(as_it_was, believed_lift_m, watch.stop);
        first.chosen = "as_believed";
        watch.estimate(first);
    }
    const Better better = [&](const WeighedHypothesis& one) {
        if (!watch.estimate)
            return;
        Calibration estimate = report.of(one.found, believed_lift_m, watch.stop);
        estimate.chosen = one.cause;
        estimate.chosen_only = one.only;
        watch.estimate(estimate);
    };
    Explained best = explained(search, model, belief_itself, std::move(as_it_was), better, progress);
    std::size_t trains = search.trains_run();
    auto missed = missed_by(best, model, watch.stop);
    if (missed) { // once more, led by what the onset shows
        progress.part(expected_trains(model));
        const FitModel heeding = model.heeding_trend();
        const Search again(heeding, watch.stop, ran);
        const Place from = again.place_at(none);
        Explained led =
            explained(again, heeding, from, again.find(as_believed(heeding), from), better, progress);
        trains += again.trains_run();
        if (led.chosen().cause != "as_believed") {
            best = std::move(led);
            missed = missed_by(best, model, watch.stop);
        }
    }
    const WeighedHypothesis& chosen = best.chosen();
    Calibration out = report.of(chosen.found, believed_lift_m, watch.stop);
    out.chosen = chosen.cause;
    out.chosen_only = chosen.only;
    out.chosen_with = chosen.with;
    out.hypotheses = ranked(model, best.all, best.two);
    if (missed)
        report.warn_of_onset(*missed, out);
    out.trains_run = trains + model.numbers().size() + 1; // those of the steps' lengths
    progress.finish();
    return out;
}

} // namespace bathmos
