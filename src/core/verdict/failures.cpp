#include "core/verdict/failures.h"

#include <algorithm>

namespace bathmos {

namespace {

using enum Cause;
using K = PartKind;

constexpr double kByItself = 0.08; // under every cause that is not named: parts fail by themselves, too

struct FailureRow {
    K part;
    std::vector<std::string_view> modes; ///< empty: any other
    std::vector<std::pair<Cause, double>> under;
    std::string_view inspect;
};

// clang-format off
const std::vector<FailureRow> kRows = {
    {K::Rocker, {}, {{HarshLobe, 0.60}, {HardLanding, 0.20}, {CoilBind, 0.15}, {TrainFlexible, 0.20}, {SpringWeak, 0.15}},
     "the lobe's acceleration low down against its file, and the open load against the rocker's rating"},
    {K::Locks, {}, {{HardLanding, 0.55}, {HarshLobe, 0.20}, {TrainFlexible, 0.35}, {Surge, 0.15}, {SpringNotAsBelieved, 0.12}},
     "the tapers of retainer and locks with the gauge ball, and the landing speed on the rig"},
    {K::Spring, {"broken"}, {{CoilBind, 0.50}, {Surge, 0.60}, {SpringNotAsBelieved, 0.20}},
     "bright spots between coils and the height to solid, the inner spring first"},
    {K::Spring, {"marked", "hammered", "galled"}, {{CoilBind, 0.75}, {Surge, 0.35}},
     "the height to solid of each spring at full lift, retainer's steps with it"},
    {K::Spring, {}, {{SpringNotAsBelieved, 0.70}, {SpringWeak, 0.40}, {Surge, 0.25}}, "the set on the tester against its sheet when new"},
    {K::Valve, {"hammered"}, {{HardLanding, 0.65}, {TrainFlexible, 0.40}, {SpringWeak, 0.30}},
     "the seats blued, and lash and closing ramp against the landing speed"},
    {K::Valve, {"broken"}, {{HardLanding, 0.55}, {TrainFlexible, 0.30}, {SpringWeak, 0.30}, {PumpUp, 0.15}},
     "the break's face and the landing speed on the rig"},
    {K::Valve, {"bent"}, {{SpringWeak, 0.50}, {TrainFlexible, 0.30}, {BoostOnHead, 0.25}, {PumpUp, 0.30}, {SpringNotAsBelieved, 0.35}},
     "marks on the piston, and the clearance with the motion at speed"},
    {K::Valve, {"worn", "marked", "galled"}, {}, "the mark's place over a whole lift, and the rod's length"},
    {K::Retainer, {}, {{HardLanding, 0.35}, {CoilBind, 0.40}, {Surge, 0.30}, {HarshLobe, 0.15}},
     "the step against each spring and the height to solid"},
    {K::Pushrod, {"bent", "broken"}, {{CoilBind, 0.40}, {TrainFlexible, 0.50}, {SpringWeak, 0.30}, {HarshLobe, 0.20}},
     "the rod's run-out and its clearance, and coils and valve to piston at full lift"},
    {K::Pushrod, {}, {{TrainFlexible, 0.45}, {HarshLobe, 0.20}}, "the ball ends against their cups, their stiffness by load and dial"},
    {K::Lobe, {}, {{HarshLobe, 0.60}, {SpringWeak, 0.35}, {TrainFlexible, 0.25}, {SpringNotAsBelieved, 0.12}},
     "the contact stress over the lobe, and the lobe gauged against its file"},
    {K::Lifter, {}, {{HarshLobe, 0.45}, {SpringWeak, 0.40}, {TrainFlexible, 0.30}, {PumpUp, 0.25}},
     "wheel and axle, the lobe's nose and flanks, and loft on the rig"},
    {K::Stand, {}, {{HarshLobe, 0.40}, {TrainFlexible, 0.45}}, "studs and stand by load and dial"},
    {K::Seat, {}, {{Surge, 0.50}, {CoilBind, 0.25}}, "whether the springs turn, and the height to solid"},
};
// clang-format on

const FailureRow* row_of(const FailureSeen& failure) {
    const auto named = [&](const FailureRow& row) {
        return row.part == failure.part && std::ranges::find(row.modes, failure.mode) != row.modes.end();
    };
    const auto any = [&](const FailureRow& row) { return row.part == failure.part && row.modes.empty(); };
    auto at = std::ranges::find_if(kRows, named);
    if (at == kRows.end())
        at = std::ranges::find_if(kRows, any);
    return at == kRows.end() ? nullptr : &*at;
}

} // namespace

FailureReading read_failure(const FailureSeen& failure) {
    FailureReading out{std::vector<double>(kCauses, kByItself), "the part and what it runs on", false};
    const FailureRow* row = row_of(failure);
    if (!row)
        return out;
    out.inspect = row->inspect;
    out.speaks = !row->under.empty();
    for (const auto& [cause, likelihood] : row->under)
        out.under[static_cast<std::size_t>(cause)] = likelihood;
    return out;
}

} // namespace bathmos
