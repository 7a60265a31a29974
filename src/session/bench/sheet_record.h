// Bench sheets of a build: begun from what its train says, judged as they are filled in, kept raw with what
// they said.
#pragma once

#include "core/bench/sheet_effect.h"
#include "core/bench/sheet_kind.h"
#include "core/project/project.h"

namespace bathmos::session {

/// Which of several parts a sheet is of.
struct SheetPart {
    std::string key, label; ///< "springs[0]", "rocker.stiffness_N_per_mm"
};
/// The parts of a train that a kind of sheet may be of; empty where there is but one.
std::vector<SheetPart> parts_for_sheet(const std::string& kind, const Train& train);

/// A sheet of that kind with what the train already tells: heights, lift, ratio, rate. Throws nothing.
bench::SheetDraft new_sheet(const std::string& kind, const Train& train);

/// Readings of a sheet over each other, and the curve through them; SI.
struct SheetPicture {
    std::string x_label, y_label;
    Quantity x_quantity = Quantity::Count, y_quantity = Quantity::Count;
    std::vector<double> read_x, read_y, curve_x, curve_y;
};

/// What a sheet says so far.
struct JudgedSheet {
    std::string problem; ///< why it says nothing yet, in words; "" where it does
    std::vector<MeasuredText> lines;
    std::vector<bench::AnswerValue> values; ///< those that have one number for the sheet
    std::vector<bench::Told> told;
    bench::SheetEffect effect;           ///< on the train it was judged for
    std::optional<SheetPicture> picture; ///< empty where there is nothing to draw
};
/// `part`: key of one of parts_for_sheet(), "" for the first.
JudgedSheet judged(const bench::SheetDraft& draft, const Train& train, const std::string& part = {});

/// What a sheet says against another of its kind: each number's difference and whether it is beyond what both
/// are known to; of a spring that has lost over 5 % of its seat load, that it is tired.
std::vector<MeasuredText> against(const JudgedSheet& sheet, const JudgedSheet& other);

/// The record that keeps it: its readings as they were typed, what it said in words, the checks it closes.
Entry sheet_record(const bench::SheetDraft& draft, const JudgedSheet& said, const std::string& name,
                   const std::string& part, Id revision);
/// Whether its numbers were taken over into a revision: it then stays as it is.
bool taken_over(const Entry& record);
void mark_taken_over(Entry& record); ///< from now on
/// The readings of a record; empty where it has none (a check that was only confirmed). Throws InputError
/// where they cannot be read.
std::optional<bench::SheetDraft> draft_of(const Entry& record);
/// Sheets with readings that belong to revisions of a build, oldest first.
std::vector<Id> sheets_of(const Project& project, Id build);

} // namespace bathmos::session
