// One piece of slow work off the window's thread: what it posts arrives on the window's thread, in order, and
// never after it was stopped or started anew.
#pragma once

#include <QObject>
#include <functional>
#include <stop_token>
#include <thread>

namespace bathmos::app {

class Background : public QObject {
    Q_OBJECT
  public:
    /// Queues a call on the window's thread.
    using Post = std::function<void(std::function<void()>)>;
    /// The work; it may throw Stopped (silently ends) or any exception (its words go to `ended`).
    using Work = std::function<void(const std::stop_token& stop, const Post& post)>;
    /// Called on the window's thread at the end, with "" or what went wrong; not after a stop.
    using Ended = std::function<void(const QString& failure)>;

    using QObject::QObject;
    ~Background() override { stop(); }

    /// Stops what runs and starts this.
    void start(Work work, Ended ended);
    /// Returns when the work has ended; nothing of it arrives any more.
    void stop();
    bool running() const { return running_; }

  private:
    quint64 run_ = 0;
    bool running_ = false;
    std::jthread thread_;
};

} // namespace bathmos::app
