#include "core/plan/forecast.h"

#include "core/fit/judgement.h"
#include "core/motion/quick_limit.h"
#include "core/problem/input_error.h"
#include "core/train/train_check.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <fmt/format.h>
#include <mutex>
#include <random>

namespace bathmos::plan {

namespace {

constexpr double kFar = 4;            // deviations behind the best: not drawn
constexpr double kLeastFar_rpm = 200; // however sure the draws are
constexpr double kMostOff = 2.5;      // deviations that a draw goes
constexpr std::size_t kFewest = 4;    // draws that tell a deviation at all

// What is known of a train standing still: its open load, and why it is not put on the rig ("" where it may
// be).
Forecast judged(const Train& train) {
    Forecast out;
    if (const auto problems = check_train(train); !problems.empty()) {
        out.stopped = problems.front().location + ": " + problems.front().what;
        return out;
    }
    try {
        const RigidMotion rigid(train, curve_of(train.lobe));
        out.open_N = load_of(train.springs, train.installed_height_m - rigid.peak_m());
        Assembly assembly;
        assembly.train = train;
        const TrainFigures figures = figures_of(train, rigid);
        out.moving_kg = figures.equivalent_mass_total_kg;
        for (const Finding& finding : judge_fit(assembly, figures, rigid, {}).findings)
            if (finding.severity == Severity::Stop && out.stopped.empty())
                out.stopped = in_words(finding);
    } catch (const InputError& error) {
        out.stopped = error.problem().what;
    }
    return out;
}

std::uint64_t hash_of(const std::string& key, double value, std::size_t draw, unsigned seed) {
    std::uint64_t out = 1469598103934665603ull; // FNV-1a [Fowler, Noll & Vo]
    const auto take = [&](std::uint64_t word) {
        for (int byte = 0; byte < 8; ++byte, word >>= 8)
            out = (out ^ (word & 0xff)) * 1099511628211ull;
    };
    for (const char c : key)
        take(static_cast<unsigned char>(c));
    take(std::bit_cast<std::uint64_t>(value));
    take(draw / 2); // pairs of opposite draws
    take(seed);
    return out;
}

double off_of(const std::string& key, double value, std::size_t draw, unsigned seed) {
    std::mt19937_64 engine(hash_of(key, value, draw, seed));
    const double z = std::clamp(std::normal_distribution<double>()(engine), -kMostOff, kMostOff);
    return draw % 2 ? -z : z;
}

double deviation_of(const std::vector<double>& moved) {
    double squares = 0;
    for (const double one : moved)
        squares += one * one;
    return std::sqrt(squares / static_cast<double>(moved.size()));
}

// Slow work in two passes over candidates, with one account of what is done.
class Forecaster {
  public:
    Forecaster(const Campaign& campaign, const std::vector<Candidate>& candidates, const ForecastQuery& query,
               const ProgressSink& progress, const std::stop_token& stop)
        : campaign_(campaign), candidates_(candidates), query_(query), progress_(progress), stop_(stop),
          out_(candidates.size()) {}

    std::vector<Forecast> run() {
        const std::size_t base = baseline();
        judge(base);
        if (!out_[base].stopped.empty())
            throw InputError({"", "baseline", "cannot be run: " + out_[base].stopped,
                              "mend the train, or choose another baseline"});
        const Train& train = *candidates_[base].train;
        quick_ = query_for_many(train, MotionModel(train),
                                {.range = campaign_.range, .limits = query_.limits}, stop_);
        expect(base);
        each(candidates_.size(), 0.0, 0.4, [&](std::size_t i) {
            if (i == base)
                return;
            judge(i);
            if (out_[i].stopped.empty())
                expect(i);
        });
        move_alike(base);
        const std::vector<std::size_t> near = near_the_best(base);
        each(near.size(), 0.45, 1.0, [&](std::size_t i) { move_alike(near[i]); });
        if (progress_)
            progress_(1);
        return std::move(out_);
    }

