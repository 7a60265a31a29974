#include "core/fit/recheck.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>

namespace bathmos {

namespace {

using K = PartKind;

// clang-format off
const std::vector<CheckInfo> kChecks = {
    {Check::InstalledHeight, "installed_height", "Installed height", "Gauge the height of the spring between seat and retainer, valve closed."},
    {Check::SeatLoad, "seat_load", "Seat load", "Read the load at the installed height on the spring tester."},
    {Check::BindMargin, "bind_margin", "Bind margin", "Open to full lift and see that at least 1.27 mm (0.050 in) is left to solid."},
    {Check::RetainerToSeal, "retainer_to_seal", "Retainer to seal", "Open to full lift with a light spring and feel the gap."},
    {Check::RetainerToRocker, "retainer_to_rocker", "Retainer to rocker", "Turn through a whole lift and look for contact."},
    {Check::LockSeating, "lock_seating", "Locks seated", "Both halves level and at the same depth, gaps between them even; count them."},
    {Check::SpringFit, "spring_fit", "Spring on its steps", "It sits flat on seat and retainer, located but not tight."},
    {Check::StemClearance, "stem_clearance", "Stem in guide", "Clearance by bore gauge; the valve falls freely through the seal's grip."},
    {Check::Ratio, "ratio", "Rocker ratio", "Dial readings of lifter lift and valve lift over a whole lift."},
    {Check::WitnessMark, "witness_mark", "Witness mark", "Colour the tip, turn through a lift, measure width and middle of the mark."},
    {Check::PushrodClearance, "pushrod_clearance", "Pushrod clear of head and guide", "Turn through a whole lift and look along the rod."},
    {Check::Lash, "lash", "Lash", "Set with the lobe on its base circle, then turn twice and read again."},
    {Check::Preload, "preload", "Plunger preload", "From zero lash, turn by what the follower's maker says."},
    {Check::CamTiming, "cam_timing", "Centre line", "Degree the cam: equal lift on both sides of the nose."},
    {Check::PistonToValve, "piston_to_valve", "Piston to valve", "Measure the drop at top dead centre, or by clay, and look at the gap with the motion at speed."},
    {Check::ValveToValve, "valve_to_valve", "Valve to valve", "Through overlap, both valves at their lift."},
    {Check::Mass, "mass", "Mass", "Weigh it; a sheet's mass is not this part's."},
    {Check::BreakIn, "break_in", "Running in", "New cam and followers: as their maker says, with the springs that are meant for it."},
};

const std::array<std::vector<Check>, kPartKinds> kAfter = {{
    /* lobe */ {Check::Lash, Check::BindMargin, Check::RetainerToSeal, Check::RetainerToRocker, Check::CamTiming, Check::PistonToValve, Check::ValveToValve, Check::BreakIn},
    /* lifter */ {Check::PushrodClearance, Check::Lash, Check::Preload, Check::Mass, Check::BreakIn},
    /* pushrod */ {Check::Ratio, Check::WitnessMark, Check::PushrodClearance, Check::Lash, Check::Preload, Check::Mass},
    /* rocker */ {Check::Ratio, Check::WitnessMark, Check::PushrodClearance, Check::RetainerToRocker, Check::Lash, Check::Preload, Check::BindMargin, Check::RetainerToSeal, Check::PistonToValve, Check::ValveToValve},
    /* stand */ {Check::Ratio, Check::WitnessMark, Check::PushrodClearance, Check::Lash, Check::Preload},
    /* valve */ {Check::InstalledHeight, Check::SeatLoad, Check::BindMargin, Check::StemClearance, Check::LockSeating, Check::RetainerToSeal, Check::WitnessMark, Check::Lash, Check::PistonToValve, Check::ValveToValve, Check::Mass},
    /* retainer */ {Check::LockSeating, Check::SpringFit, Check::InstalledHeight, Check::SeatLoad, Check::BindMargin, Check::RetainerToSeal, Check::RetainerToRocker, Check::Mass},
    /* locks */ {Check::LockSeating, Check::InstalledHeight, Check::SeatLoad, Check::BindMargin, Check::RetainerToSeal, Check::Mass},
    /* cap */ {Check::Ratio, Check::WitnessMark, Check::Lash, Check::RetainerToRocker, Check::Mass},
    /* spring */ {Check::SpringFit, Check::InstalledHeight, Check::SeatLoad, Check::BindMargin, Check::RetainerToRocker, Check::Mass},
    /* seat */ {Check::SpringFit, Check::InstalledHeight, Check::SeatLoad, Check::BindMargin},
    /* seal */ {Check::RetainerToSeal, Check::StemClearance},
    /* guide */ {Check::StemClearance, Check::RetainerToSeal},
    /* shim */ {Check::InstalledHeight, Check::SeatLoad, Check::BindMargin, Check::RetainerToRocker},
}};
// clang-format on

// Numbers outside any part.
std::vector<Check> after_setting(std::string_view key) {
    if (key == "installed_height_mm")
        return {Check::InstalledHeight, Check::SeatLoad, Check::BindMargin};
    if (key == "lash_mm")
        return {Check::Lash};
    return {}; // contacts, friction and pressure are the model's: nothing on the bench depends on them
}

bool has(const Train& train, Check check) {
    const bool oil = train.hydraulic();
    switch (check) {
    case Check::PushrodClearance:
        return train.layout == Layout::Pushrod;
    case Check::Ratio:
    case Check::WitnessMark:
    case Check::RetainerToRocker:
        return train.layout != Layout::Bucket;
    case Check::Lash:
        return !oil;
    case Check::Preload:
        return oil;
    default:
        return true;
    }
}

// Keys of the checks that sheets and waivers close, by revision.
std::map<Id, std::set<std::string>> closed_checks(const Project& project) {
    std::map<Id, std::set<std::string>> out;
    for (const EntryKind kind : {EntryKind::Sheet, EntryKind::Waiver})
        for (const auto& [id, entry] : project.of(kind))
            if (!entry.closes.empty())
                out[entry.revision].insert(entry.closes.begin(), entry.closes.end());
    return out;
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

const std::vector<Check>& AskedChecks::of(const Project& project, Id revision) {
    const Revision& now = project.revisions.at(revision);
    if (const auto known = asked_.find(revision); known != asked_.end() && known->second.parent == now.parent)
        return known->second.checks;
    std::vector<Check> checks;
    if (const auto before = project.revisions.find(now.parent); before != project.revisions.end())
        checks = checks_after(differences(before->second.assembly, now.assembly));
    Asked& kept = asked_[revision];
    kept = {now.parent, std::move(checks)};
    return kept.checks;
}

void AskedChecks::forget(Id revision) {
    // Children have higher numbers than their parent.
    for (auto at = asked_.lower_bound(revision); at != asked_.end();)
        at = at->first == revision || at->second.parent == revision ? asked_.erase(at) : std::next(at);
    if (before_ && revision <= before_->revision) // parents have lower numbers
        before_.reset();
}

void AskedChecks::clear() {
    asked_.clear();
    before_.reset();
}

// Takes what is open before a revision on to what is open with it.
void AskedChecks::follow(const Project& project, Id revision, const Closed& closed, Open& open) {
    const Revision& now = project.revisions.at(revision);
    for (const Check check : of(project, revision))
        if (has(now.assembly.train, check))
            open[check] = {check, revision, now.reason};
    if (const auto here = closed.find(revision); here != closed.end())
        std::erase_if(open, [&](const auto& entry) {
            return here->second.contains(std::string(info(entry.first).key));
        });
}

std::vector<OpenCheck> AskedChecks::open_to(const Project& project, Id revision) {
    const auto last = project.revisions.find(revision);
    if (last == project.revisions.end())
        return {};
    const Closed closed = closed_checks(project);
    if (!before_ || before_->revision != last->second.parent || before_->closed != closed) {
        before_ = Before{last->second.parent, closed, {}};
        for (const Id id : project.line_to(last->second.parent))
            follow(project, id, closed, before_->open);
    }
    Open open = before_->open;
    follow(project, revision, closed, open);
    std::vector<OpenCheck> out;
    for (const auto& [check, entry] : open)
        out.push_back(entry);
    return out;
}

std::vector<OpenCheck> open_checks(const Project& project, Id revision) {
    AskedChecks asked;
    return asked.open_to(project, revision);
}

} // namespace bathmos
