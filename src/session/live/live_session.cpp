#include "session/live/live_session.h"

#include "core/problem/input_error.h"
#include "core/train/train_check.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace bathmos::session {

namespace {

using namespace std::chrono_literals;

constexpr std::size_t kMostQueued = 512, kMostNotes = 200; // turns
constexpr auto kReductions = 400ms;                        // between two
constexpr double kSpeedsApart = 0.05; // a tachometer against the index; ramps leave it behind
constexpr double kApart_s = 2.5;
constexpr double kRecentCycle_s = 2;

double seconds_since(std::chrono::steady_clock::time_point then) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - then).count();
}

} // namespace

LiveSession::LiveSession(LiveSetup setup)
    : setup_(std::move(setup)), link_(setup_.host, setup_.port), watch_(setup_.stops) {
    require_valid(setup_.train);
    asked_m_ = live::LiveRun(setup_.train, {}, setup_.limits).asked_m();
    if (!setup_.recording.empty())
        recorder_.emplace(setup_.recording);
    reducer_ = std::jthread([this](const std::stop_token& stop) { reduce(stop); });
    looker_ = std::jthread([this](const std::stop_token& stop) { look(stop); });
    listener_ = std::jthread([this](const std::stop_token& stop) { listen(stop); });
}

LiveSession::~LiveSession() {
    for (std::jthread* thread : {&listener_, &looker_, &reducer_}) {
        thread->request_stop();
        thread->join();
    }
    if (recorder_)
        record_devices(); // what was said last
}

LiveSnapshot LiveSession::snapshot() const {
    const std::scoped_lock lock(guard_);
    LiveSnapshot out = now_;
    if (run_)
        out.orders.assign(run_->orders().begin(), run_->orders().end());
    return out;
}

void LiveSession::note(const std::string& kind, MeasuredText text) {
    now_.notes.push_back({seconds_since(begun_), kind, std::move(text)});
    if (now_.notes.size() > kMostNotes)
        now_.notes.erase(now_.notes.begin());
    ++now_.number;
}

void LiveSession::end_programme() {
    programme_.reset();
    now_.programme = now_.at_speed = false;
}

void LiveSession::start(const live::Programme& programme) {
    const std::scoped_lock lock(guard_);
    if (now_.state != LiveState::Listening)
        throw InputError({"", "rig", "is not connected", "connect to it first"});
    live::check_programme(programme, now_.hello.most_rpm);
    if (now_.hello.most_rpm <= 0)
        throw InputError({"", "rig", "takes no requests", "take it through the programme by hand"});
    programme_.emplace(programme);
    watch_ = live::StopWatch(setup_.stops); // what stopped the last one is over
    now_.programme = true;
    now_.programme_done = false;
    now_.stopped.reset();
    note("programme", programme.name + " begins");
}

void LiveSession::stop(const std::string& why) {
    const std::scoped_lock lock(guard_);
    end_programme();
    const bool sent = link_.ask({live::Request::Kind::Stop, 0, 0, 0, why});
    note("stop", sent ? why : why + ": the line is not there, stop it at the rig");
}

void LiveSession::set_speed(double rpm) {
    const std::scoped_lock lock(guard_);
    end_programme();
    if (!link_.ask({live::Request::Kind::SetSpeed, 0, rpm, 0, {}}))
        note("refused", "the line is not there");
}

