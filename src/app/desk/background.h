// The session's one mechanism for slow work, delivered by the window's event loop.
#pragma once

#include "app/text/words.h"
#include "session/work/background.h"

#include <QObject>
#include <functional>

namespace bathmos::app {

class Background : public QObject {
    Q_OBJECT
  public:
    using Post = session::Background::Post;
    using Work = session::Background::Work;
    /// Called on the window's thread at the end, with "" or what went wrong; not after a stop.
    using Ended = std::function<void(const QString& failure)>;

    explicit Background(QObject* parent = nullptr)
        : QObject(parent), work_([this](session::Background::Call call) {
              QMetaObject::invokeMethod(this, std::move(call), Qt::QueuedConnection);
          }) {}
    ~Background() override { work_.stop(); }

    /// Stops what runs and starts this.
    void start(Work work, Ended ended) {
        work_.start(std::move(work),
                    [ended = std::move(ended)](const std::string& failure) { ended(phrase(failure)); });
    }
    /// Returns when the work has ended; nothing of it arrives any more.
    void stop() { work_.stop(); }
    bool running() const { return work_.running(); }

  private:
    session::Background work_;
};

} // namespace bathmos::app
