// Parts, assemblies and revisions: fitting, comparing, freezing, what depends on what.
#include "core/fit/recheck.h"
#include "core/project/project.h"
#include "core/train/train_check.h"
#include "core/train/train_starter.h"
#include "support.h"

#include <QTest>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

namespace {

Part thin_pushrod() {
    Part part = *part_from(starter_train(), PartKind::Pushrod);
    part.name = "thin wall";
    part.piece.pushrod->wall_m = 0.9e-3;
    part.piece.tolerances["pushrod.wall_mm"] = {Source::Gauge, 0.02e-3};
    return part;
}

Part shim(double thickness_m) {
    Part part;
    part.kind = PartKind::Shim;
    part.name = "shim";
    part.facts.numbers["thickness_mm"] = thickness_m;
    return part;
}

// A build with a first revision and one in which the pushrod was swapped.
Project two_revisions() {
    Project p;
    p.engines[1].name = "engine";
    p.parts[1] = thin_pushrod();
    p.builds[1] = {"intake", 1, ValveSide::Intake, 0, 2, ""};
    p.revisions[1] = {1, 0, "", "as bought", "2026-01-01T00:00:00Z", {starter_train(), {}}};
    p.revisions[2] = {
        1, 1, "thin", "lighter", "2026-02-01T00:00:00Z", fitted(p.revisions[1].assembly, 1, p.parts[1])};
    return p;
}

std::vector<Check> names_of(const std::vector<OpenCheck>& open) {
    std::vector<Check> out;
    for (const OpenCheck& one : open)
        out.push_back(one.check);
    return out;
}

bool has(const std::vector<Check>& list, Check check) {
    return std::find(list.begin(), list.end(), check) != list.end();
}

} // namespace

class TestProject : public QObject {
    Q_OBJECT
  private slots:
    void every_kind_of_part_has_its_place_and_name() {
        QCOMPARE(part_kinds().size(), kPartKinds);
        for (const PartKindInfo& kind : part_kinds()) {
            QCOMPARE(info(kind.kind).key, kind.key);
            QVERIFY(find_part_kind(kind.key) == kind.kind);
            QVERIFY2(!checks_after(kind.kind).empty(), kind.key.data());
        }
        QVERIFY(!find_part_kind("gearbox"));
    }

    void a_part_taken_out_of_a_train_goes_back_into_another() {
        for (const Layout layout : {Layout::Pushrod, Layout::Rocker, Layout::Finger, Layout::Bucket}) {
            const Train from = with_layout(starter_train(), layout);
            for (const PartKindInfo& kind : part_kinds()) {
                const std::optional<Part> part = part_from(from, kind.kind);
                if (!part)
                    continue;
                QVERIFY2(check_part(*part).empty(), kind.key.data());
                Train to = from;
                to.valve.mass_kg *= 2;
                to.retainer_mass_kg *= 2;
                put_into(to, *part);
                const bool heavy = kind.kind != PartKind::Valve;
                QCOMPARE(to.valve.mass_kg == from.valve.mass_kg, !heavy);
            }
        }
        QVERIFY(!part_from(with_layout(starter_train(), Layout::Bucket), PartKind::Pushrod));
    }

    void fitting_changes_the_parts_numbers_and_its_tolerances_only() {
        Train train = starter_train();
        train.tolerances["valve.mass_g"] = {Source::Scale, 1e-4};
        train.tolerances["pushrod.mass_g"] = {Source::Scale, 1e-4};
        const Assembly before{train, {}};
        const Assembly after = fitted(before, 7, thin_pushrod());
        NEAR(after.train.pushrod->wall_m, 0.9e-3, 1e-12);
        QCOMPARE(after.find(PartKind::Pushrod)->part, Id(7));
        QVERIFY(after.train.tolerances.contains("pushrod.wall_mm"));
        QVERIFY(after.train.tolerances.contains("valve.mass_g"));
        QVERIFY(!after.train.tolerances.contains("pushrod.mass_g")); // was the old rod's
        QVERIFY(check_train(after.train).empty());
        QVERIFY(!departs_from(after, thin_pushrod()));
        Part heavier = thin_pushrod();
        heavier.piece.pushrod->mass_kg += 1e-3;
        QVERIFY(departs_from(after, heavier));
        QVERIFY_THROWS_EXCEPTION(
            InputError, fitted({with_layout(starter_train(), Layout::Bucket), {}}, 7, thin_pushrod()));
    }