void LiveSession::listen(const std::stop_token& stop) {
    io::LinkEars ears;
    ears.connected = [this] {
        const std::scoped_lock lock(guard_);
        note("connected", "connected");
    };
    ears.frame = [this](std::span<const std::uint8_t> content, const std::optional<live::Message>& message) {
        hear_frame(content, message);
    };
    ears.lost = [this](const std::string& why) {
        cutter_.reset();
        if (recorder_)
            recorder_->settle();
        const std::scoped_lock lock(guard_);
        const bool was = now_.state == LiveState::Listening;
        now_.state = was || now_.state == LiveState::Lost ? LiveState::Lost : LiveState::Connecting;
        note("lost", was ? why + ": all up to here is kept, it is tried again" : why);
    };
    ears.idle = [this] {
        if (!recorder_)
            return;
        record_devices();
        recorder_->settle_if_due();
        const std::scoped_lock lock(guard_);
        now_.bytes_kept = recorder_->bytes();
        if (recorder_->not_kept() > 0 && now_.not_kept == 0)
            note("disk", "the disk has been full for too long: what comes now is NOT kept");
        now_.not_kept = recorder_->not_kept();
        if (recorder_->problem() != now_.disk_problem) {
            now_.disk_problem = recorder_->problem();
            note("disk",
                 now_.disk_problem.empty()
                     ? std::string("the disk takes readings again")
                     : now_.disk_problem + ": all before it is kept; make room, it goes on by itself");
        }
    };
    link_.run(ears, stop);
}

void LiveSession::hear_frame(std::span<const std::uint8_t> content,
                             const std::optional<live::Message>& message) {
    if (recorder_)
        recorder_->add(content);
    if (!message)
        return; // of a later version: kept, not understood
    if (const auto* hello = std::get_if<live::Hello>(&*message))
        return hear(*hello);
    if (const auto* block = std::get_if<live::Block>(&*message))
        return hear(*block);
    const std::scoped_lock lock(guard_);
    if (const auto* device = std::get_if<live::DeviceReading>(&*message))
        return take_device(*device);
    if (const auto* reading = std::get_if<live::Reading>(&*message)) {
        rig_s_ = reading->time_s;
        now_.rpm = reading->rpm;
        oil_.hear(*reading);
        take_oil();
        if (reading->oil_C && !now_.stopped) // the rig's own word counts beside a device's
            if (const auto reason = watch_.look_at_oil(*reading->oil_C))
                stop_by(*reason);
    } else if (const auto* event = std::get_if<live::RigEvent>(&*message)) {
        note("event", event->kind + (event->text.empty() ? "" : ": " + event->text));
    } else if (const auto* answer = std::get_if<live::Answer>(&*message); answer && !answer->done) {
        end_programme();
        note("refused", "the rig refuses: " + answer->text);
    }
}

void LiveSession::take_oil() {
    now_.oil_C = oil_.now_C();
    ++now_.number;
}

void LiveSession::hear_device(const live::DeviceReading& reading) {
    const std::scoped_lock lock(guard_);
    LiveDevice* at = device_named(reading.device);
    if (!at)
        return;
    // Many say one number a line: together they are what it says.
    const double now_s = seconds_since(begun_);
    live::DeviceReading all = reading;
    if (reading.rpm)
        at->rpm_s = now_s;
    else if (now_s - at->rpm_s < kSilentDevice_s)
        all.rpm = at->reading.rpm;
    if (reading.oil_C)
        at->oil_s = now_s;
    else if (now_s - at->oil_s < kSilentDevice_s)
        all.oil_C = at->reading.oil_C;
    record(all);
    take_device(all);
}

// Null where there are too many.
LiveDevice* LiveSession::device_named(const std::string& name) {
    for (LiveDevice& one : now_.devices)
        if (one.reading.device == name)
            return &one;
    if (now_.devices.size() >= kMostDevices)
        return nullptr;
    now_.devices.emplace_back().reading.device = name;
    return &now_.devices.back();
}

void LiveSession::take_device(const live::DeviceReading& reading) {
    LiveDevice* at = device_named(reading.device);
    if (!at)
        return;
    if (at->reading.oil_C && !reading.oil_C)
        note("device", fmt::format("{} says no temperature now: it is not watched", reading.device));
    if (at->silent)
        note("device", fmt::format("{} is there again", reading.device));
    at->reading = reading;
    at->heard_s = seconds_since(begun_);
    at->silent = false;
    oil_.hear(reading);
    take_oil();
    compare_speeds(*at);
    if (rig_s_ == 0 && reading.rpm)
        now_.rpm = *reading.rpm;
    if (reading.oil_C && !now_.stopped)
        if (const auto reason = watch_.look_at_oil(*reading.oil_C))
            stop_by(*reason);
}

