// The one mechanism for slow work: a piece of it runs on a thread of its own, what it posts is delivered on
// its owner's thread, in order, and never after it was stopped or started anew (out of date by number).
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <thread>

namespace bathmos::session {

class Background {
  public:
    using Call = std::function<void()>;
    /// Runs a call on the owner's thread, later; called from any thread. A window queues it in its event
    /// loop.
    using Deliver = std::function<void(Call)>;
    /// Queues a call for the owner.
    using Post = std::function<void(Call)>;
    /// The work; it may throw Stopped (silently ends) or any exception (its words go to `ended`).
    using Work = std::function<void(const std::stop_token& stop, const Post& post)>;
    /// Called on the owner's thread at the end, with "" or what went wrong; not after a stop.
    using Ended = std::function<void(const std::string& failure)>;

    explicit Background(Deliver deliver);
    ~Background();
    Background(const Background&) = delete;
    Background& operator=(const Background&) = delete;

    /// Stops what runs and starts this.
    void start(Work work, Ended ended);
    /// Returns when the work has ended; nothing of it arrives any more.
    void stop();
    bool running() const { return state_->running; }

  private:
    // Touched on the owner's thread alone; shared with queued calls, which may outlive this.
    struct State {
        std::uint64_t run = 0;
        bool running = false;
    };
    Deliver deliver_;
    std::shared_ptr<State> state_ = std::make_shared<State>();
    std::jthread thread_;
};

} // namespace bathmos::session
