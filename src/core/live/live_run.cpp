#include "core/live/live_run.h"

#include "core/motion/motion.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace bathmos::live {

namespace {

constexpr std::size_t kKeptCycles = 24;          // of each speed: they tell mean and spread
constexpr std::size_t kLeastHeld = 8;            // cycles that make a speed a step
constexpr std::size_t kMostSpeeds = 400;         // more: those with the fewest cycles are forgotten
constexpr double kSameSpeed = 0.01;              // as cycles are grouped
constexpr std::uint64_t kFirst = 6, kEvery = 12; // cycles before the first reduction, and between two
constexpr double kLeastStroke_mm = 0.5;          // of any valve
constexpr double kWeak = 0.5;                    // of the usual stroke: no cycle of this valve
constexpr double kOrderMix = 0.2;                // of a new cycle in its speed's line

} // namespace

std::vector<double> seated_orders(const std::vector<double>& lift_m) {
    // From a quarter turn after the nose to a quarter before: on the base circle for all but the longest
    // lobes.
    constexpr std::size_t half = kGridSteps / 2, from = kGridSteps - half / 2;
    std::vector<double> residue(half);
    double mean = 0, slope = 0, squares = 0;
    for (std::size_t i = 0; i < half; ++i) {
        residue[i] = lift_m[(from + i) % kGridSteps];
        mean += residue[i] / half;
    }
    const double middle = 0.5 * (half - 1);
    for (std::size_t i = 0; i < half; ++i) {
        const double x = static_cast<double>(i) - middle;
        slope += x * residue[i];
        squares += x * x;
    }
    slope /= squares;
    double weights = 0;
    for (std::size_t i = 0; i < half; ++i) {
        const double window =
            0.5 - 0.5 * std::cos(2 * std::numbers::pi * static_cast<double>(i) / (half - 1));
        residue[i] = window * (residue[i] - mean - slope * (static_cast<double>(i) - middle));
        weights += window;
    }
    std::vector<double> out;
    for (std::size_t order = 1; order <= kOrders; ++order) {
        std::complex<double> sum = 0;
        const std::complex<double> turn =
            std::polar(1.0, -2 * std::numbers::pi * static_cast<double>(order) / kGridSteps);
        std::complex<double> at = 1;
        for (std::size_t i = 0; i < half; ++i, at *= turn)
            sum += residue[i] * at;
        out.push_back(2 * std::abs(sum) / weights);
    }
    return out;
}

LiveRun::LiveRun(const Train& train, const Hello& hello, const LimitsInForce& limits, bool reversed)
    : train_(std::make_shared<const Train>(train)), once_per_crank_turn_(hello.once_per_crank_turn) {
    options_.reversed = reversed;
    options_.limits = limits;
    const MotionModel model(train);
    rigid_m_ = model.chain().rigid_m;
    seat_m_ = -rest_of(model.chain()).position_m[model.chain().lift_dof()];
}

LiveRun::Speed& LiveRun::speed_of(double speed_rpm) {
    auto at = std::ranges::find_if(
        speeds_, [&](const Speed& one) { return std::abs(one.speed_rpm / speed_rpm - 1) < kSameSpeed; });
    if (at == speeds_.end()) {
        if (speeds_.size() == kMostSpeeds) // what was passed through tells least
            speeds_.erase(std::ranges::min_element(speeds_, {}, &Speed::heard));
        at = std::ranges::find_if(speeds_, [&](const Speed& one) { return one.speed_rpm > speed_rpm; });
        at = speeds_.insert(at, Speed{speed_rpm, {}, 0});
    }
    return *at;
}

std::vector<LiveCycle> LiveRun::hear(const std::vector<Turn>& turns) {
    std::vector<LiveCycle> out;
    for (const Turn& turn : turns) {
        std::vector<const Turn*> cycle = {&turn};
        if (once_per_crank_turn_) {
            if (!first_half_ || !turn.follows_on) {
                first_half_ = turn;
                continue;
            }
            cycle = {&*first_half_, &turn};
        }
        LiveCycle shown_now = shown(cycle);
        ++(shown_now.good ? good_ : bad_);
        if (shown_now.good) {
            Speed& speed = speed_of(turn.speed_rpm);
            for (const Turn* one : cycle)
                speed.turns.push_back(*one);
            while (speed.turns.size() > kKeptCycles * cycle.size())
                speed.turns.pop_front();
            ++speed.heard;
            ++heard_;
            note_orders(shown_now);
        }
        first_half_.reset();
        out.push_back(std::move(shown_now));
    }
    return out;
}

