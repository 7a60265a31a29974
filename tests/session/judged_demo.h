// The demo with its runs and pulls, judged over few speeds: what reports and packs are made from.
#pragma once

#include "io/dyno/pull_file.h"
#include "io/project/project_folder.h"
#include "io/rig/rig_file.h"
#include "session/project/keeping.h"
#include "session/report/report.h"
#include "support.h"

#include <QTemporaryDir>

namespace bathmos::test {

/// With rig runs and pulls of the first two revisions, as demo/make.sh keeps them.
inline io::Store demo_store(const QTemporaryDir& folder) {
    const std::filesystem::path path = folder.filePath("demo.bathmos").toStdString();
    io::import_project(source_file("demo/project"), path);
    io::Store out = io::Store::open(path);
    for (const auto& [file, revision] : {std::pair{"before", Id{1}}, {"after", Id{2}}}) {
        const std::string name = std::string("ashgill-a22-intake-") + file + ".rig.csv";
        session::keep_rig_run(out, {name, revision, false, revision == 1 ? "2026-01-15" : "2026-04-16"},
                              io::packed(io::trace_of(io::read_rig(source_file("demo/" + name), {}))));
        for (const char* number : {"1", "2"}) {
            const std::string pull = std::string("ashgill-a22-") + file + "-" + number + ".pull.csv";
            for (const Pull& one : io::read_pulls(source_file("demo/" + pull)))
                session::keep_pulls(out, pull,
                                    {session::noted(one, {revision, "", "", "", {}, "2026-04-18"})});
        }
    }
    return out;
}

/// The second revision, "winter", by few speeds.
struct JudgedDemo {
    QTemporaryDir folder;
    io::Store store = demo_store(folder);
    session::Results results;
    session::ReportInput input;
    session::ReportFacts facts;
    JudgedDemo() {
        const auto trace = [&](Id id) { return store.trace(id); };
        session::CaseInput of = session::gather_case(store.project(), 2, trace);
        of.range = {6600, 8600, 500};
        input = session::gather_report(std::move(of), trace);
        facts = session::study_report(input, results);
    }
};

} // namespace bathmos::test
