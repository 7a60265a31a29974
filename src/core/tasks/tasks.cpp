#include "core/tasks/tasks.h"

#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

namespace bathmos {

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

} // namespace bathmos