LiveCycle LiveRun::shown(const std::vector<const Turn*>& cycle) {
    LiveCycle out;
    out.speed_rpm = cycle.back()->speed_rpm;
    out.time_s = cycle.back()->time_s;
    RigTrace trace;
    trace.once_per_crank_turn = once_per_crank_turn_;
    for (const Turn* turn : cycle)
        append(*turn, trace);
    trace.turns.back().follows_on = true;
    const std::vector<rig::CyclePlaces> places = rig::group_cycles(trace);
    if (places.empty())
        return out;
    const rig::SpeedGroup group = rig::read_group(trace, places.front(), options_);
    if (group.cycles.empty())
        return out;
    const auto [low, high] = std::ranges::minmax_element(group.cycles.front());
    const double stroke = *high - *low;
    if (stroke < kLeastStroke_mm)
        return out; // dead, or its target lost: no measure for those that follow
    if (stroke_mm_ > 0 && (stroke < kWeak * stroke_mm_ || stroke > stroke_mm_ / kWeak))
        return out;
    stroke_mm_ = stroke_mm_ > 0 ? 0.95 * stroke_mm_ + 0.05 * stroke : stroke;
    out.good = true;
    if (!run_ || run_->steps.empty())
        return out;
    const RigStep& step = run_->steps[run_->nearest(out.speed_rpm)];
    const rig::CycleFrame frame{run_->phase_deg, step.zero_mm, run_->seat_m, run_->noise_m,
                                options_.limits.check_lift_m};
    out.lift_m = rig::aligned_m(group.cycles.front(), frame);
    // Which of two crank turns holds the nose: the one that lifts there.
    if (once_per_crank_turn_ && out.lift_m[0] > out.lift_m[kGridSteps / 2]) {
        std::rotate(out.lift_m.begin(), out.lift_m.begin() + kGridSteps / 2, out.lift_m.end() - 1);
        out.lift_m.back() = out.lift_m.front();
    }
    out.metrics = rig::metrics_of(out.lift_m, rigid_m_, out.speed_rpm, frame);
    return out;
}

void LiveRun::note_orders(const LiveCycle& cycle) {
    if (cycle.lift_m.empty())
        return;
    const std::vector<double> now = seated_orders(cycle.lift_m);
    auto at = std::ranges::find_if(orders_, [&](const OrderLine& one) {
        return std::abs(one.speed_rpm / cycle.speed_rpm - 1) < kSameSpeed;
    });
    if (at != orders_.end()) {
        for (std::size_t i = 0; i < kOrders; ++i)
            at->amplitude_m[i] += kOrderMix * (now[i] - at->amplitude_m[i]);
        return;
    }
    if (orders_.size() == kMostSpeeds)
        orders_.pop_front();
    at = std::ranges::find_if(orders_, [&](const OrderLine& one) { return one.speed_rpm > cycle.speed_rpm; });
    orders_.insert(at, {cycle.speed_rpm, now});
}

bool LiveRun::due() const {
    return run_ ? heard_ >= seen_ + kEvery : heard_ >= kFirst;
}

ReductionWork LiveRun::work() {
    seen_ = heard_;
    ReductionWork out{{}, train_, options_};
    out.trace.source = "the running rig";
    out.trace.once_per_crank_turn = once_per_crank_turn_;
    const std::size_t turns = once_per_crank_turn_ ? 2 : 1;
    const bool any_held = std::ranges::any_of(
        speeds_, [&](const Speed& speed) { return speed.turns.size() >= kLeastHeld * turns; });
    for (const Speed& speed : speeds_) {
        if (any_held && speed.turns.size() < kLeastHeld * turns)
            continue; // passed through on the way to another
        bool first = true;
        for (const Turn& turn : speed.turns) {
            append(turn, out.trace);
            if (first)
                out.trace.turns.back().follows_on = false;
            first = false;
        }
    }
    return out;
}

void LiveRun::take(RigRun run) {
    run_ = std::move(run);
}

RigRun reduce(const ReductionWork& work) {
    return bathmos::reduce(work.trace, *work.train, work.options);
}

} // namespace bathmos::live
