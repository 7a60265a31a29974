// An engine as a shop enters it: its train before and now, pulls, a rig run, and what was changed in words.
#pragma once

#include "core/calibration/run_reading.h"
#include "core/verdict/verdict.h"
#include "io/project/store.h"
#include "session/cases/case_input.h"
#include "session/project/keeping.h"

#include <vector>

namespace bathmos::test {

class EnteredEngine {
  public:
    /// One build with a revision for each train, the last one of now.
    EnteredEngine(const std::string& name, double target_rpm, const std::vector<Train>& states);

    void keep_rig(const RigTrace& trace);
    /// Pulls of one file; `note.revision` is that of their state.
    void keep_pulls(const std::string& file, const std::vector<Pull>& pulls, const session::PullNote& note);

    session::CaseInput input() const;
    /// The verdict with a calibration of the run kept, or with none.
    Verdict verdict() const;
    Verdict verdict_with(const Calibration& calibration, const RunReading& reading);

    Id now = 1, run = 0;

  private:
    io::Store store_;
};

} // namespace bathmos::test
