#include "core/dyno/pull_report.h"

#include "core/problem/input_error.h"

namespace bathmos {

PullReport report_on(const Pull& pull, bool correct, const std::stop_token& stop) {
    PullReport out;
    out.name = pull.name;
    out.pull = pull;
    if (correct) {
        out.correction = j1349(pull);
        if (!out.correction)
            throw InputError({"", "correction",
                              pull.corrected ? "the pull is corrected as recorded"
                                             : "air temperature or barometer were not logged",
                              "leave out the correction, or give air_C and baro_kPa"});
        out.pull = corrected(std::move(out.pull), *out.correction);
    }
    out.analysis = analyse(out.pull, stop);
    out.tests = test_confounders(out.pull, out.analysis);
    return out;
}

} // namespace bathmos
