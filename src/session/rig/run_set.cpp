#include "session/rig/run_set.h"

#include "core/motion/motion.h"
#include "core/problem/input_error.h"

namespace bathmos::session {

bool is_hidden(const Entry& run) {
    return run.words.contains("hidden");
}

std::vector<Id> runs_of(const Project& project, Id build, bool hidden) {
    std::vector<Id> out;
    for (const auto& [id, run] : project.of(EntryKind::RigRun))
        if (const auto revision = project.revisions.find(run.revision);
            revision != project.revisions.end() && revision->second.build == build && !run.traces.empty() &&
            (hidden || !is_hidden(run)))
            out.push_back(id);
    return out;
}

std::vector<ReducedRun> reduce_runs(const std::vector<RunInput>& inputs, const LimitsInForce& limits,
                                    Results& results, const ProgressSink& progress,
                                    const std::stop_token& stop) {
    std::vector<ReducedRun> out;
    for (const RunInput& input : inputs) {
        throw_if_stopped(stop);
        ReducedRun one{input.id, input.name, input.train, nullptr, {}, {}};
        try {
            const RigTrace trace = io::rig_of(io::unpacked(input.trace, stop));
            RigOptions options;
            options.reversed = input.reversed;
            options.limits = limits;
            options.stop = stop;
            one.run = results.reduction(trace, input.train, options);
            one.holds = rig::holds_of(trace, *one.run, MotionModel(input.train).chain().rigid_m, options);
        } catch (const InputError& error) {
            one.failure = error.what();
        }
        out.push_back(std::move(one));
        if (progress)
            progress(static_cast<double>(out.size()) / static_cast<double>(inputs.size()));
    }
    return out;
}

std::optional<RunComparison> compared(const std::vector<ReducedRun>& runs) {
    std::vector<RunOfTrain> of_trains;
    for (const ReducedRun& one : runs)
        if (one.run)
            of_trains.push_back({one.run.get(), &one.train, one.name});
    return of_trains.size() < 2 ? std::nullopt : std::optional(compare_runs(of_trains));
}

} // namespace bathmos::session