    void shims_seats_and_retainers_move_the_installed_height() {
        const Assembly bare{starter_train(), {}};
        const double height = bare.train.installed_height_m;
        const Assembly half = fitted(bare, 1, shim(0.5e-3));
        NEAR(half.train.installed_height_m, height - 0.5e-3, 1e-12);
        const Assembly more = fitted(half, 2, shim(0.8e-3));
        NEAR(more.train.installed_height_m, height - 0.8e-3, 1e-12);
        NEAR(unfitted(more, PartKind::Shim).train.installed_height_m, height, 1e-12);
        // a retainer whose locks sit 0.4 mm deeper and whose step is 1 mm deeper: H + 0.4 - 1.0
        Part old = *part_from(bare.train, PartKind::Retainer), next = old;
        old.facts.numbers = {{"seat_depth_mm", 2.0e-3}, {"step_mm", 3.0e-3}};
        next.facts.numbers = {{"seat_depth_mm", 2.4e-3}, {"step_mm", 4.0e-3}};
        const Assembly with_old = fitted(bare, 3, old);
        NEAR(with_old.train.installed_height_m, height, 1e-12); // what was there before is not known
        NEAR(fitted(with_old, 4, next).train.installed_height_m, height - 0.6e-3, 1e-12);
    }

    void parts_with_impossible_numbers_are_named() {
        Part part = thin_pushrod();
        part.piece.pushrod->wall_m = -1e-3;
        part.facts.numbers["angle_deg"] = 0.1;
        part.facts.words["material"] = "cheese";
        part.name = "";
        const auto problems = check_part(part);
        QCOMPARE(problems.size(), std::size_t(4));
        QCOMPARE(problems[1].location, std::string("pushrod.wall_mm"));
    }

    void a_comparison_lists_exactly_what_differs_in_units() {
        const Project p = two_revisions();
        const auto changed = differences(p.revisions.at(1).assembly, p.revisions.at(2).assembly);
        QCOMPARE(changed.size(), std::size_t(2)); // the wall, and the part fitted
        QCOMPARE(changed[0].key, std::string("pushrod.wall_mm"));
        NEAR(*changed[0].after, 0.9e-3, 1e-12);
        QVERIFY(in_words(changed[0]).ends_with("→ 0.9 mm"));
        QVERIFY(in_words(changed[0], UnitSystem::Inch).ends_with(".0354 in"));
        QCOMPARE(changed[1].words_after, std::string("thin wall"));
        QVERIFY(differences(p.revisions.at(2).assembly, p.revisions.at(2).assembly).empty());
        // lists and kinds count, too
        Assembly other = p.revisions.at(1).assembly;
        other.train.springs.pop_back();
        other.train.lobe.shape = LobeTable{};
        const auto more = differences(p.revisions.at(1).assembly, other);
        QVERIFY(std::any_of(more.begin(), more.end(), [](const Difference& d) { return d.key == "lobe"; }));
        QVERIFY(std::any_of(more.begin(), more.end(),
                            [](const Difference& d) { return d.words_after == "none"; }));
    }

    void a_run_freezes_its_revision() {
        Project p = two_revisions();
        QVERIFY(!p.frozen(2));
        p.of(EntryKind::RigRun)[1].revision = 2;
        QVERIFY(p.frozen(2));
        QVERIFY(!p.frozen(1));
    }

    void revisions_form_a_tree() {
        Project p = two_revisions();
        p.revisions[3] = p.revisions[2];
        p.revisions[3].parent = 1;
        p.revisions[3].name = "";
        QCOMPARE(p.children(1), (std::vector<Id>{2, 3}));
        QCOMPARE(p.line_to(3), (std::vector<Id>{1, 3}));
        QCOMPARE(p.revision_label(2), std::string("r2 thin"));
        QCOMPARE(p.revision_label(3), std::string("r3"));
        QCOMPARE(p.users_of(1), (std::vector<Id>{1}));
        QVERIFY(p.users_of(9).empty());
    }