// A wrong index (cam for crank), or a tachometer that counts two pulses for one.
void LiveSession::compare_speeds(LiveDevice& device) {
    const bool recent = seconds_since(begun_) - cycle_s_ < kRecentCycle_s;
    if (!device.reading.rpm || !recent || cycle_rpm_ < kLeastRig_rpm)
        return;
    if (std::abs(*device.reading.rpm / cycle_rpm_ - 1) <= kSpeedsApart) {
        device.apart_since_s.reset();
        device.apart_told = false;
        return;
    }
    if (!device.apart_since_s)
        device.apart_since_s = device.heard_s;
    if (device.heard_s - *device.apart_since_s > kApart_s && !std::exchange(device.apart_told, true))
        note("device", fmt::format("{} says {:.0f} rev/min, the index {:.0f}: is it a pulse of the cam or of "
                                   "the crank, and how many pulses does the tachometer count?",
                                   device.reading.device, *device.reading.rpm, cycle_rpm_));
}

std::optional<double> LiveSession::device_rpm() const {
    for (const LiveDevice& one : now_.devices)
        if (one.reading.rpm && !one.silent)
            return one.reading.rpm;
    return std::nullopt;
}

void LiveSession::look_after_devices() {
    for (LiveDevice& one : now_.devices) {
        if (one.silent || seconds_since(begun_) - one.heard_s < kSilentDevice_s)
            continue;
        one.silent = true;
        note("device", one.reading.oil_C ? fmt::format("{} is silent: its temperature is not watched now",
                                                       one.reading.device)
                                         : fmt::format("{} is silent", one.reading.device));
        one.reading = {one.reading.device, {}, {}};
        oil_.hear(one.reading);
        take_oil();
        record(one.reading);
    }
}

// With the piece that is being heard.
void LiveSession::record(const live::DeviceReading& reading) {
    if (now_.state == LiveState::Listening && !setup_.recording.empty())
        to_record_.push_back(reading);
}

void LiveSession::record_devices() {
    std::vector<live::DeviceReading> readings;
    {
        const std::scoped_lock lock(guard_);
        readings.swap(to_record_);
    }
    for (const live::DeviceReading& one : readings)
        recorder_->add(io::rig_content(one));
}

void LiveSession::hear(const live::Hello& hello) {
    cutter_.emplace(hello);
    const std::scoped_lock lock(guard_);
    oil_ = {};
    now_.oil_C.reset();
    // The same rig again goes on with the same run.
    if (now_.pieces == 0 || hello != now_.hello || !run_)
        run_.emplace(setup_.train, hello, setup_.limits, setup_.reversed);
    now_.hello = hello;
    now_.state = LiveState::Listening;
    if (now_.pieces++ > 0) {
        note("connected", fmt::format("{} is there again: piece {}", hello.rig, now_.pieces));
        if (programme_)
            programme_->ask_again();
    } else {
        note("connected", hello.rig + (hello.valve.empty() ? "" : ", " + hello.valve));
    }
}

void LiveSession::hear(const live::Block& block) {
    if (!cutter_)
        return;
    const std::uint64_t lost_before = cutter_->lost();
    std::vector<live::Turn> turns = cutter_->add(block);
    const std::scoped_lock lock(guard_);
    if (now_.oil_C)
        for (live::Turn& turn : turns)
            turn.oil_C = *now_.oil_C;
    now_.samples += block.samples.size() / now_.hello.channels.size();
    now_.lost += cutter_->lost() - lost_before;
    if (turns.empty())
        return;
    if (queue_.size() + turns.size() > kMostQueued) {
        now_.not_shown += queue_.size();
        queue_.clear();
        turns.front().follows_on = false;
    }
    queue_.insert(queue_.end(), std::make_move_iterator(turns.begin()), std::make_move_iterator(turns.end()));
    turned_.notify_one();
}

