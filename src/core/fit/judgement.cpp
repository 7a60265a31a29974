#include "core/fit/judgement.h"

#include "core/train/train_check.h"

#include <algorithm>

namespace bathmos {

namespace {

std::optional<Clearance> to_other_valve(const Train& train, const FitSurroundings& round,
                                        const LiftOf& lift) {
    if (!round.other_train || !round.other_build || !check_train(*round.other_train).empty())
        return std::nullopt;
    const RigidMotion rigid(*round.other_train, curve_of(round.other_train->lobe));
    const double head_m = train.valve.head_diameter_m, other_m = round.other_train->valve.head_diameter_m;
    if (round.build->side == ValveSide::Intake)
        return valve_clearance(*round.engine, *round.build, head_m, lift, *round.other_build, other_m,
                               rigid_lift(rigid));
    return valve_clearance(*round.engine, *round.other_build, other_m, rigid_lift(rigid), *round.build,
                           head_m, lift);
}

} // namespace

FitJudgement judge_fit(const Assembly& assembly, const TrainFigures& figures, const RigidMotion& rigid,
                       const FitSurroundings& round, const Motion* motion) {
    FitJudgement out;
    FitInput input{assembly, figures, round.engine, round.build ? round.build->side : ValveSide::Intake};
    input.open = round.open;
    input.ages = round.ages;
    if (motion) {
        input.peak_lift_m = highest_lift_m(*motion);
        input.clashes_at_rpm = motion->clashed ? std::optional(motion->speed_rpm) : std::nullopt;
    }
    if (round.engine && round.build) {
        const LiftOf lift = motion ? computed_lift(*motion) : rigid_lift(rigid);
        input.piston = out.piston = piston_clearance(*round.engine, *round.build, lift);
        input.other_valve = out.other_valve = to_other_valve(assembly.train, round, lift);
    }
    out.findings = fit_findings(input);
    return out;
}

} // namespace bathmos