    void broken_references_are_named() {
        Project p = two_revisions();
        QVERIFY(check_project(p).empty());
        p.parts.clear();
        p.builds[1].engine = 4;
        p.revisions[2].parent = 5;
        p.of(EntryKind::RigRun)[1].revision = 77;
        const auto problems = check_project(p);
        QCOMPARE(problems.size(), std::size_t(5)); // engine, parent (twice: gone and younger), part, run
        QCOMPARE(problems.front().sentence(),
                 std::string("build 1: engine 4 is not there; restore that record, "
                             "or take this one out"));
    }

    void a_swapped_pushrod_asks_for_ratio_mark_clearance_and_lash() {
        const Project p = two_revisions();
        QVERIFY(open_checks(p, 1).empty());
        const auto open = open_checks(p, 2);
        QCOMPARE(names_of(open), (std::vector<Check>{Check::Ratio, Check::WitnessMark,
                                                     Check::PushrodClearance, Check::Lash, Check::Mass}));
        QCOMPARE(open.front().since, Id(2));
        QCOMPARE(open.front().cause, std::string("lighter"));
    }

    void a_lock_change_asks_for_height_load_bind_and_seal() {
        Assembly after{starter_train(), {}};
        after.train.locks_mass_kg += 1e-3;
        const auto asked = checks_after(differences({starter_train(), {}}, after));
        for (const Check check :
             {Check::InstalledHeight, Check::SeatLoad, Check::BindMargin, Check::RetainerToSeal})
            QVERIFY(has(asked, check));
        QVERIFY(!has(asked, Check::Ratio));
        // the model's own numbers ask for nothing on the bench
        after = {starter_train(), {}};
        after.train.friction.viscous_N_s_per_m += 1;
        QVERIFY(checks_after(differences({starter_train(), {}}, after)).empty());
    }

    void sheets_and_waivers_close_what_was_open_until_the_next_change() {
        Project p = two_revisions();
        p.of(EntryKind::Sheet)[1] = {"sheet", 2, "", "", "", {}, {"ratio", "witness_mark"}, {}};
        p.of(EntryKind::Waiver)[1] = {"waiver", 2, "", "", "same length", {}, {"pushrod_clearance"}, {}};
        QCOMPARE(names_of(open_checks(p, 2)), (std::vector<Check>{Check::Lash, Check::Mass}));
        p.revisions[3] = {1, 2, "", "back to thick", "", p.revisions[1].assembly};
        QVERIFY(has(names_of(open_checks(p, 3)), Check::Ratio));
        // a sheet of another branch closes nothing here
        p.revisions[4] = {1, 1, "", "thin again", "", p.revisions[2].assembly};
        QVERIFY(has(names_of(open_checks(p, 4)), Check::Ratio));
    }

    void what_is_remembered_of_open_checks_is_what_a_fresh_look_finds() {
        Project p = two_revisions();
        AskedChecks asked;
        std::mt19937 random(14);
        const auto dice = [&](int n) { return static_cast<Id>(random() % static_cast<unsigned>(n)); };
        for (int i = 0; i < 400; ++i) {
            const Id last = p.revisions.rbegin()->first, one = 1 + dice(static_cast<int>(last));
            Train& train = p.revisions[one].assembly.train;
            switch (dice(6)) {
            case 0:
                p.revisions[last + 1] = {1, one, "", "next", "", p.revisions[one].assembly};
                break;
            case 1:
                train.lash_m += 1e-5;
                asked.forget(one);
                break;
            case 2:
                train.pushrod->mass_kg += 1e-4;
                asked.forget(one);
                break;
            case 3:
                if (last > 2) {
                    p.revisions.erase(last);
                    asked.forget(last);
                }
                break;
            case 4:
                p.of(EntryKind::Sheet)[i] = {"sheet", one, "", "", "", {}, {"lash", "ratio"}, {}};
                break;
            default:
                p.of(EntryKind::Waiver).erase(dice(i + 1));
                p.of(EntryKind::Waiver)[i] = {"waiver", one, "", "", "", {}, {"mass"}, {}};
            }
            for (const Id shown : {p.revisions.rbegin()->first, one}) {
                const auto known = asked.open_to(p, shown), fresh = open_checks(p, shown);
                QCOMPARE(names_of(known), names_of(fresh));
                for (std::size_t k = 0; k < known.size(); ++k)
                    QCOMPARE(known[k].since, fresh[k].since);
            }
        }
        QVERIFY(asked.open_to(p, 10000).empty());
    }
};

QTEST_APPLESS_MAIN(TestProject)
#include "tst_project.moc"
