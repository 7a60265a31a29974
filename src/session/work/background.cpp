#include "session/work/background.h"

#include "core/tasks/tasks.h"

#include <exception>

namespace bathmos::session {

Background::Background(Deliver deliver) : deliver_(std::move(deliver)) {}

Background::~Background() {
    stop();
}

void Background::start(Work work, Ended ended) {
    stop();
    state_->running = true;
    thread_ = std::jthread([deliver = deliver_, state = state_, run = state_->run, work = std::move(work),
                            ended = std::move(ended)](const std::stop_token& stop) {
        const Post post = [&](Call call) {
            deliver([state, run, call = std::move(call)] {
                if (run == state->run)
                    call();
            });
        };
        std::string failure;
        try {
            work(stop, post);
        } catch (const Stopped&) {
        } catch (const std::exception& error) {
            failure = error.what();
        }
        post([state, ended, failure] {
            state->running = false;
            ended(failure);
        });
    });
}

void Background::stop() {
    ++state_->run;
    state_->running = false;
    if (thread_.joinable()) {
        thread_.request_stop();
        thread_.join();
    }
}

} // namespace bathmos::session
