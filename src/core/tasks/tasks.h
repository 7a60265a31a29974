// How slow work reports progress, is stopped, and uses several cores.
#pragma once

#include <cstddef>
#include <exception>
#include <functional>
#include <stop_token>

namespace bathmos {

/// Called with the share of the work that is done, 0..1. May be called from any thread, one call at a time.
using ProgressSink = std::function<void(double fraction)>;

/// Thrown by slow work when its stop token asks for it. Nothing was changed.
class Stopped : public std::exception {
  public:
    const char* what() const noexcept override { return "stopped"; }
};

inline void throw_if_stopped(const std::stop_token& stop) {
    if (stop.stop_requested())
        throw Stopped();
}

/// Runs body(0..count-1) on the task library's workers and returns when all are done.
/// The first exception is thrown to the caller after the others have ended.
void parallel_for(std::size_t count, const std::function<void(std::size_t)>& body);

/// Number of workers that parallel_for uses at most.
std::size_t worker_count();

} // namespace bathmos
