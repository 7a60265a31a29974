#include "session/rig_server.h"

#include <QtGlobal>
#include <arpa/inet.h>
#include <netinet/in.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace bathmos::test {

namespace {

constexpr double kPiece_s = 0.02;

bool send_all(int socket, const io::Bytes& bytes) {
    for (std::size_t sent = 0; sent < bytes.size();) {
        const ssize_t now = ::send(socket, bytes.data() + sent, bytes.size() - sent, MSG_NOSIGNAL);
        if (now <= 0)
            return false;
        sent += static_cast<std::size_t>(now);
    }
    return true;
}

} // namespace

RigServer::RigServer(const standin::LiveRigSetup& setup, double pace) : rig_(setup), pace_(pace) {
    listening_ = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
    sockaddr_in at{};
    at.sin_family = AF_INET;
    at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    socklen_t size = sizeof at;
    if (::bind(listening_, reinterpret_cast<sockaddr*>(&at), size) != 0 || ::listen(listening_, 1) != 0 ||
        ::getsockname(listening_, reinterpret_cast<sockaddr*>(&at), &size) != 0)
        qFatal("no port");
    port_ = std::to_string(ntohs(at.sin_port));
    thread_ = std::jthread([this](const std::stop_token& stop) { serve(stop); });
}

RigServer::~RigServer() {
    thread_.request_stop();
    thread_.join();
    ::close(listening_);
}

void RigServer::say(io::Bytes bytes) {
    nonsense_bytes_ = std::move(bytes);
    nonsense_ = true;
}

void RigServer::serve(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
        pollfd one{listening_, POLLIN, 0};
        if (::poll(&one, 1, 20) <= 0)
            continue;
        const int socket = ::accept(listening_, nullptr, nullptr);
        cut_ = false;
        serve_one(socket, stop);
        ::close(socket);
    }
}

void RigServer::serve_one(int socket, const std::stop_token& stop) {
    io::FrameSplitter heard;
    if (!send_all(socket, io::rig_frame(rig_.hello())))
        return;
    while (!stop.stop_requested() && !cut_) {
        pollfd one{socket, POLLIN, 0};
        if (::poll(&one, 1, int(1000 * kPiece_s / pace_)) > 0) {
            io::Bytes bytes(4096);
            const ssize_t got = ::recv(socket, bytes.data(), bytes.size(), 0);
            if (got <= 0)
                return;
            bytes.resize(std::size_t(got));
            heard.add(bytes);
            while (const auto content = heard.next())
                if (const auto message = io::rig_message(*content))
                    if (const auto* request = std::get_if<live::Request>(&*message))
                        if (!send_all(socket, io::rig_frame(rig_.ask(*request))))
                            return;
        }
        if (nonsense_.exchange(false) && !send_all(socket, nonsense_bytes_))
            return;
        for (const live::Message& message : rig_.advance(kPiece_s)) {
            if (const auto* block = std::get_if<live::Block>(&message))
                samples_ += block->samples.size() / rig_.hello().channels.size();
            if (!send_all(socket, io::rig_frame(message)))
                return;
        }
        rpm_ = rig_.rpm();
    }
}

} // namespace bathmos::test
