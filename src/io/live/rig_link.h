// The line to a running rig over TCP: frames as they come, requests to it, lost and taken up again.
#pragma once

#include "io/live/rig_cbor.h"

#include <functional>
#include <mutex>
#include <stop_token>
#include <string>

namespace bathmos::io {

/// What a link tells; all from the thread that runs it.
struct LinkEars {
    std::function<void()> connected{};
    /// A frame's content, and its message where this version knows it.
    std::function<void(std::span<const std::uint8_t> content, std::optional<live::Message> message)> frame{};
    std::function<void(const std::string& why)> lost{}; ///< once for each loss; it is tried again
    std::function<void()> idle{};                       ///< some ten times a second
};

class RigLink {
  public:
    RigLink(std::string host, std::string port) : host_(std::move(host)), port_(std::move(port)) {}

    /// Runs until stopped: connects, listens, connects again a second after a loss. A stream that cannot be
    /// followed (no rig, a frame of gigabytes) is a loss, too.
    void run(const LinkEars& ears, const std::stop_token& stop);
    /// Sends with the next round; from any thread. False while there is no connection.
    bool ask(const live::Request& request);

  private:
    int connect_now(const std::stop_token& stop, std::string& why) const;
    std::string listen(int socket, const LinkEars& ears, const std::stop_token& stop);

    std::string host_, port_;
    std::mutex guard_;
    Bytes to_send_;
    bool connected_ = false;
};

/// "host:port" apart. Throws InputError for anything else.
std::pair<std::string, std::string> host_and_port(const std::string& text);

} // namespace bathmos::io
