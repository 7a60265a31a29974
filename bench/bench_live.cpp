// An hour of a rig at 200 000 samples a second, as fast as the loopback takes it: what is lost, how memory
// stands at the beginning and the end, what it costs.
#include "core/dynamics/chain.h"
#include "core/motion/motion.h"
#include "core/train/train_starter.h"
#include "session/live/live_session.h"
#include "timing.h"

#include <arpa/inet.h>
#include <atomic>
#include <filesystem>
#include <fmt/format.h>
#include <fstream>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

using namespace bathmos;

namespace {

constexpr double kRate = 200'000, kSpeed_rpm = 6000;
constexpr std::size_t kTurn = 4000; // samples a cam turn: 50 turns a second

double memory_MB() {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("VmRSS:"))
            return std::stod(line.substr(6)) / 1024;
    return 0;
}

// Fifty turns of a train's motion, a second of samples, over and over.
class Feeder {
  public:
    Feeder(const Train& train, double hours) : blocks_(static_cast<std::size_t>(hours * 3600)) {
        const Motion motion = std::move(MotionModel(train).run({kSpeed_rpm}).front());
        block_.pulses.clear();
        for (std::size_t i = 0; i < static_cast<std::size_t>(kRate); ++i) {
            if (i % kTurn == 0)
                block_.pulses.push_back(static_cast<std::uint32_t>(i));
            const double deg = 720.0 * static_cast<double>(i % kTurn) / kTurn - 360;
            block_.samples.push_back(static_cast<float>(1e3 * channel_at(motion[Channel::Lift], deg)));
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
        thread_ = std::jthread([this] { feed(); });
    }
    ~Feeder() { ::close(listening_); }
    std::string port;
    std::atomic<bool> done = false;

  private:
    void send(int socket, const io::Bytes& bytes) {
        for (std::size_t sent = 0; sent < bytes.size();) {
            const ssize_t now = ::send(socket, bytes.data() + sent, bytes.size() - sent, MSG_NOSIGNAL);
            if (now <= 0)
                return;
            sent += static_cast<std::size_t>(now);
        }
    }
    void feed() {
        const int socket = ::accept(listening_, nullptr, nullptr);
        live::Hello hello;
        hello.rig = "benchmark";
        hello.channels = {{"lift", "mm"}};
        hello.rate_Hz = kRate;
        send(socket, io::rig_frame(hello));
        for (std::size_t i = 0; i < blocks_; ++i) {
            block_.first = i * static_cast<std::uint64_t>(kRate);
            send(socket, io::rig_frame(block_));
        }
        done = true;
        char byte; // until the listener has heard it all
        [[maybe_unused]] const ssize_t none = ::recv(socket, &byte, 1, 0);
        ::close(socket);
    }

    std::size_t blocks_;
    live::Block block_;
    int listening_ = -1;
    std::jthread thread_;
};

} // namespace

int main(int argc, char** argv) {
    const double hours = argc > 1 ? std::atof(argv[1]) : 1.0;
    const std::filesystem::path file =
        std::filesystem::temp_directory_path() / fmt::format("bathmos-bench-{}.rig-stream", ::getpid());
    {
        Feeder feeder(starter_train(), hours);
        session::LiveSetup setup;
        setup.host = "127.0.0.1";
        setup.port = feeder.port;
        setup.train = starter_train();
        setup.recording = file;
        session::LiveSession session(setup);
        const auto wanted = static_cast<std::uint64_t>(hours * 3600 * kRate);
        double early = 0;
        const double seconds = bench::seconds_of([&] {
            while (session.snapshot().samples < wanted) {
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
                if (early == 0 && session.snapshot().samples > wanted / 20)
                    early = memory_MB();
            }
        });
        const session::LiveSnapshot now = session.snapshot();
        fmt::print("{:.2f} hours at {:.0f} samples/s in {:.1f} s ({:.0f} times as fast as it came)\n", hours,
                   kRate, seconds, hours * 3600 / seconds);
        fmt::print("samples {}, lost {}, cycles shown {}, not shown {}\n", now.samples, now.lost,
                   now.good_cycles + now.bad_cycles, now.not_shown);
        fmt::print("memory {:.0f} MB after a twentieth, {:.0f} MB at the end\n", early, memory_MB());
    }
    fmt::print("recording {:.0f} MB\n", static_cast<double>(std::filesystem::file_size(file)) / 1e6);
    std::filesystem::remove(file);
}
