#include "app/shell/background.h"

#include "core/tasks/tasks.h"

namespace bathmos::app {

void Background::start(Work work, Ended ended) {
    stop();
    running_ = true;
    const quint64 run = run_;
    thread_ = std::jthread(
        [this, run, work = std::move(work), ended = std::move(ended)](const std::stop_token& stop) {
            const Post post = [this, run](std::function<void()> call) {
                QMetaObject::invokeMethod(
                    this,
                    [this, run, call = std::move(call)] {
                        if (run == run_)
                            call();
                    },
                    Qt::QueuedConnection);
            };
            QString failure;
            try {
                work(stop, post);
            } catch (const Stopped&) {
                return;
            } catch (const std::exception& error) {
                failure = QString::fromUtf8(error.what());
            }
            post([this, ended, failure] {
                running_ = false;
                ended(failure);
            });
        });
}

void Background::stop() {
    ++run_;
    running_ = false;
    if (thread_.joinable()) {
        thread_.request_stop();
        thread_.join();
    }
}

} // namespace bathmos::app
