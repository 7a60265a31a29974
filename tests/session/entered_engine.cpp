#include "session/entered_engine.h"

#include "session/rig/run_record.h"

namespace bathmos::test {

EnteredEngine::EnteredEngine(const std::string& name, double target_rpm, const std::vector<Train>& states)
    : now(static_cast<Id>(states.size())), store_(io::Store::create("")) {
    Project p;
    p.engines[1].name = name;
    p.engines[1].target_rpm = target_rpm;
    p.builds[1] = {"intake", 1, ValveSide::Intake, 0, now, ""};
    for (Id id = 1; id <= now; ++id) {
        p.revisions[id] = {1, id - 1, "", "", "2026-01-01T00:00:00Z", {}};
        p.revisions[id].assembly.train = states[static_cast<std::size_t>(id) - 1];
    }
    using io::RecordKind;
    std::vector<io::RecordChange> records;
    for (const auto& [kind, ids] :
         {std::pair{RecordKind::Engine, Id(1)}, {RecordKind::Build, Id(1)}, {RecordKind::Revision, now}})
        for (Id id = 1; id <= ids; ++id)
            records.push_back({kind, id, io::record_text(p, kind, id)});
    store_.note(records);
}

void EnteredEngine::keep_rig(const RigTrace& trace) {
    run = session::keep_rig_run(store_, {"rig.csv", now, false}, io::packed(io::trace_of(trace)));
}

void EnteredEngine::keep_pulls(const std::string& file, const std::vector<Pull>& pulls,
                               const session::PullNote& note) {
    std::vector<session::NotedPull> noted;
    for (const Pull& pull : pulls)
        noted.push_back(session::noted(pull, note));
    session::keep_pulls(store_, file, noted);
}

session::CaseInput EnteredEngine::input() const {
    return session::gather_case(store_.project(), now, [&](Id id) { return store_.trace(id); });
}

Verdict EnteredEngine::verdict() const {
    session::Results results;
    return judge(session::open_case(input(), results));
}

Verdict EnteredEngine::verdict_with(const Calibration& calibration, const RunReading& reading) {
    Project p;
    p.of(EntryKind::Calibration)[1] = session::calibration_record(calibration, reading, now, run, "usual");
    store_.commit("calibration", "",
                  {{io::RecordKind::Calibration, 1, io::record_text(p, io::RecordKind::Calibration, 1)}});
    return verdict();
}

} // namespace bathmos::test
