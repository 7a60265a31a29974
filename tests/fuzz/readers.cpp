#include "fuzz/readers.h"

#include "core/dyno/pull_report.h"
#include "core/instrument/instrument_line.h"
#include "core/instrument/line_splitter.h"
#include "core/problem/input_error.h"
#include "core/rig/rig_run.h"
#include "core/start/start_train.h"
#include "core/train/train_figures.h"
#include "core/train/train_starter.h"
#include "io/dyno/pull_file.h"
#include "io/file/safe_file.h"
#include "io/json/json.h"
#include "io/live/programme_file.h"
#include "io/live/recording.h"
#include "io/lobe/gauge_file.h"
#include "io/lobe/lobe_file.h"
#include "io/plan/campaign_file.h"
#include "io/project/parts_csv.h"
#include "io/project/rescue.h"
#include "io/project/store.h"
#include "io/rig/rig_file.h"
#include "io/sheet/sheet_draft.h"
#include "io/sheet/sheet_summary.h"
#include "io/sheet/tester_file.h"
#include "io/train/known_json.h"
#include "io/train/train_file.h"

#include <array>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>
#include <unistd.h>

// The library loses some hundred bytes of its own where a file is damaged; ours are still looked for.
extern "C" const char* __lsan_default_suppressions();
extern "C" const char* __lsan_default_suppressions() {
    return "leak:libhdf5";
}

namespace bathmos::test {

namespace {

namespace fs = std::filesystem;

constexpr std::array<std::string_view, static_cast<std::size_t>(Reader::Count)> kNames = {
    "train",   "lobe",  "rig_text", "rig_hdf5", "pull",     "parts",     "record",     "trace_csv",
    "project", "sheet", "tester",   "device",   "campaign", "programme", "rig_stream", "known"};

// The bytes as a file, which goes again with all that was made beside it.
class TemporaryFile {
  public:
    TemporaryFile(std::string_view bytes, const char* ending) {
        std::string folder = (fs::temp_directory_path() / "bathmos-fuzz-XXXXXX").string();
        if (!mkdtemp(folder.data()))
            throw std::runtime_error("no temporary folder");
        folder_ = folder;
        path_ = folder_ / ("case" + std::string(ending));
        io::write_file(path_, bytes);
    }
    ~TemporaryFile() {
        std::error_code none;
        fs::remove_all(folder_, none);
    }
    TemporaryFile(const TemporaryFile&) = delete;
    TemporaryFile& operator=(const TemporaryFile&) = delete;
    const fs::path& path() const { return path_; }
    fs::path beside(const char* name) const { return folder_ / name; }

