// What a calibrated run says, as the record that keeps it.
#pragma once

#include "core/calibration/change_effect.h"
#include "core/calibration/run_reading.h"
#include "core/project/project.h"

namespace bathmos::session {

/// A change that a calibration of two revisions' runs told of, and the other run.
struct ToldChange {
    ChangeEffect effect;
    Id other_run = 0;
};
/// Adds it to the record of the calibration.
void note_change(Entry& record, const ToldChange& told);
/// The record of a calibration of a run. `limits`: name of the set that its limit was judged by.
Entry calibration_record(const Calibration& calibration, const RunReading& reading, Id revision, Id run,
                         const std::string& limits);
/// What a record says; numbers that it lacks stay empty.
RunReading reading_of(const Entry& record);
/// The newest calibration of a run by the train of a revision, its limit judged by the set of that name; null
/// where there is none.
const Entry* calibration_of(const Project& project, Id run, Id revision, const std::string& limits);
/// "fitted to run 3": how a revision and its tolerances name where their numbers come from.
std::string fitted_to(const Project& project, Id run);

} // namespace bathmos::session
