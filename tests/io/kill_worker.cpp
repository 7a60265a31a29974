// Edits or imports without end until it is killed; says on its output what has been committed. For tst_kill.
#include "core/train/train_starter.h"
#include "io/project/project_folder.h"

#include <cstdio>

using namespace bathmos;
using namespace bathmos::io;

namespace {

void say(long number) {
    std::printf("%ld\n", number);
    std::fflush(stdout);
}

PackedTrace trace(long number) {
    Trace out{"run", "rig", "", {}};
    out.columns.push_back({"lift_mm", true, std::vector<float>(50000, static_cast<float>(number)), {}});
    return packed(out);
}

// Both engines carry the number of the edit: halves of an edit would show.
void edit_on(Store& store) {
    const auto at = store.project().engines.find(1);
    long number = at == store.project().engines.end() ? 0 : std::stol(at->second.name);
    say(number);
    for (;;) {
        ++number;
        Project next = store.project();
        next.engines[1].name = next.engines[2].name = std::to_string(number);
        std::vector<RecordChange> changes;
        for (const Id id : {1, 2})
            changes.push_back({RecordKind::Engine, id, record_text(next, RecordKind::Engine, id)});
        if (number % 5 == 0) { // an import: first the trace, then the run that names it
            const Id id = store.new_id(RecordKind::RigRun);
            next.of(EntryKind::RigRun)[id].name = "run";
            next.of(EntryKind::RigRun)[id].traces = {store.add_trace(trace(number))};
            changes.push_back({RecordKind::RigRun, id, record_text(next, RecordKind::RigRun, id)});
        }
        store.commit("edit", number % 3 == 0 ? "" : "key", changes);
        say(number);
        if (number % 7 == 0) {
            store.undo();
            store.redo();
        }
    }
}

void import_on(const std::filesystem::path& folder, const std::string& to) {
    for (long number = 1;; ++number) {
        import_project(folder, to + std::to_string(number) + ".bathmos");
        say(number);
    }
}

} // namespace

int main(int argc, char** argv) {
    if (argc == 4) {
        import_on(argv[2], argv[3]);
    } else if (argc == 2) {
        const std::filesystem::path path = argv[1];
        Store store = std::filesystem::exists(path) ? Store::open(path) : Store::create(path);
        edit_on(store);
    }
    return 2;
}
