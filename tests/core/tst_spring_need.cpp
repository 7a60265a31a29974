// What spring does this need: springs of another load and rate as the tester would read them, and the grid of
// limits with what is chosen from it.
#include "core/motion/limit_gain.h"
#include "core/problem/input_error.h"
#include "core/train/train_figures.h"
#include "core/whatif/spring_need.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

// Few and fast speeds: the grid runs each of its trains over them.
SpringNeedQuery few(double target_rpm) {
    SpringNeedQuery out;
    out.target_rpm = target_rpm;
    out.range = {5000, 9500, 500};
    out.steps = 3;
    return out;
}

} // namespace

class TstSpringNeed : public QObject {
    Q_OBJECT

  private slots:
    void a_spring_of_another_load_and_rate_has_just_these() {
        for (int kind = 0; kind < 3; ++kind) {
            Train t = starter_train();
            if (kind == 1)
                t.springs = {starter_table_spring(t.installed_height_m)};
            if (kind == 2) {
                auto& coil = std::get<CoilGeometry>(t.springs[0].kind);
                coil.pitch_m = usual_pitches(coil);
            }
            const SpringPoint now = spring_point(t);
            const double mass = SpringStatics(t.springs[0]).active_mass_kg(),
                         solid = SpringStatics(t.springs[0]).solid_height_m();
            for (const double seat : {0.7, 1.0, 1.4})
                for (const double rate : {0.8, 1.0, 1.3}) {
                    const Train changed = with_spring(t, {seat * now.seat_N, rate * now.rate_N_per_m});
                    const SpringPoint read = spring_point(changed);
                    NEAR(read.seat_N / now.seat_N, seat, 1e-6);
                    NEAR(read.rate_N_per_m / now.rate_N_per_m, rate,
                         kind == 2 ? 0.05 : 1e-6); // uneven coils close
                    NEAR(SpringStatics(changed.springs[0]).active_mass_kg(), mass, 1e-12);
                    NEAR(SpringStatics(changed.springs[0]).solid_height_m(), solid, 1e-12);
                }
        }
        Train t = starter_train();
        QVERIFY(contains(problem_of([&] { with_spring(t, {-1, 3e4}); }).what, "not above 0"));
    }

    void nested_springs_keep_their_shares() {
        Train t = starter_train();
        t.springs.push_back(t.springs[0]);
        auto& inner = std::get<CoilGeometry>(t.springs[1].kind);
        inner.shear_modulus_Pa *= 0.5;
        const SpringPoint now = spring_point(t);
        const Train changed = with_spring(t, {1.2 * now.seat_N, 1.1 * now.rate_N_per_m});
        for (std::size_t i : {0u, 1u})
            NEAR(SpringStatics(changed.springs[i]).load_N(t.installed_height_m),
                 1.2 * SpringStatics(t.springs[i]).load_N(t.installed_height_m), 1e-6);
    }

    void the_grid_holds_the_limits_and_what_is_chosen_keeps_its_bounds() {
        const Train t = starter_train();
        SpringNeedQuery query = few(7000);
        double last = -1;
        const SpringNeed need = spring_need(t, query, [&](double share) {
            QVERIFY(share > last);
            last = share;
        });
        QCOMPARE(last, 1.0);
        QCOMPARE(need.tried.size(), std::size_t(9));
        for (std::size_t k = 0; k < need.tried.size(); ++k) {
            const TriedSpring& one = need.tried[k];
            NEAR(one.spring.seat_N, need.seat_N[k / 3], 1e-9);
            NEAR(one.spring.rate_N_per_m, need.rate_N_per_m[k % 3], 1e-9);
            const Train changed = with_spring(t, one.spring);
            NEAR(one.open_N, figures_of(changed, RigidMotion(changed, curve_of(changed.lobe))).open_load_N,
                 1e-6);
        }
        // One of them, asked by itself.
        const auto alone =
            limit_within(with_spring(t, need.tried[4].spring), {query.range, query.limits, {}}, {});
        NEAR(need.tried[4].limit_rpm, *alone, 25);
        // The strongest of both against the weakest of both.
        QVERIFY(need.tried[8].limit_rpm > need.tried[0].limit_rpm);
        QVERIFY(need.least_load.has_value());
        for (const TriedSpring& one : need.tried)
            if (one.limit_rpm >= 7000)
                QVERIFY(need.least_load->open_N <= one.open_N);
        QVERIFY(need.most_margin->limit_rpm >= need.least_load->limit_rpm);
        // A bound on the open load leaves out what is over it, also from the most margin.
        query.most_open_N = need.most_margin->open_N - 1;
        const SpringNeed bounded = spring_need(t, query);
        QVERIFY(bounded.most_margin->open_N <= query.most_open_N);
        // What the tolerances take is kept on top.
        query.most_open_N = 0;
        query.tolerance_rpm = need.most_margin->limit_rpm - 7000 + 1;
        if (query.target_rpm + query.tolerance_rpm <= query.range.last_rpm)
            QVERIFY(!spring_need(t, query).least_load);
    }

    void what_cannot_be_asked_is_refused_and_a_stop_is_heeded() {
        const Train t = starter_train();
        QVERIFY(contains(problem_of([&] { spring_need(t, few(12000)); }).what, "not within the speeds"));
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_THROWS_EXCEPTION(Stopped, spring_need(t, few(7000), {}, stop.get_token()));
    }
};

QTEST_APPLESS_MAIN(TstSpringNeed)
#include "tst_spring_need.moc"
