// Several states of the dyno beside each other: what is missing past a break, where curves cross, with which
// state a break comes and goes, and what later states say of causes.
#include "core/dyno/state_series.h"
#include "core/made_pull.h"
#include "core/verdict_support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

// One state: its pulls, analysed.
struct State {
    std::vector<PullAnalysis> pulls;
    std::vector<const PullAnalysis*> all() const {
        std::vector<const PullAnalysis*> out;
        for (const PullAnalysis& one : pulls)
            out.push_back(&one);
        return out;
    }
};

State state(const Shape& shape, const std::vector<Fall>& falls, unsigned seed, double last_rpm = 8600) {
    State out;
    for (unsigned i = 0; i < 2; ++i)
        out.pulls.push_back(analyse(make_pull(shape, falls, 0.003, 230, seed + i, 4000, last_rpm)));
    return out;
}

StateBreak breaks_at(double rpm) {
    StateBreak out;
    out.speed_rpm = rpm;
    return out;
}

LaterState later(std::set<TrainGroup> groups, std::optional<double> break_rpm, double runs_to_rpm = 8600) {
    LaterState out;
    out.label = "r4";
    out.groups = std::move(groups);
    if (break_rpm)
        out.run.first_break = breaks_at(*break_rpm);
    out.run.runs_to_rpm = runs_to_rpm;
    return out;
}

} // namespace

class TstStates : public QObject {
    Q_OBJECT

  private slots:
    void what_is_missing_is_counted_from_the_trend_continued() {
        Shape smooth;
        smooth.wave = 0;
        const State lost = state(smooth, {{7200, 200, 0.08}}, 11);
        const StateCurve curve = state_curve(lost.all());
        const auto missing = missing_power(curve, breaks_at(7200));
        QVERIFY(missing);
        NEAR(missing->at_rpm, 8000, 1);
        NEAR(missing->share, 0.08, 0.012);
        NEAR(missing->power_W, 0.08 * smooth.power(8000), 0.012 * smooth.power(8000));
        NEAR(missing_power(state_curve(state(smooth, {}, 13).all()), breaks_at(7200))->share, 0, 0.012);
        QVERIFY(!missing_power(curve, std::nullopt));
        QVERIFY(!missing_power(curve, breaks_at(4300))); // too little below it to continue
        QVERIFY(!missing_power(curve, breaks_at(8600)));
    }

    // Torque that peaks later gives away the bottom and gains the top: once, where both are equal.
    void curves_cross_where_their_closed_forms_do() {
        Shape early, late;
        late.peak_rpm = 6400;
        late.torque_Nm = early.torque_Nm;
        const StateCurve a = state_curve(state(early, {}, 3).all()),
                         b = state_curve(state(late, {}, 5).all());
        const auto at = crossings(difference(a, b), a);
        QCOMPARE(at.size(), std::size_t(1));
        NEAR(at.front(), 6000, 120); // halfway between the two peaks
        QVERIFY(crossings(difference(a, a), a).empty());
        // scatter about nothing crosses nothing
        const StateCurve same = state_curve(state(early, {}, 7).all());
        QVERIFY(crossings(difference(a, same), a).empty());
        const StateDifference d = difference(a, b);
        QCOMPARE(d.thirds.size(), std::size_t(3));
        QVERIFY(d.thirds[0].gain_W < 0 && d.thirds[2].gain_W > 0);
        NEAR(d.thirds[0].gain_W + d.thirds[1].gain_W + d.thirds[2].gain_W, 3 * d.all.gain_W,
             0.02 * std::abs(d.thirds[2].gain_W));
    }

