// A rig on the loopback that says one train's motion over and over, by the protocol of docs/rig-stream.md.
#pragma once

#include "core/train/train.h"
#include "io/live/rig_link.h"

#include <atomic>
#include <chrono>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

namespace bathmos::bench {

struct Feed {
    std::vector<double> speeds_rpm = {6000};
    double seconds_each = 1; ///< at every speed
    double block_s = 1;      ///< what is sent at once
    double rate_Hz = 200'000;
    bool as_it_comes = false; ///< else as fast as the listener takes it
};

class RigFeeder {
  public:
    using Clock = std::chrono::steady_clock;

    RigFeeder(const Train& train, Feed feed);
    ~RigFeeder();
    RigFeeder(const RigFeeder&) = delete;
    RigFeeder& operator=(const RigFeeder&) = delete;

    std::string port;
    std::atomic<bool> done = false;
    /// When the samples of each finished turn had been sent.
    std::vector<Clock::time_point> turns_ended() const;

  private:
    void feed();
    void send_block(int socket);
    static void send(int socket, const io::Bytes& bytes);

    Feed feed_;
    std::vector<std::vector<float>> turns_; ///< lift, mm: one turn of the cam for each speed
    live::Block block_;
    std::uint64_t sent_ = 0;
    Clock::time_point begun_;
    int listening_ = -1;
    mutable std::mutex guard_; ///< of ended_
    std::vector<Clock::time_point> ended_;
    std::jthread thread_;
};

} // namespace bathmos::bench
