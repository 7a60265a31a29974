// Results by the hash of all their inputs: whatever asks for the same sweep or reduction is handed the same
// one, on any station, in any order, from any thread.
#pragma once

#include "session/results/input_hash.h"

#include <memory>

namespace bathmos::session {

class Results {
  public:
    Results();
    ~Results();
    Results(const Results&) = delete;
    Results& operator=(const Results&) = delete;

    /// The sweep of these inputs: from what is kept, else waits for one that runs already, else runs it. What
    /// is kept tells `watch` its motions at once. Throws what sweep() throws.
    std::shared_ptr<const Sweep> sweep(const SweepInputs& inputs, const SweepWatch& watch = {});
    /// The same if it is kept, else null; never waits.
    std::shared_ptr<const Sweep> find_sweep(const SweepInputs& inputs) const;
    /// Keeps a sweep that was made elsewhere from just these inputs.
    void keep(const SweepInputs& inputs, std::shared_ptr<const Sweep> made);

    /// The reduction of a trace against a train, likewise. Throws what reduce() throws.
    std::shared_ptr<const RigRun> reduction(const RigTrace& trace, const Train& train,
                                            const RigOptions& options);

    /// How many sweeps and reductions were computed, not handed on; for tests and the closing of an account.
    std::size_t computed() const;

  private:
    struct Inside;
    std::unique_ptr<Inside> in_;
};

} // namespace bathmos::session
