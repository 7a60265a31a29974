// A stand-in rig on the loopback, in a thread of the test: at several times its own pace, with a line that
// can be cut and a mouth that can say nonsense.
#pragma once

#include "io/live/rig_cbor.h"
#include "standin/rig/live_rig.h"

#include <atomic>
#include <string>
#include <thread>

namespace bathmos::test {

class RigServer {
  public:
    explicit RigServer(const standin::LiveRigSetup& setup, double pace = 6);
    ~RigServer();
    RigServer(const RigServer&) = delete;
    RigServer& operator=(const RigServer&) = delete;

    std::string port() const { return port_; }
    void cut_line() { cut_ = true; }                   ///< closes it; the next connection is taken
    void say(io::Bytes bytes);                         ///< in the middle of the stream
    std::uint64_t samples() const { return samples_; } ///< sent
    double rpm() const { return rpm_; }

  private:
    void serve(const std::stop_token& stop);
    void serve_one(int socket, const std::stop_token& stop);

    standin::LiveRig rig_;
    double pace_;
    std::string port_;
    int listening_ = -1;
    std::atomic<bool> cut_ = false, nonsense_ = false;
    io::Bytes nonsense_bytes_;
    std::atomic<std::uint64_t> samples_ = 0;
    std::atomic<double> rpm_ = 0;
    std::jthread thread_;
};

} // namespace bathmos::test
