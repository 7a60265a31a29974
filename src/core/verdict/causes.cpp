#include "core/verdict/causes.h"

#include <algorithm>

namespace bathmos {

namespace {

using enum Cause;

// Two questions stand first: the valve train or not, and what of it. With nothing known, a loss of power at
// high speed is the valve train's in about half the cases; within each half the commoner troubles of a
// workshop come first.
const CauseInfo kCauseInfo[kCauses] = {
    {"spring_weak", "Spring too weak for mass and lobe", "the spring cannot hold this mass on this lobe",
     true, 0.09, "the usual suspect",
     "contact is lost or the valve lofts first, more spring or less mass helps most, model and break agree"},
    {"train_flexible", "Train too flexible", "opening flex of the train comes back at the seat", true, 0.09,
     "common with thin pushrods and long rockers",
     "late off the seat, early back, lands hard and bounces; a stiffer link helps even if heavier"},
    {"surge", "Spring surge", "the spring surges and lets go of the valve", true, 0.05,
     "needs an order on the nose", "a narrow band of speed, seat load ripples, damping helps most"},
    {"hard_landing", "Hard landing on the ramp", "the closing ramp sets the valve down too hard", true, 0.05,
     "a lobe and lash matter", "seating speed crosses first, with little loft; more seat load helps"},
    {"pump_up", "Follower pumps up", "the hydraulic follower pumps up and holds the valve open", true, 0.04,
     "with hydraulic followers only", "the valve is held open, a solid follower cures it"},
    {"harsh_lobe", "Lobe too harsh", "the lobe asks more of this train than it can follow", true, 0.04,
     "after a change of lobe", "the lobe was changed, loft or contact loss come early"},
    {"coil_bind", "Coils meet", "the spring's coils meet", true, 0.03, "bind margin tells",
     "little room at peak lift, coils clash at speed"},
    {"boost_on_head", "Pressure on the valve's head", "pressure on the head takes the spring's force", true,
     0.03, "charged engines only", "the limit falls with boost, taking pressure off cures it"},
    {"spring_not_as_believed", "Spring, height or locks not as believed",
     "the spring in the engine is not the one on paper", true, 0.08,
     "tired springs and wrong shims are common",
     "breaks well below what the model says of the parts on paper; load or height was not checked"},
    {"belt_slip", "Drive belt slips", "the blower's belt slips", false, 0.06, "charged engines only",
     "blower speed or boost falls behind the crank, power falls smoothly with it"},
    {"mixture", "Mixture or fuel pressure", "the mixture moves away from best power", false, 0.08,
     "pumps and filters at full flow", "lambda moves or rail pressure falls, repeats with load"},
    {"spark", "Spark breaks up", "the spark breaks up under load", false, 0.08,
     "coils and plugs at full load", "rough, misfires, lambda jumps; less load moves it"},
    {"intake_loss", "Intake loses pressure", "the intake loses pressure before the engine", false, 0.05,
     "filters and hoses", "pressure before the engine falls faster than with speed squared, no roughness"},
    {"throttle", "Throttle closes", "the throttle closes", false, 0.03, "linkage or control",
     "throttle and manifold pressure fall together, no roughness"},
    {"knock", "Knock control retards", "knock control takes spark advance away", false, 0.05, "fuel and heat",
     "retard rises with speed or heat"},
    {"oil", "Oil pressure falls", "oil pressure falls", false, 0.03, "pickup and pump",
     "oil pressure falls, power fades"},
    {"driver", "Driver lifts", "the driver lifts", false, 0.03, "short pulls",
     "power goes at once at the end, at another speed each time"},
    {"limiter", "Limiter cuts in", "the limiter cuts in", false, 0.03, "set for another engine",
     "power jumps at one and the same speed"},
    {"breathing", "Engine is out of breath", "the engine runs out of breath: its curve rolls over smoothly",
     false, 0.06, "every engine does somewhere",
     "a smooth rollover, no roughness, nothing that was logged moves"},
};

constexpr std::string_view kTradePractice = "trade practice", kDefinition = "by definition of the cause";
constexpr std::string_view kDyno = "physics.md 9";
constexpr std::string_view kModel = "full model of the train in hand";
constexpr std::string_view kRig = "physics.md 7 and 8";
constexpr std::string_view kSense = "a cause needs its occasion";

// clang-format off
const std::vector<SymptomInfo> kSymptomInfo = {
    {"break", "Power breaks away from its trend", SymptomGroup::Dyno, 0.85,
     {{Breathing, 0.04}, {IntakeLoss, 0.40}, {OilPressure, 0.40}, {BeltSlip, 0.55}, {Mixture, 0.60}, {KnockRetard, 0.55}, {ThrottleClosing, 0.60}, {SparkBreakUp, 0.70}, {DriverLift, 0.70}, {RevLimiter, 0.60}}, kDyno},
    {"rough_above", "Power is rough above it", SymptomGroup::Dyno, 0.80,
     {{Breathing, 0.06}, {IntakeLoss, 0.06}, {OilPressure, 0.08}, {BeltSlip, 0.15}, {Mixture, 0.35}, {KnockRetard, 0.15}, {ThrottleClosing, 0.08}, {SparkBreakUp, 0.90}, {DriverLift, 0.20}, {RevLimiter, 0.60}, {PumpUp, 0.50}}, kDyno},
    {"smooth_fall", "Power rolls over smoothly", SymptomGroup::Dyno, 0.15,
     {{Breathing, 0.95}, {IntakeLoss, 0.55}, {OilPressure, 0.50}, {BeltSlip, 0.40}, {KnockRetard, 0.40}, {ThrottleClosing, 0.35}, {Mixture, 0.30}}, kDyno},
    {"repeats", "It breaks at the same speed each time", SymptomGroup::Dyno, 0.65,
     {{SpringWeak, 0.85}, {TrainFlexible, 0.85}, {RevLimiter, 0.97}, {DriverLift, 0.25}, {SparkBreakUp, 0.55}}, kDyno},
    {"cut_off", "Power is cut off at once", SymptomGroup::Dyno, 0.05,
     {{DriverLift, 0.90}, {RevLimiter, 0.92}, {SparkBreakUp, 0.12}, {ThrottleClosing, 0.10}, {Mixture, 0.10}, {PumpUp, 0.45}}, "a valve that lofts or bounces never takes 15 % within 120 rev/min; one that is held open does"},
    {"new_in_this_state", "The state before did not lose this power", SymptomGroup::Dyno, 0.80, {{Breathing, 0.05}}, "an engine does not change its breathing by itself"},

    {"blower_falls", "Blower or boost falls behind", SymptomGroup::Logged, 0.04, {{BeltSlip, 0.95}}, kDefinition},
    {"mixture_moves", "Mixture or fuel pressure moves", SymptomGroup::Logged, 0.05, {{Mixture, 0.94}, {SparkBreakUp, 0.25}, {DriverLift, 0.08}, {RevLimiter, 0.08}}, kDefinition},
    {"misfires", "Misfires, or lambda jumps", SymptomGroup::Logged, 0.05, {{SparkBreakUp, 0.94}, {Mixture, 0.08}, {RevLimiter, 0.15}}, kDefinition},
    {"intake_falls", "Intake pressure falls too much", SymptomGroup::Logged, 0.04, {{IntakeLoss, 0.94}, {ThrottleClosing, 0.35}, {DriverLift, 0.15}}, kDefinition},
    {"throttle_falls", "Throttle creeps shut", SymptomGroup::Logged, 0.03, {{ThrottleClosing, 0.95}, {DriverLift, 0.15}}, kDefinition},
    {"knock_rises", "Knock control retards", SymptomGroup::Logged, 0.05, {{KnockRetard, 0.95}, {Mixture, 0.10}}, kDefinition},
    {"oil_falls", "Oil pressure falls", SymptomGroup::Logged, 0.05, {{OilPressure, 0.95}, {PumpUp, 0.12}}, kDefinition},
    {"foot_lifts", "Driver's foot lifts before the end", SymptomGroup::Logged, 0.04, {{DriverLift, 0.95}}, kDefinition},
    {"limiter_cuts", "The control cuts", SymptomGroup::Logged, 0.03, {{RevLimiter, 0.95}}, kDefinition},

    {"model_near", "Model's limit or onset is near the break", SymptomGroup::Model, 0.22,
     {{SpringWeak, 0.88}, {TrainFlexible, 0.65}, {Surge, 0.75}, {HardLanding, 0.80}, {PumpUp, 0.75}, {HarshLobe, 0.85}, {CoilBind, 0.75}, {BoostOnHead, 0.65}, {SpringNotAsBelieved, 0.20}}, "docs/accuracy.md: unfitted trains are within some 4 %; by chance one in five"},
    {"model_below", "Model lets the train run well past the break", SymptomGroup::Model, 0.65,
     {{SpringWeak, 0.06}, {TrainFlexible, 0.25}, {Surge, 0.20}, {HardLanding, 0.15}, {PumpUp, 0.20}, {HarshLobe, 0.08}, {CoilBind, 0.20}, {BoostOnHead, 0.25}, {SpringNotAsBelieved, 0.80}}, "the model knows the parts on paper only"},
    {"loses_contact_first", "Contact loss or loft comes first in the model", SymptomGroup::Model, 0.40,
     {{SpringWeak, 0.85}, {HarshLobe, 0.75}, {Surge, 0.60}, {BoostOnHead, 0.75}, {HardLanding, 0.15}, {PumpUp, 0.15}, {TrainFlexible, 0.60}}, kModel},
    {"lands_hard_first", "Seating or bounce comes first in the model", SymptomGroup::Model, 0.40,
     {{HardLanding, 0.85}, {TrainFlexible, 0.50}, {SpringWeak, 0.25}, {PumpUp, 0.15}, {BoostOnHead, 0.25}}, kModel},
    {"held_open_first", "The valve is held open first in the model", SymptomGroup::Model, 0.06, {{PumpUp, 0.90}}, kModel},
    {"spring_helps", "More spring helps much in the model", SymptomGroup::Model, 0.45,
     {{SpringWeak, 0.92}, {BoostOnHead, 0.70}, {HarshLobe, 0.65}, {SpringNotAsBelieved, 0.75}, {TrainFlexible, 0.40}, {PumpUp, 0.30}}, kModel},
    {"stiffness_helps", "A stiffer train helps much in the model", SymptomGroup::Model, 0.40,
     {{TrainFlexible, 0.95}, {SpringWeak, 0.25}, {PumpUp, 0.20}, {Surge, 0.25}}, kModel},
    {"damping_helps", "Damping in the spring helps much in the model", SymptomGroup::Model, 0.20, {{Surge, 0.92}, {CoilBind, 0.35}}, kModel},
    {"pressure_off_helps", "Taking pressure off the head helps in the model", SymptomGroup::Model, 0.10, {{BoostOnHead, 0.92}}, kModel},
    {"solid_follower_helps", "A solid follower helps much in the model", SymptomGroup::Model, 0.15, {{PumpUp, 0.93}}, kModel},
    {"coils_meet", "Coils meet at or below the limit in the model", SymptomGroup::Model, 0.08, {{CoilBind, 0.92}, {Surge, 0.20}}, kModel},

    {"rig_near", "The rig's onset is near the break", SymptomGroup::Rig, 0.15,
     {{SpringWeak, 0.90}, {TrainFlexible, 0.90}, {Surge, 0.80}, {HardLanding, 0.85}, {PumpUp, 0.70}, {HarshLobe, 0.90}, {CoilBind, 0.80}, {BoostOnHead, 0.20}, {SpringNotAsBelieved, 0.85}}, kRig},
    {"rig_lands_first", "Seating or bounce comes first on the rig", SymptomGroup::Rig, 0.40,
     {{TrainFlexible, 0.80}, {HardLanding, 0.92}, {SpringWeak, 0.35}, {Surge, 0.30}, {PumpUp, 0.15}}, kRig},
    {"rig_loft_first", "Loft comes first on the rig", SymptomGroup::Rig, 0.30,
     {{SpringWeak, 0.75}, {HarshLobe, 0.70}, {SpringNotAsBelieved, 0.60}, {TrainFlexible, 0.30}, {HardLanding, 0.06}, {PumpUp, 0.20}}, kRig},
    {"rig_held_open", "The valve is held open on the rig", SymptomGroup::Rig, 0.04, {{PumpUp, 0.92}}, kRig},
    {"rig_opens_late", "It opens much later with speed on the rig", SymptomGroup::Rig, 0.30, {{TrainFlexible, 0.88}}, "opening flex grows with speed squared"},
    {"rig_surge_band", "A band of speeds departs and comes back on the rig", SymptomGroup::Rig, 0.12, {{Surge, 0.75}}, kRig},
    {"rig_creeps", "A hold creeps on the rig", SymptomGroup::Rig, 0.05, {{PumpUp, 0.75}, {SpringWeak, 0.20}}, "a follower pumps up slowly; springs that set lose load as they warm"},
    {"run_reads", "What the calibrated run says", SymptomGroup::Rig, 0.10, {}, "docs/calibration.md: likelihoods by the run itself"},

    {"spring_suspect", "Spring, height or locks have an open check or finding", SymptomGroup::Bench, 0.25, {{SpringNotAsBelieved, 0.85}, {CoilBind, 0.45}, {BoostOnHead, 0.30}}, kTradePractice},
    {"little_room", "Little room to solid at peak lift", SymptomGroup::Bench, 0.20, {{CoilBind, 0.90}, {Surge, 0.12}}, "physics.md 3"},
    {"failed", "What broke or wore", SymptomGroup::Bench, 0.08, {}, "docs/verdict.md: likelihoods by part and mode"},

    {"softer_link", "The link was made softer, and undoing it helps", SymptomGroup::Changes, 0.12, {{TrainFlexible, 0.75}}, kSense},
    {"spring_changed", "Spring, retainer, locks or height changed", SymptomGroup::Changes, 0.20, {{SpringNotAsBelieved, 0.60}, {SpringWeak, 0.40}, {CoilBind, 0.50}, {Surge, 0.40}}, kSense},
    {"mass_added", "The valve side became heavier", SymptomGroup::Changes, 0.10, {{SpringWeak, 0.50}, {HarshLobe, 0.12}}, kSense},
    {"lobe_changed", "The lobe or its lash changed", SymptomGroup::Changes, 0.10, {{HarshLobe, 0.85}, {HardLanding, 0.60}, {SpringWeak, 0.20}}, kSense},
    {"follower_changed", "A hydraulic follower was fitted or changed", SymptomGroup::Changes, 0.06, {{PumpUp, 0.60}}, kSense},
    {"boost_raised", "Boost or back pressure was raised", SymptomGroup::Changes, 0.08, {{BoostOnHead, 0.75}, {BeltSlip, 0.35}, {KnockRetard, 0.30}, {SparkBreakUp, 0.30}, {Mixture, 0.25}}, kSense},
    {"oil_raised", "Oil, its pump or its pressure changed", SymptomGroup::Changes, 0.08, {{PumpUp, 0.75}, {OilPressure, 0.20}}, kSense},
    {"nothing_in_the_train", "Nothing in the valve train changed", SymptomGroup::Changes, 0.70,
     {{TrainFlexible, 0.15}, {SpringWeak, 0.20}, {HarshLobe, 0.06}, {HardLanding, 0.25}, {Surge, 0.30}, {CoilBind, 0.25}, {SpringNotAsBelieved, 0.45}, {PumpUp, 0.50}, {BoostOnHead, 0.50}}, "what has not changed seldom begins to fail, but springs tire"},

    {"stays_with_boost", "It stays when boost or fuel change", SymptomGroup::Trials, 0.80,
     {{BoostOnHead, 0.10}, {BeltSlip, 0.15}, {Mixture, 0.15}, {SparkBreakUp, 0.20}, {KnockRetard, 0.15}, {OilPressure, 0.80}, {RevLimiter, 0.97}}, kDyno},
    {"moves_with_train", "It moves when springs, mass or link change", SymptomGroup::Trials, 0.08,
     {{SpringWeak, 0.90}, {TrainFlexible, 0.80}, {Surge, 0.80}, {HardLanding, 0.70}, {PumpUp, 0.40}, {HarshLobe, 0.80}, {CoilBind, 0.75}, {BoostOnHead, 0.80}, {SpringNotAsBelieved, 0.90}}, kDyno},
};
// clang-format on

} // namespace

const CauseInfo& info(Cause cause) {
    return kCauseInfo[static_cast<std::size_t>(cause)];
}

std::optional<Cause> find_cause(std::string_view key) {
    for (std::size_t i = 0; i < kCauses; ++i)
        if (kCauseInfo[i].key == key)
            return static_cast<Cause>(i);
    return std::nullopt;
}

const SymptomInfo& info(Symptom symptom) {
    return kSymptomInfo[static_cast<std::size_t>(symptom)];
}

double likelihood(Symptom symptom, Cause cause) {
    const SymptomInfo& s = info(symptom);
    double p = s.usual;
    for (const auto& [named, value] : s.under)
        if (named == cause)
            p = value;
    return std::clamp(p, 0.02, 0.98);
}

} // namespace bathmos
