#include "session/results/results.h"

#include <chrono>
#include <condition_variable>
#include <deque>
#include <map>
#include <mutex>
#include <set>

namespace bathmos::session {

namespace {

// A sweep of usual steps holds some 15 MB, a reduction of a long run as much. A motion takes 0.2 MB, and fine
// steps make thousands of them: sweeps are also kept by how many there are in all.
constexpr std::size_t kKeptSweeps = 8, kKeptReductions = 6, kKeptMotions = 1000;
constexpr std::chrono::milliseconds kLook{20}; // how often one that waits looks whether it shall stop

std::size_t motions_of(const Sweep& sweep) {
    return sweep.motions.size();
}
std::size_t motions_of(const RigRun&) {
    return 0;
}

} // namespace

struct Results::Inside {
    // The newest results of one kind; what is made just now, by hash.
    template <class Result>
    struct Shelf {
        explicit Shelf(std::size_t at_most) : most(at_most) {}
        std::size_t most;
        std::map<std::string, std::shared_ptr<const Result>> kept;
        std::deque<std::string> order; ///< oldest first
        std::set<std::string> running;

        std::shared_ptr<const Result> find(const std::string& hash) const {
            const auto at = kept.find(hash);
            return at == kept.end() ? nullptr : at->second;
        }
        void keep(const std::string& hash, std::shared_ptr<const Result> made) {
            if (kept.emplace(hash, std::move(made)).second)
                order.push_back(hash);
            while (order.size() > most || (order.size() > 1 && motions() > kKeptMotions)) {
                kept.erase(order.front());
                order.pop_front();
            }
        }
        std::size_t motions() const {
            std::size_t out = 0;
            for (const auto& [hash, made] : kept)
                out += motions_of(*made);
            return out;
        }
    };

    mutable std::mutex mutex;
    std::condition_variable changed;
    Shelf<Sweep> sweeps{kKeptSweeps};
    Shelf<RigRun> reductions{kKeptReductions};
    std::size_t computed = 0;

    // What is kept, or the right to make it (null): then end() must follow.
    template <class Result>
    std::shared_ptr<const Result> begin(Shelf<Result>& shelf, const std::string& hash,
                                        const std::stop_token& stop) {
        std::unique_lock lock(mutex);
        for (;;) {
            if (auto there = shelf.find(hash))
                return there;
            if (shelf.running.insert(hash).second)
                return nullptr;
            changed.wait_for(lock, kLook);
            throw_if_stopped(stop);
        }
    }
    template <class Result>
    void end(Shelf<Result>& shelf, const std::string& hash, std::shared_ptr<const Result> made) {
        {
            const std::lock_guard lock(mutex);
            shelf.running.erase(hash);
            if (made) {
                ++computed;
                shelf.keep(hash, std::move(made));
            }
        }
        changed.notify_all();
    }
    template <class Result, class Make>
    std::shared_ptr<const Result> get(Shelf<Result>& shelf, const std::string& hash,
                                      const std::stop_token& stop, Make make) {
        if (auto there = begin(shelf, hash, stop))
            return there;
        std::shared_ptr<const Result> made;
        try {
            made = std::make_shared<const Result>(make());
        } catch (...) {
            end<Result>(shelf, hash, nullptr);
            throw;
        }
        end(shelf, hash, made);
        return made;
    }
};

Results::Results() : in_(std::make_unique<Inside>()) {}
Results::~Results() = default;

std::shared_ptr<const Sweep> Results::sweep(const SweepInputs& inputs, const SweepWatch& watch) {
    bool made_here = false;
    auto out = in_->get(in_->sweeps, hash_of(inputs), watch.stop, [&] {
        made_here = true;
        return bathmos::sweep(inputs.train, inputs.range, inputs.limits, watch);
    });
    if (!made_here)
        for (const auto& motion : out->motions)
            if (watch.motion)
                watch.motion(motion);
    return out;
}

std::shared_ptr<const Sweep> Results::find_sweep(const SweepInputs& inputs) const {
    const std::string hash = hash_of(inputs);
    const std::lock_guard lock(in_->mutex);
    return in_->sweeps.find(hash);
}

void Results::keep(const SweepInputs& inputs, std::shared_ptr<const Sweep> made) {
    const std::string hash = hash_of(inputs);
    const std::lock_guard lock(in_->mutex);
    in_->sweeps.keep(hash, std::move(made));
}

std::shared_ptr<const RigRun> Results::reduction(const RigTrace& trace, const Train& train,
                                                 const RigOptions& options) {
    return in_->get(in_->reductions, hash_of(trace, train, options.reversed, options.limits), options.stop,
                    [&] { return reduce(trace, train, options); });
}

std::size_t Results::computed() const {
    const std::lock_guard lock(in_->mutex);
    return in_->computed;
}

} // namespace bathmos::session
