// Limits by name, and what a set must hold.
#include "core/project/limit_sets.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

class TstLimitSets : public QObject {
    Q_OBJECT

  private slots:
    void the_usual_set_is_the_table_of_the_physics() {
        const LimitsInForce limits = in_force(named_limits().front().set);
        QCOMPARE(limits.list.size(), usual_limits().size());
        NEAR(limits.find(Metric::DurationChange)->above, 4, 0);
        NEAR(*limits.find(Metric::DurationChange)->below, -10, 0);
        QVERIFY(limits.find(Metric::DurationChange)->from_low_speed);
        NEAR(limits.check_lift_m, 1.27e-3, 1e-12);
    }
    void named_sets_differ_in_what_their_name_says() {
        const LimitsInForce loft = in_force(find_named_limits("lofts on purpose")->set);
        QVERIFY(!loft.find("contact_loss") && loft.find("loft")->above > 0.25);
        NEAR(in_force(find_named_limits("no bounce that can be seen")->set).find("bounce")->above, 0.05,
             1e-12);
        QVERIFY(!find_named_limits("as one likes"));
    }
    void the_newest_choice_of_a_project_is_in_force() {
        Project project;
        QCOMPARE(limit_set_of(project).name, std::string("usual"));
        project.limits[1] = find_named_limits("lofts on purpose")->set;
        project.limits[4] = find_named_limits("usual")->set;
        QCOMPARE(limit_set_of(project).name, std::string("usual"));
    }
    void sets_that_cannot_be_judged_by_are_refused_with_the_metric() {
        LimitSet set{"mine", {{"loft", 0.3, {}}}};
        QCOMPARE(in_force(set).list.size(), std::size_t{1});
        set.rows.push_back({"lofts", 1, {}});
        QCOMPARE(problem_of([&] { in_force(set); }).location, std::string("lofts"));
        set.rows.back() = {"bounce", 0, {}};
        CONTAINS(problem_of([&] { in_force(set); }).mend, "above 0");
        set.rows.back() = {"duration_change", 1, 2};
        CONTAINS(problem_of([&] { in_force(set); }).mend, "lower one below");
        set.rows.back() = {"loft", 0.3, {}};
        CONTAINS(problem_of([&] { in_force(set); }).what, "twice");
        set.rows.clear();
        CONTAINS(problem_of([&] { in_force(set); }).what, "no limit");
        set = {"mine", {{"loft", 0.3, {}}}, 0};
        QCOMPARE(problem_of([&] { in_force(set); }).location, std::string("check_lift_mm"));
    }
    void contact_loss_is_found_apart_from_the_limit() {
        LimitSpeed limit;
        limit.crossings = {{usual_limits()[1], 6900.0}, {usual_limits()[2], 7400.0}};
        NEAR(*contact_loss_rpm(limit), 7400, 0);
        limit.crossings.pop_back();
        QVERIFY(!contact_loss_rpm(limit));
    }
};

QTEST_APPLESS_MAIN(TstLimitSets)
#include "tst_limit_sets.moc"
