#include "rig_feeder.h"

#include "core/dynamics/chain.h"
#include "core/motion/motion.h"

#include <arpa/inet.h>
#include <cmath>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

namespace bathmos::bench {

RigFeeder::RigFeeder(const Train& train, Feed feed) : feed_(std::move(feed)) {
    for (const Motion& motion : MotionModel(train).run(feed_.speeds_rpm)) {
        const auto samples =
            static_cast<std::size_t>(std::lround(120 / motion.speed_rpm * feed_.rate_Hz)); // two crank turns
        std::vector<float>& turn = turns_.emplace_back();
        for (std::size_t i = 0; i < samples; ++i) {
            const double deg = 720.0 * static_cast<double>(i) / static_cast<double>(samples) - 360;
            turn.push_back(static_cast<float>(1e3 * channel_at(motion[Channel::Lift], deg)));
        }
    }
    listening_ = ::socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in at{};
    at.sin_family = AF_INET;
    at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    socklen_t size = sizeof at;
    ::bind(listening_, reinterpret_cast<sockaddr*>(&at), size);
    ::listen(listening_, 1);
    ::getsockname(listening_, reinterpret_cast<sockaddr*>(&at), &size);
    port = std::to_string(ntohs(at.sin_port));
    thread_ = std::jthread([this] { this->feed(); });
}

RigFeeder::~RigFeeder() {
    ::close(listening_);
}

std::vector<RigFeeder::Clock::time_point> RigFeeder::turns_ended() const {
    const std::scoped_lock lock(guard_);
    return ended_;
}

void RigFeeder::send(int socket, const io::Bytes& bytes) {
    for (std::size_t sent = 0; sent < bytes.size();) {
        const ssize_t now = ::send(socket, bytes.data() + sent, bytes.size() - sent, MSG_NOSIGNAL);
        if (now <= 0)
            return;
        sent += static_cast<std::size_t>(now);
    }
}

// A pulse begins a turn, and ends the one before it.
void RigFeeder::send_block(int socket) {
    const std::uint64_t last = sent_ + block_.samples.size();
    if (feed_.as_it_comes)
        std::this_thread::sleep_until(
            begun_ + std::chrono::duration_cast<Clock::duration>(
                         std::chrono::duration<double>(static_cast<double>(last) / feed_.rate_Hz)));
    block_.first = sent_;
    send(socket, io::rig_frame(block_));
    {
        const std::scoped_lock lock(guard_);
        for (const std::uint32_t pulse : block_.pulses)
            if (sent_ + pulse > 0)
                ended_.push_back(Clock::now());
    }
    sent_ = last;
    block_.samples.clear();
    block_.pulses.clear();
}

void RigFeeder::feed() {
    const int socket = ::accept(listening_, nullptr, nullptr);
    live::Hello hello;
    hello.rig = "benchmark";
    hello.channels = {{"lift", "mm"}};
    hello.rate_Hz = feed_.rate_Hz;
    send(socket, io::rig_frame(hello));
    begun_ = Clock::now();
    const auto full = static_cast<std::size_t>(feed_.block_s * feed_.rate_Hz);
    for (const std::vector<float>& turn : turns_) {
        const double wanted = feed_.seconds_each * feed_.rate_Hz / static_cast<double>(turn.size());
        for (auto left = std::lround(wanted); left > 0; --left) {
            block_.pulses.push_back(static_cast<std::uint32_t>(block_.samples.size()));
            for (const float lift : turn) {
                block_.samples.push_back(lift);
                if (block_.samples.size() == full)
                    send_block(socket);
            }
        }
    }
    if (!block_.samples.empty())
        send_block(socket);
    done = true;
    char byte; // until the listener has heard it all
    [[maybe_unused]] const ssize_t none = ::recv(socket, &byte, 1, 0);
    ::close(socket);
}

} // namespace bathmos::bench
