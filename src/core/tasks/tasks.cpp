#include "core/tasks/tasks.h"

#if defined(BATHMOS_THREADS_CHECKED)
#include <atomic>
#include <mutex>
#include <thread>
#include <vector>
#else
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>
#endif

namespace bathmos {

#if defined(BATHMOS_THREADS_CHECKED)

// The task library hands work over inside its own uninstrumented code, which the thread sanitizer takes for
// races. Under it plain threads do the same work, so that what our bodies share is really checked.
void parallel_for(std::size_t count, const std::function<void(std::size_t)>& body) {
    std::atomic<std::size_t> next{0};
    std::exception_ptr first;
    std::mutex guard;
    {
        std::vector<std::jthread> workers;
        for (std::size_t w = 0; w < worker_count(); ++w)
            workers.emplace_back([&] {
                try {
                    for (std::size_t i = next++; i < count; i = next++)
                        body(i);
                } catch (...) {
                    const std::scoped_lock lock(guard);
                    if (!first)
                        first = std::current_exception();
                }
            });
    }
    if (first)
        std::rethrow_exception(first);
}

std::size_t worker_count() {
    return std::max(2U, std::thread::hardware_concurrency());
}

#else

void parallel_for(std::size_t count, const std::function<void(std::size_t)>& body) {
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, count, 1),
        [&](const auto& range) {
            for (std::size_t i = range.begin(); i != range.end(); ++i)
                body(i);
        },
        tbb::simple_partitioner());
}

std::size_t worker_count() {
    return static_cast<std::size_t>(tbb::this_task_arena::max_concurrency());
}

#endif

} // namespace bathmos
