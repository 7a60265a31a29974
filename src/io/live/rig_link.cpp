#include "io/live/rig_link.h"

#include "core/problem/input_error.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <memory>
#include <netdb.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <sys/socket.h>
#include <thread>
#include <unistd.h>
#include <utility>

namespace bathmos::io {

namespace {

using namespace std::chrono_literals;

constexpr int kRound_ms = 100, kConnect_ms = 3000;
constexpr auto kAgain = 1s;
constexpr std::size_t kLinkPiece = 256u << 10, kMostToSend = 1u << 20;

struct LinkSocket {
    int socket = -1;
    ~LinkSocket() {
        if (socket >= 0)
            ::close(socket);
    }
};

bool wait_for(int socket, short what, int milliseconds, const std::stop_token& stop) {
    for (int waited = 0; waited < milliseconds && !stop.stop_requested(); waited += kRound_ms) {
        pollfd one{socket, what, 0};
        if (::poll(&one, 1, std::min(kRound_ms, milliseconds)) > 0)
            return true;
    }
    return false;
}

} // namespace

std::pair<std::string, std::string> host_and_port(const std::string& text) {
    const std::size_t colon = text.rfind(':');
    const std::string port = colon == std::string::npos ? "" : text.substr(colon + 1);
    const bool number = !port.empty() && port.size() <= 5 &&
                        port.find_first_not_of("0123456789") == std::string::npos && std::stoi(port) > 0 &&
                        std::stoi(port) < 65536;
    if (!number || colon == 0)
        throw InputError({"", "address", fmt::format("\"{}\" is no address of a rig", text),
                          "give HOST:PORT, such as 127.0.0.1:4100"});
    return {text.substr(0, colon), port};
}

bool RigLink::ask(const live::Request& request) {
    const std::scoped_lock lock(guard_);
    if (!connected_ || to_send_.size() > kMostToSend)
        return false;
    const Bytes frame = rig_frame(request);
    to_send_.insert(to_send_.end(), frame.begin(), frame.end());
    return true;
}

int RigLink::connect_now(const std::stop_token& stop, std::string& why) const {
    addrinfo hints{}, *list = nullptr;
    hints.ai_socktype = SOCK_STREAM;
    if (const int bad = ::getaddrinfo(host_.c_str(), port_.c_str(), &hints, &list)) {
        why = ::gai_strerror(bad);
        return -1;
    }
    const std::unique_ptr<addrinfo, void (*)(addrinfo*)> owner(list, ::freeaddrinfo);
    for (const addrinfo* at = list; at; at = at->ai_next) {
        LinkSocket one{
            ::socket(at->ai_family, at->ai_socktype | SOCK_NONBLOCK | SOCK_CLOEXEC, at->ai_protocol)};
        if (one.socket < 0)
            continue;
        int bad = ::connect(one.socket, at->ai_addr, at->ai_addrlen) == 0 ? 0 : errno;
        if (bad == EINPROGRESS) {
            socklen_t size = sizeof bad;
            if (!wait_for(one.socket, POLLOUT, kConnect_ms, stop))
                bad = ETIMEDOUT;
            else
                ::getsockopt(one.socket, SOL_SOCKET, SO_ERROR, &bad, &size);
        }
        if (bad == 0) {
            const int on = 1; // requests go at once
            ::setsockopt(one.socket, IPPROTO_TCP, TCP_NODELAY, &on, sizeof on);
            return std::exchange(one.socket, -1);
        }
        why = std::strerror(bad);
    }
    return -1;
}

// Until the line is lost: why.
std::string RigLink::listen(int socket, const LinkEars& ears, const std::stop_token& stop) {
    FrameSplitter frames;
    Bytes piece(kLinkPiece);
    while (!stop.stop_requested()) {
        Bytes sending;
        {
            const std::scoped_lock lock(guard_);
            sending.swap(to_send_);
        }
        for (std::size_t sent = 0; sent < sending.size();) {
            const ssize_t now = ::send(socket, sending.data() + sent, sending.size() - sent, MSG_NOSIGNAL);
            if (now > 0)
                sent += static_cast<std::size_t>(now);
            else if (errno != EAGAIN && errno != EINTR)
                return std::strerror(errno);
            else if (!wait_for(socket, POLLOUT, kConnect_ms, stop))
                return "it takes no requests";
        }
        pollfd one{socket, POLLIN, 0};
        const int ready = ::poll(&one, 1, kRound_ms);
        if (ears.idle)
            ears.idle();
        if (ready <= 0)
            continue;
        const ssize_t got = ::recv(socket, piece.data(), piece.size(), 0);
        if (got == 0)
            return "the rig has closed the line";
        if (got < 0) {
            if (errno == EAGAIN || errno == EINTR)
                continue;
            return std::strerror(errno);
        }
        try {
            frames.add({piece.data(), static_cast<std::size_t>(got)});
            while (const std::optional<Bytes> content = frames.next())
                if (ears.frame)
                    ears.frame(*content, rig_message(*content));
        } catch (const InputError& error) {
            return error.what();
        }
    }
    return {};
}

void RigLink::run(const LinkEars& ears, const std::stop_token& stop) {
    std::string told;
    while (!stop.stop_requested()) {
        std::string why;
        const LinkSocket line{connect_now(stop, why)};
        if (line.socket >= 0) {
            told.clear();
            {
                const std::scoped_lock lock(guard_);
                connected_ = true;
            }
            if (ears.connected)
                ears.connected();
            why = listen(line.socket, ears, stop);
            const std::scoped_lock lock(guard_);
            connected_ = false;
            to_send_.clear();
        }
        if (stop.stop_requested())
            return;
        if (ears.lost && why != told)
            ears.lost(why);
        told = why;
        for (auto waited = 0ms; waited < kAgain && !stop.stop_requested(); waited += 50ms) {
            std::this_thread::sleep_for(50ms);
            if (ears.idle)
                ears.idle();
        }
    }
}

} // namespace bathmos::io