  private:
    fs::path folder_, path_;
};

const Train& usual_train() {
    static const Train train = starter_train();
    return train;
}

void read_train_text(std::string_view bytes) {
    const Train train = io::parse_train(bytes, "case");
    cautions_of(train);
    if (!(io::parse_train(io::train_text(train), "again").layout == train.layout))
        throw std::logic_error("a train that was written reads as another");
}

void read_lobe_table(std::string_view bytes) {
    const TemporaryFile file(bytes, ".csv");
    const io::LobeFile lobe = io::read_lobe_csv(file.path());
    curve_of(lobe.lobe);
}

void use_rig(const fs::path& path) {
    const RigTrace trace = io::read_rig(path);
    io::rig_of(io::unpacked(io::packed(io::trace_of(trace))));
    if (trace.lift_mm.size() < 200000) // else each case takes seconds
        reduce(trace, usual_train());
}

void read_pull_table(std::string_view bytes) {
    const TemporaryFile file(bytes, ".csv");
    for (const Pull& pull : io::read_pulls(file.path()))
        if (pull.size() < 3000)
            report_on(pull, false);
}

void read_record(std::string_view bytes) {
    if (bytes.empty())
        return;
    const auto kind = static_cast<io::RecordKind>(static_cast<std::uint8_t>(bytes[0]) % io::kRecordKinds);
    Project project;
    io::put_record(project, kind, 1, io::json_text(io::parse_json(bytes.substr(1))));
    Project again;
    io::put_record(again, kind, 1, io::record_text(project, kind, 1));
    if (io::record_text(again, kind, 1) != io::record_text(project, kind, 1))
        throw std::logic_error("a record that was written reads as another");
    check_project(project);
}

void read_trace_table(std::string_view bytes) {
    io::Trace trace{"case", "rig", "", {{"lift_mm", true, {}, {}}, {"turn_rpm", false, {}, {}}}};
    io::read_trace_csv(bytes, trace);
    io::unpacked(io::packed(trace));
    io::rig_of(trace);
}

void read_project(std::string_view bytes) {
    const TemporaryFile file(bytes, ".bathmos");
    try {
        const io::Store store = io::Store::open(file.path());
        for (const io::TraceInfo& info : store.traces())
            try {
                io::rig_of(io::unpacked(store.trace(info.id)));
            } catch (const InputError&) { // one is damaged, the others are not
            }
        store.undo_text();
        check_project(store.project());
        return;
    } catch (const InputError&) { // what can still be rescued?
    }
    io::rescue(file.path(), file.beside("rescued.bathmos"));
    io::Store::open(file.beside("rescued.bathmos"));
}

void read_sheet_text(std::string_view bytes) {
    const bench::SheetDraft draft = io::draft_of(bytes);
    if (!(io::kept_draft(io::kept_text(draft)) == draft))
        throw std::logic_error("a sheet that was kept reads as another");
    io::summary_of(io::parse_sheet(bytes, "case"), &usual_train());
}

void read_tester_table(std::string_view bytes) {
    const TemporaryFile file(bytes, ".csv");
    const io::TableShape shape = io::sniff_table(file.path(), io::kTesterTexts);
    for (const io::TestedSpring& spring :
         io::read_tester_file(file.path(), shape, io::guess_tester_mapping(shape)))
        io::summary_of(io::parse_sheet(io::draft_text(io::sheet_of(spring))));
}

void hear_device(std::string_view bytes) {
    instrument::LineSplitter splitter;
    for (const std::string& line : splitter.add(bytes)) {
        const auto reading = instrument::read_line(
            line,
            {{"height", Quantity::Length, "H"}, {"load", Quantity::Force, "F"}, {"mass", Quantity::Mass}});
        for (const auto& value : reading.values_si)
            if (value && !std::isfinite(*value))
                throw std::logic_error("a device gave what is no number");
    }
}

void read_campaign_text(std::string_view bytes) {
    const io::CampaignDraft draft = io::parse_campaign(bytes, "case", {}, &usual_train());
    const std::string kept = io::campaign_text(draft, false);
    const io::CampaignDraft again = io::parse_campaign(kept, "again", {}, &usual_train());
    if (io::campaign_text(again, false) != kept)
        throw std::logic_error("a campaign that was kept reads as another");
    if (plan::all_combinations(draft.campaign).size() < 200)
        io::candidates_of(draft);
}

// What is known makes a train or is refused; the train is one that can be kept.
void read_known_text(std::string_view bytes) {
    const KnownTrain known = io::known_from_json(io::parse_json(bytes));
    const std::string kept = io::json_text(io::known_json(known));
    if (io::json_text(io::known_json(io::known_from_json(io::parse_json(kept)))) != kept)
        throw std::logic_error("what is known reads as something else once it was kept");
    const Train train = start_train(known).train;
    io::parse_train(io::train_text(train), "started");
}

void read_programme_text(std::string_view bytes) {
    const live::Programme programme = io::parse_programme(bytes, "case");
    if (!(io::parse_programme(io::programme_text(programme), "again") == programme))
        throw std::logic_error("a programme that was written reads as another");
}

void hear_rig(std::string_view bytes) {
    const TemporaryFile file(bytes, ".rig-stream");
    io::RecordingFacts facts;
    const RigTrace trace = io::read_recording(file.path(), &facts);
    if (trace.lift_mm.size() < 200000)
        reduce(trace, usual_train());
}

} // namespace

std::string_view name_of(Reader reader) {
    return kNames[static_cast<std::size_t>(reader)];
}

Reader find_reader(std::string_view name) {
    for (std::size_t i = 0; i < kNames.size(); ++i)
        if (kNames[i] == name)
            return static_cast<Reader>(i);
    return Reader::Count;
}

void read_as(Reader reader, std::string_view bytes) {
    try {
        switch (reader) {
        case Reader::Train:
            return read_train_text(bytes);
        case Reader::Lobe:
            return read_lobe_table(bytes);
        case Reader::RigText:
            return use_rig(TemporaryFile(bytes, ".csv").path());
        case Reader::RigHdf5:
            return use_rig(TemporaryFile(bytes, ".h5").path());
        case Reader::Pull:
            return read_pull_table(bytes);
        case Reader::Parts:
            io::parse_parts_csv(bytes, "case");
            return;
        case Reader::Record:
            return read_record(bytes);
        case Reader::TraceCsv:
            return read_trace_table(bytes);
        case Reader::Project:
            return read_project(bytes);
        case Reader::Sheet:
            return read_sheet_text(bytes);
        case Reader::Tester:
            return read_tester_table(bytes);
        case Reader::Device:
            return hear_device(bytes);
        case Reader::Campaign:
            return read_campaign_text(bytes);
        case Reader::Programme:
            return read_programme_text(bytes);
        case Reader::RigStream:
            return hear_rig(bytes);
        case Reader::Known:
            return read_known_text(bytes);
        case Reader::Count:
            break;
        }
    } catch (const InputError&) { // told: that is what it is for
    }
}

} // namespace bathmos::test
