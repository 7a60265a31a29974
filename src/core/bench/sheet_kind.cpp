#include "core/bench/sheet_kind.h"

#include <algorithm>

namespace bathmos::bench {

namespace {

using Q = Quantity;

// clang-format off
const std::vector<SheetKind> kKinds = {
    {"height", "Installed height", "The height that new retainer or locks give, and the shims that make it the wanted one.",
     {{"old_height_mm", "Height before", Q::Length, "Micrometer between seat and step of the old retainer, valve closed, locks in."},
      {"old.step_mm", "Old step", Q::Length, "Depth from the old retainer's top face to the spring's seat."},
      {"old.ball_depth_mm", "Old ball depth", Q::Length, "The gauge ball in the old retainer's taper: depth from the top face to the ball."},
      {"old.taper_deg", "Old taper", Q::Angle, "Half angle of the old retainer's taper."},
      {"new.step_mm", "New step", Q::Length, "The same of the new retainer."},
      {"new.ball_depth_mm", "New ball depth", Q::Length, "Over the same ball; deeper is a wider taper, into which the lock sinks by as much."},
      {"new.taper_deg", "New taper", Q::Angle, "Half angle of the new retainer's taper."},
      {"lock_taper_deg", "Locks' taper", Q::Angle, "Half angle of the locks that go in.", true},
      {"ball_mm", "Ball", Q::Length, "Diameter of the gauge ball."},
      {"ball_new_mm", "Ball of the new", Q::Length, "Only where the new one was gauged over another ball.", true},
      {"micrometer_mm", "Height by micrometer", Q::Length, "The new height measured directly, beside the worked out one.", true},
      {"wanted_mm", "Wanted height", Q::Length, "What the shims are to make of it.", true},
      {"shims_mm", "Shims at hand", Q::Length, "Thicknesses, with blanks between.", true},
      {"rate_N_per_mm", "Rate", Q::Stiffness, "Of the spring, for the load with the shims.", true},
      {"seat_N", "Seat load before", Q::Force, "At the height before.", true}},
     {}, "", "", "",
     "Locks fly when a spring slips: wear eye protection, count them in and out, cover the drain holes."},
    {"spring", "Spring on the tester", "Loads at the build's heights, rate, solid, rub; the spring as tested goes into the train.",
     {{"installed_height_mm", "Installed height", Q::Length, "Where the seat load is wanted.", true},
      {"valve_lift_mm", "Valve lift", Q::Length, "What the spring is pressed by when the valve is open.", true},
      {"mass_g", "Mass", Q::Mass, "The spring on the scale.", true},
      {"free_length_mm", "Free length", Q::Length, "Unloaded.", true},
      {"resolution_load_N", "Tester shows", Q::Force, "The smallest step of its display.", true},
      {"zero_before_load_N", "Zero before", Q::Force, "What the tester shows without a spring.", true},
      {"zero_after_load_N", "Zero after", Q::Force, "The same when all is done.", true},
      {"claimed.seat_N", "Seat load on paper", Q::Force, "What is written down of it elsewhere.", true},
      {"claimed.open_N", "Open load on paper", Q::Force, "What is written down of it elsewhere.", true},
      {"claimed.rate_N_per_mm", "Rate on paper", Q::Stiffness, "What is written down of it elsewhere.", true}},
     {{"height_mm", "height", Q::Length, "Height under the tester's stop."},
      {"load_N", "load", Q::Force, "Load at that height; repeats with blanks between."}},
     "down", "up", "",
     "A pressed spring stores what it takes to break a finger: eye protection, guard down, hands off; press to solid only as its maker allows."},
    {"spring_set", "Set of springs", "Which are out or tired, and which goes where so that a cylinder's valves match.",
     {{"seat_height_mm", "Seat height", Q::Length, "The height of the first load."},
      {"open_height_mm", "Open height", Q::Length, "The height of the second load.", true}},
     {{"seat_N", "seat load", Q::Force, "Load at the seat height."},
      {"open_N", "open load", Q::Force, "Load at the open height.", true},
      {"before_N", "seat load when new", Q::Force, "From the earlier sheet of the same serial.", true}},
     "", "", "serial",
     "A pressed spring stores what it takes to break a finger: eye protection, guard down, hands off."},
    {"ratio", "Rocker ratio", "Overall and local ratio by two dials, and what the train gives under its spring.",
     {{"believed", "Ratio believed", Q::Count, "To be told where it is another.", true},
      {"resolution_rise_mm", "Dial at the lobe shows", Q::Length, "Its smallest step.", true},
      {"resolution_lift_mm", "Dial at the valve shows", Q::Length, "Its smallest step.", true}},
     {{"rise_mm", "rise", Q::Length, "Dial at lobe or lifter, zero on the base circle."},
      {"lift_mm", "lift", Q::Length, "Dial at the valve, checking spring fitted, zero with it closed."},
      {"working.lift_mm", "lift, working spring", Q::Length, "The same rise under the working spring.", true},
      {"working.force_N", "its force", Q::Force, "The working spring's load there.", true}},
     "up", "down", "",
     "Turn the cam by hand with the plugs out; fingers clear of rockers and gears."},
    {"stiffness", "Stiffness of a part", "Force over dial, slack taken out.",
     {{"resolution_dial_mm", "Dial shows", Q::Length, "Its smallest step.", true}},
     {{"force_N", "force", Q::Force, "Load on the part, from nothing up."},
      {"dial_mm", "dial", Q::Length, "Dial where the load goes in, against the part's own support."}},
     "", "", "",
     "Load with a screw or weights that cannot fall; stand beside the line of the load."},
    {"rocker_inertia", "Rocker inertia", "From the time of ten swings about its pivot.",
     {{"swing_s", "Ten swings", Q::Time, "There and back ten times, small ones; repeats with blanks between."},
      {"mass_g", "Mass", Q::Mass, "The rocker on the scale."},
      {"pivot_to_centre_mm", "Pivot to centre of mass", Q::Length, "Balance it on an edge and measure."}},
     {}, "", "", "", ""},
};
// clang-format on

} // namespace

const std::vector<SheetKind>& sheet_kinds() {
    return kKinds;
}

const SheetKind* find_sheet_kind(std::string_view key) {
    const auto at = std::ranges::find(kKinds, key, &SheetKind::key);
    return at == kKinds.end() ? nullptr : &*at;
}

} // namespace bathmos::bench
