// A project of 500 parts, 200 revisions and 2 GB of rig runs: how long opening, editing, reading a run and
// exporting the records take, and how much memory an open one holds.
#include "core/train/train_starter.h"
#include "io/project/project_folder.h"
#include "timing.h"

#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fmt/format.h>
#include <fstream>
#include <random>

using namespace bathmos;
using namespace bathmos::bench;
using namespace bathmos::io;
namespace fs = std::filesystem;

namespace {

// Resident memory of this process, MB.
double resident_MB() {
    std::ifstream file("/proc/self/statm");
    double total = 0, resident = 0;
    file >> total >> resident;
    return resident * 4096 / 1e6;
}

// A run as a sensor gives it: 16-bit readings of a lift with noise, 12 minutes at 48 kHz.
Trace run(std::size_t readings, unsigned seed) {
    std::mt19937 engine(seed);
    Trace out{fmt::format("run {}", seed), "rig", "", {}};
    TraceColumn lift{"lift_mm", true, {}, {}}, angle{"crank_deg", true, {}, {}};
    lift.readings.resize(readings);
    angle.readings.resize(readings);
    for (std::size_t i = 0; i < readings; ++i) {
        const auto turn = static_cast<float>(i % 720);
        angle.readings[i] = turn;
        const float rise = turn > 200 && turn < 460 ? 12.4F - 7.3e-4F * (turn - 330) * (turn - 330) : 0.F;
        lift.readings[i] =
            static_cast<float>(static_cast<int>(1000 * rise + static_cast<float>(engine() % 7))) * 1e-3F;
    }
    out.columns = {std::move(angle), std::move(lift)};
    return out;
}

void build(const fs::path& path, std::size_t runs, std::size_t readings) {
    Store store = Store::create(path);
    Project p;
    p.engines[1].name = "engine";
    std::vector<RecordChange> all = {{RecordKind::Engine, 1, record_text(p, RecordKind::Engine, 1)}};
    for (Id id = 1; id <= 500; ++id) {
        const PartKind kind = part_kinds()[static_cast<std::size_t>(id) % 4].kind;
        p.parts[id] = *part_from(starter_train(), kind);
        p.parts[id].name = fmt::format("part {}", id);
        all.push_back({RecordKind::Part, id, record_text(p, RecordKind::Part, id)});
    }
    p.builds[1] = {"intake", 1, ValveSide::Intake, 0, 200, ""};
    all.push_back({RecordKind::Build, 1, record_text(p, RecordKind::Build, 1)});
    Train train = starter_train();
    LobeTable table; // as gauged, a reading a degree
    for (int deg = 0; deg < 360; ++deg) {
        table.angle.push_back(deg);
        table.lift.push_back(std::max(0.0, 8.0 - 0.0016 * (deg - 180) * (deg - 180)));
    }
    train.lobe.shape = table;
    for (Id id = 1; id <= 200; ++id) {
        train.valve.mass_kg = 0.09 + 1e-5 * static_cast<double>(id);
        p.revisions[id] = {1, id - 1, "", "change", now_text(), {train, {}}};
        all.push_back({RecordKind::Revision, id, record_text(p, RecordKind::Revision, id)});
    }
    store.commit("fill", "", all);
    for (std::size_t i = 0; i < runs; ++i) {
        const Id trace = store.add_trace(packed(run(readings, static_cast<unsigned>(i))));
        const Id id = store.new_id(RecordKind::RigRun);
        Project next;
        next.of(EntryKind::RigRun)[id].name = "run";
        next.of(EntryKind::RigRun)[id].revision = static_cast<Id>(1 + i % 200);
        next.of(EntryKind::RigRun)[id].traces = {trace};
        store.commit("run", "", {{RecordKind::RigRun, id, record_text(next, RecordKind::RigRun, id)}});
    }
}

// In a process of its own, so that nothing else has asked for memory.
int open_only(const fs::path& path) {
    const double before = resident_MB();
    std::unique_ptr<Store> store;
    const double opened = seconds_of([&] { store = std::make_unique<Store>(Store::open(path)); });
    fmt::print("open: {:.0f} ms, {:.0f} MB of memory\n", opened * 1e3, resident_MB() - before);
    return 0;
}

} // namespace

int main(int argc, char** argv) {
    if (argc == 3)
        return open_only(argv[2]);
    const double wanted_GB = argc > 1 ? std::atof(argv[1]) : 2.0;
    constexpr std::size_t kReadings = 12'500'000; // 100 MB of two columns
    const auto runs = static_cast<std::size_t>(wanted_GB * 10 + 0.5);
    const fs::path folder = fs::temp_directory_path() / "bathmos-bench-project",
                   path = folder / "big.bathmos";
    fs::remove_all(folder);
    fs::create_directories(folder);
    const double made = seconds_of([&] { build(path, runs, kReadings); });
    fmt::print("made: {} runs of 100 MB in {:.1f} s, {:.0f} MB a second; the file holds {:.0f} MB\n", runs,
               made, 100.0 * static_cast<double>(runs) / made,
               static_cast<double>(fs::file_size(path)) / 1e6);
    { Store first = Store::open(path); } // the copy beside it is made once
    std::fflush(stdout);
    if (std::system(fmt::format("{} --open {}", argv[0], path.string()).c_str()) != 0)
        return 1;
    auto store = std::make_unique<Store>(Store::open(path));
    constexpr int kEdits = 200;
    const double edited = seconds_of([&] {
        for (int i = 0; i < kEdits; ++i) {
            Project next;
            next.revisions[200] = store->project().revisions.at(200);
            next.revisions[200].assembly.train.valve.mass_kg += 1e-6 * (i + 1);
            store->commit("edit", "",
                          {{RecordKind::Revision, 200, record_text(next, RecordKind::Revision, 200)}});
        }
    });
    fmt::print("edit: {:.2f} ms each, on disk\n", edited / kEdits * 1e3);
    fmt::print("undo: {:.2f} ms\n", seconds_of([&] { store->undo(); }) * 1e3);
    fmt::print("look at a run of 100 MB: {:.0f} ms\n", seconds_of([&] { unpacked(store->trace(1)); }) * 1e3);
    const fs::path copy = folder / "copy.bathmos";
    fmt::print("whole copy: {:.1f} s\n", seconds_of([&] { store->save_copy(copy); }));
    fs::remove(copy);
    store.reset();
    const fs::path small = folder / "small.bathmos";
    build(small, 1, kReadings / 100);
    const Store records = Store::open(small);
    fmt::print("export of the records as a folder: {:.2f} s\n",
               seconds_of([&] { export_project(records, folder / "records"); }));
    const Store one = Store::open(path);
    fmt::print("export of all, traces as text: {:.1f} s\n",
               seconds_of([&] { export_project(one, folder / "all"); }));
    fs::remove_all(folder);
}
