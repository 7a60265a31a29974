// The commands of the bench: sheet, keep-sheet.
#include "cli/arguments.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/sheet/sheet_draft.h"
#include "io/sheet/sheet_summary.h"
#include "io/text/encoding.h"
#include "io/train/train_file.h"
#include "session/project/keeping.h"

#include <filesystem>
#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct SheetOptions {
    std::string sheet, summary, project, name, train, when;
    Id revision = 0;
};

void read_one_sheet(const SheetOptions& o, const std::stop_token&) {
    require_apart({{"sheet", o.sheet}, {"--train", o.train}}, {{"--summary", o.summary}});
    const io::BenchSheet sheet = io::read_sheet(o.sheet);
    std::optional<Train> train;
    if (!o.train.empty())
        train = io::read_train(o.train);
    io::SheetSummary out;
    try {
        out = io::summary_of(sheet, train ? &*train : nullptr);
    } catch (const InputError& error) {
        throw error.in(io::shown_path(o.sheet));
    }
    for (const bench::Told& one : out.told)
        note(one.rule + ": " + one.text.in_words());
    if (!o.summary.empty())
        return write_if(o.summary, out.json);
    std::string text;
    for (const MeasuredText& line : out.lines)
        text += line.in_words() + "\n";
    say(text);
}

void keep_one_sheet(const SheetOptions& o, const std::stop_token&) {
    bench::SheetDraft draft;
    try {
        io::read_sheet(o.sheet); // what is wrong with it is told before it is kept
        draft = io::draft_of(io::read_file(o.sheet, io::kMostSheetBytes));
    } catch (const InputError& error) {
        throw error.problem().source.empty() ? error.in(io::shown_path(o.sheet)) : error;
    }
    io::Store store = open_project(o.project);
    const std::string file = io::shown_path(std::filesystem::path(o.sheet).filename());
    session::keep_sheet(store, o.name.empty() ? file : o.name, draft, o.revision, o.when);
}

} // namespace

void define_bench_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<SheetOptions>();
    CLI::App* sheet = add_command(app, "sheet", "What the readings of a bench sheet say, with how sure it is",
                                  o, stop, read_one_sheet);
    sheet->add_option("sheet", o->sheet, "Sheet file, *.sheet.json")->required();
    sheet->add_option("--train", o->train, "Train that near_solid, contact and others are worked out for");
    sheet->add_option("--summary", o->summary, "JSON to write");

    CLI::App* keep = add_command(app, "keep-sheet", "Keep a bench sheet in a project, with its revision", o,
                                 stop, keep_one_sheet);
    keep->add_option("project", o->project, "Project, *.bathmos")->required();
    keep->add_option("sheet", o->sheet, "Sheet file, *.sheet.json")->required();
    keep->add_option("--revision", o->revision, "Number of the revision that was measured")->required();
    keep->add_option("--when", o->when, "Date that it was read, 2026-02-27 or with a time; now");
    keep->add_option("--name", o->name, "How it is listed; the file's name unless given");
}

} // namespace bathmos::cli
