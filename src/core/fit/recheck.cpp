#include "core/fit/recheck.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>

namespace bathmos {

namespace {

using C = Check;
using K = PartKind;

// clang-format off
const std::vector<CheckInfo> kChecks = {
    {C::InstalledHeight, "installed_height", "Installed height", "Gauge the height of the spring between seat and retainer, valve closed."},
    {C::SeatLoad, "seat_load", "Seat load", "Read the load at the installed height on the spring tester."},
    {C::BindMargin, "bind_margin", "Bind margin", "Open to full lift and see that at least 1.3 mm is left between coils."},
    {C::RetainerToSeal, "retainer_to_seal", "Retainer to seal", "Open to full lift with a light spring and feel the gap."},
    {C::RetainerToRocker, "retainer_to_rocker", "Retainer to rocker", "Turn through a whole lift and look for contact."},
    {C::LockSeating, "lock_seating", "Locks seated", "Both halves level and at the same depth, gaps between them even; count them."},
    {C::SpringFit, "spring_fit", "Spring on its steps", "It sits flat on seat and retainer, located but not tight."},
    {C::StemClearance, "stem_clearance", "Stem in guide", "Clearance by bore gauge; the valve falls freely through the seal's grip."},
    {C::Ratio, "ratio", "Rocker ratio", "Dial readings of lifter rise and valve lift over a whole lift."},
    {C::WitnessMark, "witness_mark", "Witness mark", "Colour the tip, turn through a lift, measure width and middle of the mark."},
    {C::PushrodClearance, "pushrod_clearance", "Pushrod clear of head and guide", "Turn through a whole lift and look along the rod."},
    {C::Lash, "lash", "Lash", "Set with the lobe on its base circle, then turn twice and read again."},
    {C::Preload, "preload", "Plunger preload", "From zero lash, turn by what the follower's maker says."},
    {C::CamTiming, "cam_timing", "Centre line", "Degree the cam: equal lift on both sides of the nose."},
    {C::PistonToValve, "piston_to_valve", "Piston to valve", "Measure the drop at top dead centre, or by clay, and look at the gap with the motion at speed."},
    {C::ValveToValve, "valve_to_valve", "Valve to valve", "Through overlap, both valves at their lift."},
    {C::Mass, "mass", "Mass", "Weigh it; a sheet's mass is not this part's."},
    {C::BreakIn, "break_in", "Running in", "New cam and followers: as their maker says, with the springs that are meant for it."},
};

const std::array<std::vector<Check>, kPartKinds> kAfter = {{
    /* lobe */ {C::Lash, C::BindMargin, C::RetainerToSeal, C::RetainerToRocker, C::CamTiming, C::PistonToValve, C::ValveToValve, C::BreakIn},
    /* lifter */ {C::PushrodClearance, C::Lash, C::Preload, C::Mass, C::BreakIn},
    /* pushrod */ {C::Ratio, C::WitnessMark, C::PushrodClearance, C::Lash, C::Preload, C::Mass},
    /* rocker */ {C::Ratio, C::WitnessMark, C::PushrodClearance, C::RetainerToRocker, C::Lash, C::Preload, C::BindMargin, C::RetainerToSeal, C::PistonToValve, C::ValveToValve},
    /* stand */ {C::Ratio, C::WitnessMark, C::PushrodClearance, C::Lash, C::Preload},
    /* valve */ {C::InstalledHeight, C::SeatLoad, C::BindMargin, C::StemClearance, C::LockSeating, C::RetainerToSeal, C::WitnessMark, C::Lash, C::PistonToValve, C::ValveToValve, C::Mass},
    /* retainer */ {C::LockSeating, C::SpringFit, C::InstalledHeight, C::SeatLoad, C::BindMargin, C::RetainerToSeal, C::RetainerToRocker, C::Mass},
    /* locks */ {C::LockSeating, C::InstalledHeight, C::SeatLoad, C::BindMargin, C::RetainerToSeal, C::Mass},
    /* cap */ {C::Ratio, C::WitnessMark, C::Lash, C::RetainerToRocker, C::Mass},
    /* spring */ {C::SpringFit, C::InstalledHeight, C::SeatLoad, C::BindMargin, C::RetainerToRocker, C::Mass},
    /* seat */ {C::SpringFit, C::InstalledHeight, C::SeatLoad, C::BindMargin},
    /* seal */ {C::RetainerToSeal, C::StemClearance},
    /* guide */ {C::StemClearance, C::RetainerToSeal},
    /* shim */ {C::InstalledHeight, C::SeatLoad, C::BindMargin, C::RetainerToRocker},
}};
// clang-format on

// Numbers outside any part.
std::vector<Check> after_setting(std::string_view key) {
    if (key == "installed_height_mm")
        return {C::InstalledHeight, C::SeatLoad, C::BindMargin};
    if (key == "lash_mm")
        return {C::Lash};
    return {}; // contacts, friction and pressure are the model's: nothing on the bench depends on them
}

bool has(const Train& train, Check check) {
    const bool oil = train.hydraulic();
    switch (check) {
    case C::PushrodClearance:
        return train.layout == Layout::Pushrod;
    case C::Ratio:
    case C::WitnessMark:
    case C::RetainerToRocker:
        return train.layout != Layout::Bucket;
    case C::Lash:
        return !oil;
    case C::Preload:
        return oil;
    default:
        return true;
    }
}

bool closes(const Entry& entry, Id revision, Check check) {
    const std::string key(info(check).key);
    return entry.revision == revision &&
           std::find(entry.closes.begin(), entry.closes.end(), key) != entry.closes.end();
}

bool closed_at(const Project& project, Id revision, Check check) {
    for (const EntryKind kind : {EntryKind::Sheet, EntryKind::Waiver})
        for (const auto& [id, entry] : project.of(kind))
            if (closes(entry, revision, check))
                return true;
    return false;
}

} // namespace

const std::vector<CheckInfo>& checks() {
    return kChecks;
}
const CheckInfo& info(Check check) {
    return kChecks[static_cast<std::size_t>(check)];
}
std::optional<Check> find_check(std::string_view key) {
    for (const CheckInfo& one : kChecks)
        if (one.key == key)
            return one.check;
    return std::nullopt;
}

const std::vector<Check>& checks_after(PartKind kind) {
    return kAfter[static_cast<std::size_t>(kind)];
}

std::optional<PartKind> kind_of(const Difference& difference) {
    std::string_view key = difference.key;
    if (key.starts_with("parts."))
        key.remove_prefix(6);
    const std::string_view head = key.substr(0, key.find_first_of(".["));
    for (const PartKindInfo& kind : part_kinds())
        if (kind.key == head || (!kind.section.empty() && kind.section == head))
            return kind.kind;
    return std::nullopt;
}

std::vector<Check> checks_after(const std::vector<Difference>& changed) {
    std::vector<bool> asked(kChecks.size(), false);
    for (const Difference& difference : changed) {
        const auto kind = kind_of(difference);
        for (const Check check : kind ? checks_after(*kind) : after_setting(difference.key))
            asked[static_cast<std::size_t>(check)] = true;
    }
    std::vector<Check> out;
    for (const CheckInfo& one : kChecks)
        if (asked[static_cast<std::size_t>(one.check)])
            out.push_back(one.check);
    return out;
}

std::vector<OpenCheck> open_checks(const Project& project, Id revision) {
    std::map<Check, OpenCheck> open;
    const std::vector<Id> line = project.line_to(revision);
    for (std::size_t i = 0; i < line.size(); ++i) {
        const Revision& now = project.revisions.at(line[i]);
        if (i > 0) {
            const auto changed = differences(project.revisions.at(line[i - 1]).assembly, now.assembly);
            for (const Check check : checks_after(changed))
                if (has(now.assembly.train, check))
                    open[check] = {check, line[i], now.reason};
        }
        std::erase_if(open, [&](const auto& entry) { return closed_at(project, line[i], entry.first); });
    }
    std::vector<OpenCheck> out;
    for (const auto& [check, entry] : open)
        out.push_back(entry);
    return out;
}

} // namespace bathmos
