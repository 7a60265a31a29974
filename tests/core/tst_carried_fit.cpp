// What a fit found out holds for trains that have the same parts, and for no others.
#include "core/calibration/carried_fit.h"
#include "core/uncertainty/uncertain_inputs.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

// A rod that is softer, a lighter valve and a tired spring, as a run would tell it.
CarriedFit found() {
    CarriedFit out{"fitted to run 1", starter_train(), starter_train()};
    Train& t = out.fitted;
    t.pushrod->end_stiffness_N_per_m *= 0.7;
    t.valve.mass_kg *= 0.98;
    t.lash_m += 0.02e-3;
    set_value(t, "springs[0].shear_modulus_GPa", 0.97 * *value_of(t, "springs[0].shear_modulus_GPa"));
    t.camshaft.emplace();
    t.valve.elastic.emplace().stiffness_N_per_m = 50e6;
    for (const char* key : {"pushrod.end_stiffness_N_per_mm", "valve.mass_g", "lash_mm",
                            "springs[0].shear_modulus_GPa", "contacts.cam.stiffness_N_per_mm"})
        t.tolerances[key] = {Source::Fitted, 0.01 * *value_of(t, key)};
    return out;
}

} // namespace

class TstCarriedFit : public QObject {
    Q_OBJECT

  private slots:
    void the_train_that_was_believed_becomes_the_fitted_one() {
        const CarriedFit fit = found();
        QVERIFY(with_fit(fit.believed, fit) == fit.fitted);
        QCOMPARE(carried_numbers(fit.believed, fit).size(), std::size_t(5));
        QVERIFY(with_fit(fit.fitted, fit) == fit.fitted); // there already
    }
    void another_spring_keeps_its_own_numbers_and_the_rest_is_carried() {
        const CarriedFit fit = found();
        Train other = fit.believed;
        set_value(other, "springs[0].wire_mm", 1.02 * *value_of(other, "springs[0].wire_mm"));
        const Train out = with_fit(other, fit);
        // Its modulus is as believed for the other one, too: it is no part of it for that.
        QVERIFY(out.springs == other.springs && !out.tolerances.contains("springs[0].shear_modulus_GPa"));
        QVERIFY(out.pushrod == fit.fitted.pushrod && out.valve == fit.fitted.valve);
        QVERIFY(out.camshaft == fit.fitted.camshaft);
        QCOMPARE(out.lash_m, other.lash_m); // set anew with every part
        QVERIFY(out.tolerances.at("contacts.cam.stiffness_N_per_mm") ==
                fit.fitted.tolerances.at("contacts.cam.stiffness_N_per_mm"));
    }
    void a_heavier_valve_is_another_valve() {
        const CarriedFit fit = found();
        Train other = fit.believed;
        other.valve.mass_kg *= 1.1;
        const Train out = with_fit(other, fit);
        QCOMPARE(out.valve.mass_kg, other.valve.mass_kg);
        QVERIFY(!out.tolerances.contains("valve.mass_g"));
        QVERIFY(out.valve.elastic == ElasticValve{}); // the model's option, with its usual number
        QVERIFY(out.springs == fit.fitted.springs);
        QVERIFY(!shares_number(other, fit.believed, "contacts.seat.damping_s_per_m"));
        QVERIFY(shares_number(other, fit.believed, "contacts.cam.stiffness_N_per_mm"));
    }
    // The fitted train may have been built on: other parts, other numbers, none of which a run has said.
    void what_else_was_changed_is_no_part_of_the_fit() {
        CarriedFit fit = found();
        fit.fitted.retainer_mass_kg *= 0.7;
        fit.fitted.valve.head_diameter_m *= 1.1;
        set_value(fit.fitted, "springs[0].wire_mm", 1.1 * *value_of(fit.fitted, "springs[0].wire_mm"));
        const Train out = with_fit(fit.believed, fit);
        QCOMPARE(out.retainer_mass_kg, fit.believed.retainer_mass_kg);
        QCOMPARE(out.valve.head_diameter_m, fit.believed.valve.head_diameter_m);
        QVERIFY(value_of(out, "springs[0].wire_mm") == value_of(fit.believed, "springs[0].wire_mm"));
        QVERIFY(value_of(out, "springs[0].shear_modulus_GPa") ==
                value_of(fit.fitted, "springs[0].shear_modulus_GPa"));
        // And what was fitted before it was taken on is known already.
        const CarriedFit later{"", found().fitted, fit.fitted};
        QVERIFY(found_numbers(later).empty() && with_fit(later.believed, later) == later.believed);
    }
    void a_load_table_takes_the_loads_that_were_fitted() {
        CarriedFit fit = found();
        LoadTable table;
        table.height_m = {0.048, 0.040, 0.032};
        table.load_N = {200, 400, 650};
        table.solid_height_m = 0.028;
        table.moving_mass_kg = 0.05;
        table.dead_mass_kg = 0;
        for (Train* train : {&fit.believed, &fit.fitted})
            train->springs = {{"table", table}};
        for (double& load_N : std::get<LoadTable>(fit.fitted.springs[0].kind).load_N)
            load_N *= 0.95;
        fit.fitted.tolerances["springs[0].load_table"] = {Source::Fitted, 0.02};
        fit.fitted.tolerances.erase("springs[0].shear_modulus_GPa");
        const Train out = with_fit(fit.believed, fit);
        NEAR(std::get<LoadTable>(out.springs[0].kind).load_N[1], 380, 1e-9);
    }
    void a_number_of_the_shop_s_own_is_not_carried() {
        CarriedFit fit = found();
        fit.fitted.tolerances["rocker.stiffness_N_per_mm"] = {Source::Tester, 1e5};
        fit.fitted.rocker->stiffness_N_per_m *= 2;
        QVERIFY(with_fit(fit.believed, fit).rocker == fit.believed.rocker);
    }
    void what_would_make_no_train_is_left_as_it_is() {
        CarriedFit fit = found();
        fit.fitted.valve.mass_kg = -1;
        QVERIFY(with_fit(fit.believed, fit) == fit.believed);
    }
};

QTEST_APPLESS_MAIN(TstCarriedFit)
#include "tst_carried_fit.moc"
