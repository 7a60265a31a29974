// Ten years: a build of 5000 revisions with 5000 lines of the log and 500 rig runs: opening it, a key of an
// edit, a step back; the same in the window, painting counted (run it with QT_QPA_PLATFORM=offscreen).
#include "app/shell/main_window.h"
#include "core/train/train_starter.h"
#include "io/project/store.h"
#include "session/log/part_ages.h"
#include "session/log/time_line.h"
#include "session/project/project_session.h"
#include "timing.h"

#include <QApplication>
#include <algorithm>
#include <filesystem>
#include <fmt/format.h>

using namespace bathmos;
using namespace bathmos::bench;
using namespace bathmos::io;
namespace fs = std::filesystem;

namespace {

void build(const fs::path& path, Id revisions) {
    Store store = Store::create(path);
    Project p;
    p.engines[1].name = "engine";
    p.builds[1] = {"intake", 1, ValveSide::Intake, 0, revisions, ""};
    Train train = starter_train();
    for (Id id = 1; id <= revisions; ++id) {
        train.valve.mass_kg = 0.09 + 1e-7 * static_cast<double>(id);
        p.revisions[id] = {1, id - 1, "", "change", now_text(), {train, {}}};
    }
    for (Id i = 1; i <= 5000; ++i) {
        Entry& entry = p.of(EntryKind::Log)[i];
        entry.name = fmt::format("line {}", i);
        entry.text = i % 100 ? "nothing to tell, run as planned" : "a rocker stud was found loose";
        entry.when = now_text();
        entry.revision = std::min(i, revisions);
        entry.words["kind"] = "use";
        entry.numbers = {{"s_at_6000", 60}, {"s_at_7100", 20}, {"s_at_1500", 600}};
    }
    for (Id i = 1; i <= 500; ++i)
        p.of(EntryKind::RigRun)[i] = {fmt::format("run {}", i),
                                      std::min(10 * i, revisions),
                                      now_text(),
                                      "",
                                      "",
                                      {{"s_at_5000", 30}, {"s_at_7000", 10}},
                                      {},
                                      {},
                                      {}};
    std::vector<RecordChange> all;
    for (const RecordKind kind :
         {RecordKind::Engine, RecordKind::Build, RecordKind::Revision, RecordKind::Log, RecordKind::RigRun})
        for (const Id id : record_ids(p, kind))
            all.push_back({kind, id, record_text(p, kind, id)});
    store.commit("fill", "", all);
}

void without_a_window(const fs::path& path) {
    session::ProjectSession session("", [](session::Event) {});
    fmt::print("open: {:.0f} ms\n", seconds_of([&] { session.open(path); }) * 1e3);
    Train train = session.train();
    double longest = 0;
    for (int key = 0; key < 20; ++key) {
        train.lash_m += 1e-6;
        longest = std::max(longest, seconds_of([&] { session.edit(train, "lash", "lash"); }));
    }
    fmt::print("a key: {:.1f} ms at most\n", longest * 1e3);
    fmt::print("undo: {:.1f} ms\n", seconds_of([&] { session.undo(); }) * 1e3);
}

// Ten years of lines: the log made, then searched.
void a_log(const fs::path& path) {
    const Store store = Store::open(path);
    const Project& project = store.project();
    std::optional<session::Log> log;
    fmt::print("log of {} lines: {:.0f} ms\n", session::time_line(project).size(),
               seconds_of([&] { log.emplace(project); }) * 1e3);
    std::size_t found = 0;
    const double searched = seconds_of([&] { found = log->find({.words = "stud loo"}).size(); });
    fmt::print("searched: {:.2f} ms, {} lines\n", searched * 1e3, found);
    fmt::print("ages: {:.0f} ms\n", seconds_of([&] { session::part_ages(project, 20'600); }) * 1e3);
}

void in_the_window(const fs::path& path) {
    app::Theme::load_fonts();
    app::MainWindow window(app::WindowOptions{});
    window.show();
    fmt::print("window, open: {:.0f} ms\n",
               seconds_of([&] { window.open_train(QString::fromStdString(path.string())); }) * 1e3);
    QCoreApplication::processEvents();
    fmt::print("window, to the log: {:.0f} ms\n", seconds_of([&] {
                                                      window.show_station(QStringLiteral("station_log"));
                                                      QCoreApplication::processEvents();
                                                      window.grab();
                                                  }) * 1e3);
    window.show_station(QStringLiteral("station_motion"));
    window.document().set_range({7000, 7400, 400});
    std::vector<double> keys_ms;
    for (int key = 0; key < 41; ++key)
        keys_ms.push_back(1e3 * seconds_of([&] {
                              Train train = window.document().train();
                              train.lash_m += 1e-6;
                              window.document().edit(train, QStringLiteral("lash"), QStringLiteral("lash"));
                              QCoreApplication::processEvents();
                          }));
    std::sort(keys_ms.begin(), keys_ms.end());
    fmt::print("window, a key: {:.1f} ms (median), {:.1f} ms at most\n", keys_ms[keys_ms.size() / 2],
               keys_ms.back());
}

} // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    const fs::path folder = fs::temp_directory_path() / "bathmos-bench-season",
                   path = folder / "season.bathmos";
    fs::remove_all(folder);
    fs::create_directories(folder);
    build(path, 5000);
    { Store first = Store::open(path); } // the copy beside it is made once
    without_a_window(path);
    a_log(path);
    in_the_window(path);
    fs::remove_all(folder);
}
