// What a stiffer link gains: the compliance by part, and limits that are those of the trains changed so.
#include "core/problem/input_error.h"
#include "core/train/train_figures.h"
#include "core/whatif/stiffness_gain.h"
#include "support.h"

#include <algorithm>
#include <mutex>

using namespace bathmos;
using namespace bathmos::test;

namespace {

TrainFigures figures(const Train& t) {
    return figures_of(t, RigidMotion(t, curve_of(t.lobe)));
}
double compliance_of(const Train& t, const std::string& part) {
    for (const Share& share : figures(t).compliance_m_per_N)
        if (share.part == part)
            return share.value;
    return 0;
}
const StiffnessGain& link_of(const StiffnessBudget& budget, const std::string& part) {
    return *std::find_if(budget.links.begin(), budget.links.end(),
                         [&](const StiffnessGain& link) { return link.part == part; });
}

} // namespace

class TestStiffnessGain : public QObject {
    Q_OBJECT
  private slots:
    void a_link_gives_less_by_its_factor_and_weighs_what_it_takes() {
        const Train t = starter_train();
        for (const std::string part : {"cam", "pushrod", "rocker"}) {
            const Train light = with_stiffer(t, part, 1.25, false), heavy = with_stiffer(t, part, 1.25, true);
            NEAR(compliance_of(light, part), compliance_of(t, part) / 1.25, 1e-6 * compliance_of(t, part));
            NEAR(compliance_of(heavy, part), compliance_of(light, part), 1e-15);
            NEAR(figures(light).equivalent_mass_total_kg, figures(t).equivalent_mass_total_kg, 1e-12);
        }
        NEAR(with_stiffer(t, "pushrod", 1.25, true).pushrod->mass_kg, 1.25 * t.pushrod->mass_kg, 1e-12);
        NEAR(with_stiffer(t, "rocker", 1.25, true).rocker->inertia_kg_m2, 1.25 * t.rocker->inertia_kg_m2,
             1e-15);
        const Train bucket = with_layout(starter_train(), Layout::Bucket);
        NEAR(with_stiffer(bucket, "tip", 8, true).lifter->mass_kg, 2 * bucket.lifter->mass_kg, 1e-12);
        const auto refused = problem_of([&] { with_stiffer(bucket, "pushrod", 1.1, false); });
        QCOMPARE(refused.location, std::string("pushrod"));
        CONTAINS(refused.what, "no link");
    }

    void gains_are_the_limits_of_trains_changed_so() {
        Train t = starter_train();
        t.pushrod->stiffness_N_per_m = 0.5 * link_stiffness_N_per_m(*t.pushrod); // rods that bend
        LimitQuestion question;
        question.range = {4000, 10000, 250};
        std::vector<double> told;
        std::mutex mutex;
        const StiffnessBudget budget = stiffness_budget(t, question, [&](double share) {
            const std::scoped_lock lock(mutex);
            told.push_back(share);
        });
        QVERIFY(budget.limit_rpm.has_value());
        QCOMPARE(budget.mend_first, std::string("pushrod"));
        QCOMPARE(budget.links.front().part, std::string("pushrod"));
        double shares = 0;
        for (const StiffnessGain& link : budget.links)
            shares += link.share;
        NEAR(shares, 1, 1e-12);
        NEAR(told.back(), 1, 1e-12);
        const StiffnessGain& rod = link_of(budget, "pushrod");
        const auto stiffer = limit_within(with_stiffer(t, "pushrod", 1.1, false), question, budget.limit_rpm);
        NEAR(*rod.same_mass_rpm, *stiffer - *budget.limit_rpm, 1e-6);
        QVERIFY(*rod.same_mass_rpm > 20);                 // the softest link is worth something,
        QVERIFY(*rod.true_mass_rpm < *rod.same_mass_rpm); // less where it weighs more,
        const StiffnessGain& rocker = link_of(budget, "rocker");
        QVERIFY(*rod.same_mass_rpm > *rocker.same_mass_rpm); // and more than a stiffer one
        QVERIFY(rod.added_kg > 0 && !link_of(budget, "cam").true_mass_rpm);
        NEAR(link_of(budget, "cam").added_kg, 0, 1e-12);
    }

    void no_limit_in_the_range_is_said_and_a_stop_is_heard() {
        LimitQuestion question;
        question.range = {2000, 3000, 250};
        const StiffnessBudget budget = stiffness_budget(starter_train(), question);
        QVERIFY(!budget.limit_rpm);
        for (const StiffnessGain& link : budget.links)
            NEAR(*link.same_mass_rpm, 0, 1e-9);
        std::stop_source source;
        source.request_stop();
        question.stop = source.get_token();
        QVERIFY_THROWS_EXCEPTION(Stopped, stiffness_budget(starter_train(), question));
    }
};

QTEST_GUILESS_MAIN(TestStiffnessGain)
#include "tst_stiffness_gain.moc"