    void a_break_appears_with_one_state_and_goes_with_another() {
        const std::vector<Fall> broken = {{7300, 150, 0.08}};
        const State s1 = state({}, {}, 21), s2 = state({}, broken, 23), s3 = state({}, broken, 25),
                    s4 = state({}, {}, 27);
        std::vector<SeriesState> series;
        for (const State* one : {&s1, &s2, &s3, &s4})
            series.push_back(series_state(one->all()));
        auto told = break_stories(series);
        QCOMPARE(told.size(), std::size_t(1));
        NEAR(told[0].speed_rpm, 7300, 120);
        QCOMPARE(told[0].without, std::optional<std::size_t>(0));
        QVERIFY(told[0].appears == 1 && told[0].last == 2);
        QCOMPARE(told[0].goes, std::optional<std::size_t>(3));
        // a state that was not run far enough tells nothing
        series[0] = series_state(state({}, {}, 29, 7400).all());
        series[3] = series_state(state({}, {}, 31, 7450).all());
        told = break_stories(series);
        QVERIFY(!told[0].without && !told[0].goes);
    }

    void a_break_that_moves_down_is_another_and_one_that_moves_up_goes() {
        const auto broken = [](double rpm) { return SeriesState{breaks_at(rpm), 8600}; };
        const auto down = break_stories({broken(7800), broken(7000)});
        QCOMPARE(down.size(), std::size_t(2));
        QVERIFY(!down[0].goes && !down[0].without);
        QCOMPARE(down[1].without, std::optional<std::size_t>(0));
        const auto up = break_stories({broken(7000), broken(7800)});
        QCOMPARE(up.size(), std::size_t(2));
        QCOMPARE(up[0].goes, std::optional<std::size_t>(1));
        QVERIFY(break_stories({}).empty());
    }

    void a_break_that_goes_with_a_part_blames_what_that_part_cures() {
        const auto said = said_by(later({TrainGroup::Link}, std::nullopt), 7300);
        QVERIFY(said && said->symptom == Symptom::MovesWithTrain && said->seen > 0.9);
        CONTAINS(said->text.in_words(), "goes with r4");
        const Weighing before = weigh({}), after = weigh({*said});
        QVERIFY(after.of(Cause::TrainFlexible) > 2 * before.of(Cause::TrainFlexible));
        QVERIFY(after.of(Cause::Mixture) < before.of(Cause::Mixture) / 2);
        QVERIFY(after.causes.front().cause == Cause::TrainFlexible);
        // one that stays speaks against it, less surely: the change may have been small
        const auto stays = said_by(later({TrainGroup::Link}, 7340), 7300);
        QVERIFY(stays && stays->seen < 0.1 && stays->relevance < 1);
        QVERIFY(weigh({*stays}).of(Cause::TrainFlexible) < before.of(Cause::TrainFlexible));
    }

    void a_break_that_goes_with_what_is_beside_the_train_clears_it() {
        LaterState other = later({}, std::nullopt);
        other.around = true;
        const auto said = said_by(other, 7300);
        QVERIFY(said && said->symptom == Symptom::StaysWithBoost && said->seen < 0.1);
        QVERIFY(weigh({*said}).valve_train < weigh({}).valve_train);
        other.groups = {TrainGroup::Spring}; // two changes at once tell nothing
        QVERIFY(!said_by(other, 7300));
        QVERIFY(!said_by(later({TrainGroup::Spring}, std::nullopt, 7400), 7300)); // not run far enough
        QVERIFY(!said_by(later({TrainGroup::Spring}, 7500), 7300)); // neither where it was nor gone
    }

    void what_was_only_fitted_to_a_run_is_no_change() {
        const Assembly here = starter();
        Assembly next = here;
        next.train.installed_height_m += 0.4e-3;
        next.train.name = "calibrated";
        next.train.camshaft = CamshaftTorsion{};
        next.train.tolerances["installed_height_mm"] = {Source::Fitted, 0.1e-3};
        QVERIFY(later_state(here, next).groups.empty() && !later_state(here, next).around);
        next.train.tolerances.clear();
        QVERIFY(later_state(here, next).groups == std::set<TrainGroup>{TrainGroup::Spring});
        next.train.rocker->stiffness_N_per_m *= 1.2;
        next.train.back_pressure_Pa += 40e3;
        const LaterState both = later_state(here, next);
        QVERIFY(both.groups == (std::set<TrainGroup>{TrainGroup::Spring, TrainGroup::Link}) && both.around);
        QVERIFY(!both.changed.empty());
    }
};

QTEST_GUILESS_MAIN(TstStates)
#include "tst_states.moc"
