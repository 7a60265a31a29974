#include "core/live/turn_cutter.h"

#include "core/problem/input_error.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos::live {

namespace {

constexpr std::size_t kMostOpen = 4'000'000; // readings without a pulse: the rig stands, or the index is lost

[[noreturn]] void refuse(const std::string& what) {
    throw InputError({"", "block", what, "the rig's program must be mended"});
}

} // namespace

TurnCutter::TurnCutter(const Hello& hello)
    : channels_(hello.channels.size()), lift_(lift_channel(hello)),
      to_mm_(*lift_unit_mm(hello.channels[lift_].unit)), rate_Hz_(hello.rate_Hz),
      samples_a_turn_(hello.samples_a_turn), degrees_(hello.once_per_crank_turn ? 360 : 720) {}

std::vector<Turn> TurnCutter::add(const Block& block) {
    if (block.samples.size() % channels_ != 0)
        refuse(
            fmt::format("{} numbers are no whole samples of {} channels", block.samples.size(), channels_));
    const std::size_t count = block.samples.size() / channels_;
    if (rate_Hz_ == 0 && block.pulse_rpm.size() != block.pulses.size())
        refuse(fmt::format("{} pulses with {} speeds", block.pulses.size(), block.pulse_rpm.size()));
    if (!heard_)
        next_ = block.first; // who listens late has lost nothing
    heard_ = true;
    if (block.first < next_)
        refuse(fmt::format("begins with sample {} where {} was the last", block.first, next_));
    if (block.first > next_) {
        lost_ += block.first - next_;
        open_.clear();
        in_turn_ = follows_ = false;
    }
    std::vector<Turn> out;
    std::size_t at = 0;
    for (std::size_t p = 0; p <= block.pulses.size(); ++p) {
        const bool last = p == block.pulses.size();
        const std::size_t until = last ? count : block.pulses[p];
        if (until > count || until < at)
            refuse(fmt::format("a pulse at {} of {} samples", until, count));
        if (in_turn_)
            for (; at < until; ++at)
                open_.push_back(static_cast<float>(block.samples[at * channels_ + lift_] * to_mm_));
        at = until;
        if (!last)
            finish(block.first + until, rate_Hz_ == 0 ? static_cast<double>(block.pulse_rpm[p]) : 0, out);
    }
    if (open_.size() > kMostOpen) {
        open_.clear();
        in_turn_ = follows_ = false;
    }
    next_ = block.first + count;
    return out;
}

void TurnCutter::finish(std::uint64_t pulse, double pulse_rpm, std::vector<Turn>& out) {
    if (in_turn_ && !open_.empty()) {
        Turn turn;
        const auto count = static_cast<double>(open_.size());
        turn.speed_rpm = rate_Hz_ > 0 ? degrees_ / 6 * rate_Hz_ / count : pulse_rpm;
        const double speed = turn.speed_rpm > 0 ? turn.speed_rpm : 1;
        time_s_ = rate_Hz_ > 0 ? static_cast<double>(pulse) / rate_Hz_ : time_s_ + degrees_ / 6 / speed;
        turn.time_s = time_s_;
        turn.follows_on = follows_;
        turn.crank_deg.reserve(open_.size());
        for (std::size_t i = 0; i < open_.size(); ++i)
            turn.crank_deg.push_back(static_cast<float>(degrees_ * static_cast<double>(i) / count));
        turn.lift_mm = std::move(open_);
        // An encoder's turn has its number of samples, or pulses were lost or made up.
        const bool whole = rate_Hz_ > 0 || std::abs(count - samples_a_turn_) <= 1;
        follows_ = whole;
        if (whole && turn.speed_rpm >= kLeastRig_rpm && turn.speed_rpm <= kMostRig_rpm)
            out.push_back(std::move(turn));
    }
    in_turn_ = true;
    open_.clear();
}

void OilHeard::hear(const DeviceReading& reading) {
    if (reading.oil_C) {
        device_C_ = reading.oil_C;
        device_ = reading.device;
    } else if (reading.device == device_) {
        device_C_.reset();
    }
}

void append(const Turn& turn, RigTrace& trace) {
    trace.turns.push_back(
        {turn.speed_rpm, trace.lift_mm.size(), turn.lift_mm.size(), turn.follows_on, turn.oil_C});
    trace.crank_deg.insert(trace.crank_deg.end(), turn.crank_deg.begin(), turn.crank_deg.end());
    trace.lift_mm.insert(trace.lift_mm.end(), turn.lift_mm.begin(), turn.lift_mm.end());
}

} // namespace bathmos::live