// Cycles, rules, programme.
void LiveSession::look(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
        std::vector<live::Turn> turns;
        {
            std::unique_lock lock(guard_);
            turned_.wait_for(lock, stop, 50ms, [this] { return !queue_.empty(); });
            turns.swap(queue_);
        }
        if (stop.stop_requested())
            return;
        look_at(std::move(turns));
        const std::scoped_lock lock(guard_);
        look_after_devices();
        go_on_with_programme();
        if (run_ && run_->due())
            due_.notify_one();
    }
}

void LiveSession::look_at(std::vector<live::Turn> turns) {
    // One at a time, so that the line never waits long for the lock.
    for (live::Turn& turn : turns) {
        const std::scoped_lock lock(guard_);
        if (!run_)
            return;
        const double speed = turn.speed_rpm;
        std::vector<live::Turn> one;
        one.push_back(std::move(turn));
        for (live::LiveCycle& cycle : run_->hear(one)) {
            live::SeenCycle seen{cycle.speed_rpm, cycle.time_s, cycle.good, cycle.metrics, cycle.lift_m};
            if (cycle.good)
                now_.cycle = std::move(cycle);
            if (const auto reason = watch_.look(seen); reason && !now_.stopped)
                stop_by(*reason);
        }
        cycle_rpm_ = speed;
        cycle_s_ = seconds_since(begun_);
        if (rig_s_ == 0) // a rig that says no readings of its own
            now_.rpm = device_rpm().value_or(speed);
        now_.good_cycles = run_->good_cycles();
        now_.bad_cycles = run_->bad_cycles();
        ++now_.number;
    }
}

void LiveSession::stop_by(const live::StopReason& reason) {
    now_.stopped = reason;
    end_programme();
    const bool sent = link_.ask({live::Request::Kind::Stop, 0, 0, 0, reason.told.in_words()});
    note("stop", reason.told +
                     MeasuredText(sent ? ": asked to stop" : ": STOP IT AT THE RIG, the line is not there"));
}

void LiveSession::go_on_with_programme() {
    if (!programme_ || now_.state != LiveState::Listening)
        return;
    const double time_s = rig_s_ > 0 ? rig_s_ : seconds_since(begun_);
    for (const live::Request& request : programme_->go_on({time_s, now_.rpm, now_.good_cycles}))
        if (!link_.ask(request))
            programme_->ask_again();
    now_.leg = programme_->leg();
    now_.legs = programme_->legs();
    now_.at_speed = programme_->at_speed();
    if (programme_->done()) {
        end_programme();
        now_.programme_done = true;
        note("programme", "programme done");
    }
}

void LiveSession::reduce(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
        live::ReductionWork work;
        {
            std::unique_lock lock(guard_);
            due_.wait_for(lock, stop, 200ms, [this] { return run_ && run_->due(); });
            if (stop.stop_requested())
                return;
            if (!run_ || !run_->due())
                continue;
            work = run_->work();
        }
        work.options.stop = stop;
        try {
            RigRun reduced = live::reduce(work);
            const std::scoped_lock lock(guard_);
            now_.run = std::make_shared<const RigRun>(reduced);
            if (run_)
                run_->take(std::move(reduced));
            ++now_.number;
        } catch (const InputError& error) {
            const std::scoped_lock lock(guard_);
            if (now_.notes.empty() || now_.notes.back().text.in_words() != error.what())
                note("refused", std::string(error.what()));
        } catch (const Stopped&) {
            return;
        }
        for (auto waited = 0ms; waited < kReductions && !stop.stop_requested(); waited += 50ms)
            std::this_thread::sleep_for(50ms);
    }
}

} // namespace bathmos::session
