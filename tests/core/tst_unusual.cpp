#include "core/motion/sweep.h"
#include "core/rig/rig_run.h"
#include "core/train/train_check.h"
#include "core/train/train_fields.h"
#include "core/train/unusual.h"
#include "core/uncertainty/limit_uncertainty.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

// Numbers that are asked back, numbers that cannot be, and trains that open no valve.
class TestUnusual : public QObject {
    Q_OBJECT
    static Sweep swept(const Train& train) { return sweep(train, {3000, 5000, 1000}, {}); }

  private slots:
    void a_usual_train_is_asked_nothing() {
        QVERIFY(unusual_numbers(starter_train()).empty());
        QVERIFY(cautions_of(starter_train()).empty());
    }

    void every_range_belongs_to_a_number_of_a_train() {
        for (const UsualRange& usual : usual_ranges()) {
            const bool train = find_train_field(usual.key) != nullptr;
            const bool spring = std::any_of(spring_fields().begin(), spring_fields().end(),
                                            [&](const SpringField& field) { return field.key == usual.key; });
            QVERIFY2(train || spring, std::string(usual.key).c_str());
            QVERIFY(usual.low < usual.high);
            QVERIFY(!usual.why.empty());
        }
    }

    void kilograms_typed_for_grams_are_asked_back() {
        Train train = starter_train();
        train.valve.mass_kg *= 1e-3;
        const std::vector<Finding> asked = unusual_numbers(train);
        QCOMPARE(asked.size(), std::size_t(1));
        QCOMPARE(asked[0].part, std::string("valve.mass_g"));
        QVERIFY(asked[0].severity == Severity::Warn);
        CONTAINS(in_words(asked[0]), "is its unit right?");
        CONTAINS(in_words(asked[0]), "0.0");
        QCOMPARE(cautions_of(train).size(), std::size_t(1));
    }

    void springs_and_lobes_are_asked_back_too() {
        Train train = starter_train();
        std::get<CoilGeometry>(train.springs.at(0).kind).shear_modulus_Pa = 79.3e6;
        QCOMPARE(unusual_numbers(train).at(0).part, std::string("springs[0].shear_modulus_GPa"));
        QVERIFY(unusual_lobe_lift(0.874).has_value());
        QVERIFY(unusual_lobe_lift(0.1e-3).has_value());
        QVERIFY(!unusual_lobe_lift(8.7e-3).has_value());
    }

    void a_spring_longer_fitted_than_free_is_refused() {
        Train train = starter_train();
        const double free_m = std::get<CoilGeometry>(train.springs.at(0).kind).free_length_m;
        train.installed_height_m = free_m + 1e-3;
        const auto problems = check_train(train);
        QVERIFY(!problems.empty());
        QCOMPARE(problems.front().location, std::string("installed_height_mm"));
        CONTAINS(problems.front().what, "is not below the free length");
        train.installed_height_m = free_m - 1e-3;
        for (const InputProblem& problem : check_train(train))
            QVERIFY2(!contains(problem.what, "free length"), problem.what.c_str());
    }

    void loads_below_zero_are_refused() {
        Train train = starter_train();
        LoadTable table;
        table.height_m = {50e-3, 40e-3, 30e-3, 25e-3};
        table.load_N = {-10, 200, 500, 700};
        table.moving_mass_kg = 0.06;
        table.solid_height_m = 22e-3;
        train.springs = {{}};
        train.springs[0].kind = table;
        CONTAINS(check_train(train).at(0).what, "holds -10 N");
        table.load_N[0] = 0;
        train.springs[0].kind = table;
        QVERIFY(check_train(train).empty());
        train.installed_height_m = 55e-3; // beyond the height without load
        CONTAINS(check_train(train).at(0).what, "without load");
    }

    void coils_solid_before_full_lift_mark_what_is_computed() {
        Train train = starter_train();
        double solid_m = 0;
        for (const Spring& spring : train.springs)
            solid_m = std::max(solid_m, SpringStatics(spring).solid_height_m());
        train.installed_height_m = solid_m + 5e-3;
        const std::vector<Finding> cautions = cautions_of(train);
        QVERIFY(!cautions.empty());
        QCOMPARE(cautions.front().rule, std::string("coil_bind"));
        QVERIFY(cautions.front().severity == Severity::Stop);
    }

    void a_train_that_opens_no_valve_has_no_limit_but_a_message_data() {
        QTest::addColumn<int>("which");
        QTest::newRow("input arm of a nanometre") << 0;
        QTest::newRow("cam stiffness of nothing") << 1;
    }
    void a_train_that_opens_no_valve_has_no_limit_but_a_message() {
        QFETCH(int, which);
        Train train = starter_train();
        if (which == 0)
            train.rocker->input_arm_m = 1e-9;
        else
            train.contacts.cam_stiffness_N_per_m = 1e-3;
        const InputProblem problem = problem_of([&] { swept(train); });
        CONTAINS(problem.what, "does not open");
        CONTAINS(problem.mend, which == 0 ? "pushrod" : "cam");
        QVERIFY(!unusual_numbers(train).empty());
        UncertaintyQuery query;
        query.range = {3000, 5000, 1000};
        query.trains = 10;
        CONTAINS(problem_of([&] { uncertainty_of(train, query); }).what, "does not open");
        RigTrace trace{"run", "", {}, {}, {{3000, 0, 720, true}, {3000, 720, 720, true}}};
        for (int i = 0; i < 1440; ++i) {
            trace.crank_deg.push_back(static_cast<float>(i % 720));
            trace.lift_mm.push_back(
                static_cast<float>(std::max(0.0, 10 - 0.001 * std::pow(i % 720 - 360, 2))));
        }
        CONTAINS(problem_of([&] { reduce(trace, train); }).what, "does not open");
        QVERIFY(reduce(trace, starter_train()).steps.size() == 1);
    }
};

QTEST_GUILESS_MAIN(TestUnusual)
#include "tst_unusual.moc"