  private:
    std::size_t baseline() const {
        const auto at = std::ranges::find(candidates_, campaign_.baseline, &Candidate::levels);
        if (at == candidates_.end())
            throw InputError({"", "baseline", "is none of the combinations", "choose one of the levels"});
        return static_cast<std::size_t>(at - candidates_.begin());
    }
    void judge(std::size_t i) {
        const Candidate& one = candidates_[i];
        if (one.train)
            out_[i] = judged(*one.train);
        else
            out_[i].stopped = one.refused;
    }
    // Of a train much like the baseline, the low speed of that for all.
    std::optional<double> limit_of(const Train& train, std::optional<double> near_rpm) const {
        try {
            const MotionModel model(train);
            QuickLimitQuery query = quick_;
            if (near_rpm)
                query.near_rpm = *near_rpm;
            else
                query = after_estimate(query, estimate_limit(model, query, stop_));
            return refine_limit(model, query, stop_).speed_rpm.value_or(campaign_.range.last_rpm);
        } catch (const InputError&) {
            return std::nullopt; // too stiff to follow
        }
    }
    void expect(std::size_t i) {
        const auto limit = limit_of(*candidates_[i].train, std::nullopt);
        if (!limit) {
            out_[i].stopped = "the model cannot run it";
            return;
        }
        out_[i].limit_rpm = *limit;
        out_[i].in_range = *limit < campaign_.range.last_rpm;
    }
    void move_alike(std::size_t i) {
        Forecast& one = out_[i];
        one.moved_rpm.clear();
        for (std::size_t draw = 0; draw < query_.draws; ++draw) {
            throw_if_stopped(stop_);
            const auto limit = limit_of(drawn_alike(*candidates_[i].train, draw, query_.seed), one.limit_rpm);
            one.moved_rpm.push_back(limit ? *limit - one.limit_rpm : 0);
        }
    }
    std::vector<std::size_t> near_the_best(std::size_t base) const {
        double best = 0;
        for (const Forecast& one : out_)
            if (one.stopped.empty())
                best = std::max(best, one.limit_rpm);
        const double far = std::max(kLeastFar_rpm, kFar * deviation_of(out_[base].moved_rpm));
        std::vector<std::size_t> near;
        for (std::size_t i = 0; i < out_.size(); ++i)
            if (i != base && out_[i].stopped.empty() && out_[i].limit_rpm >= best - far)
                near.push_back(i);
        return near;
    }
    // A train to a worker.
    void each(std::size_t count, double from, double to, const std::function<void(std::size_t)>& body) {
        std::atomic<std::size_t> next = 0, done = 0;
        parallel_for(worker_count(), [&](std::size_t) {
            for (std::size_t i = next++; i < count; i = next++) {
                throw_if_stopped(stop_);
                body(i);
                const double share = static_cast<double>(++done) / static_cast<double>(count);
                if (const std::scoped_lock lock(guard_); progress_)
                    progress_(from + (to - from) * share);
            }
        });
    }

    const Campaign& campaign_;
    const std::vector<Candidate>& candidates_;
    const ForecastQuery& query_;
    const ProgressSink& progress_;
    const std::stop_token& stop_;
    QuickLimitQuery quick_;
    std::vector<Forecast> out_;
    std::mutex guard_;
};

} // namespace

Train drawn_alike(const Train& train, std::size_t draw, unsigned seed) {
    Train out = train;
    // A load table's number is a share of itself: which spring it is, its load tells.
    const double spring = load_of(train.springs, train.installed_height_m);
    for (const UncertainInput& input : uncertain_inputs(train)) {
        const double value =
            input.key.starts_with("springs") ? spring : value_of(train, input.key).value_or(0);
        out = moved(std::move(out), input, 0.5 * off_of(input.key, value, draw, seed));
    }
    return check_train(out).empty() ? out : train;
}

std::vector<Forecast> forecast(const Campaign& campaign, const std::vector<Candidate>& candidates,
                               const ForecastQuery& query, const ProgressSink& progress,
                               const std::stop_token& stop) {
    check_campaign(campaign);
    if (query.draws < kFewest)
        throw InputError({"", "draws", fmt::format("{} are too few", query.draws),
                          fmt::format("ask for at least {}", kFewest)});
    return Forecaster(campaign, candidates, query, progress, stop).run();
}

} // namespace bathmos::plan
