// Calibration and verdict on engines drawn from richer stand-ins, a trouble each, half a minute an engine:
// too long for every run of the tests. ./dev engines COUNT SEED prints what docs/calibration.md has of it.
#include "core/calibration/calibrated_limit.h"
#include "core/verdict/run_shares.h"
#include "standin/rich_engines.h"
#include "support.h"

#include <algorithm>
#include <chrono>
#include <cmath>

using namespace bathmos;
using namespace bathmos::test;

namespace {

unsigned from_environment(const char* name, unsigned usual) {
    bool given = false;
    const int value = qEnvironmentVariableIntValue(name, &given);
    return given ? static_cast<unsigned>(value) : usual;
}

struct Outcome {
    bool by_run = false, first = false, in_two = false, band = false;
    double limit_error = 0, train_error = 0, score = 0; ///< of the limit; of that of the fitted train alone
};

Outcome outcome_of(RichEngine& engine) {
    const bool valve = engine.truth < Cause::BeltSlip;
    const session::CaseInput input = engine.entered.input();
    const RigRun run = reduce(engine.trace, engine.believed);
    const Calibration c = calibrate({engine.believed, {&run}});
    const CalibratedLimit limit = limit_of(c, {&run}, input.limits);
    const RunReading reading = read_run(c, limit, {input.range, input.limits, {}});
    const auto right = [&](Cause cause) {
        return std::find(engine.as_right.begin(), engine.as_right.end(), cause) != engine.as_right.end();
    };
    Outcome out;
    const RunShares shares = run_shares(reading, engine.target_rpm, rig_facts(run).first_rpm());
    const auto told = shares.first();
    const bool seen_by_rig = valve && engine.truth != Cause::BoostOnHead;
    out.by_run = seen_by_rig ? told && right(*told) : !told;
    const Verdict verdict = engine.entered.verdict_with(c, reading);
    const auto& causes = verdict.weighing.causes;
    out.first = right(causes[0].cause);
    out.in_two = out.first || right(causes[1].cause);
    for (const WeighedCause& one : causes)
        out.score += std::pow(one.probability - (one.cause == engine.truth ? 1 : 0), 2);
    const double found_rpm = limit.limit.speed_rpm.value_or(0);
    out.limit_error = found_rpm / engine.true_limit_rpm - 1;
    out.train_error = limit.train_limit_rpm.value_or(0) / engine.true_limit_rpm - 1;
    out.band = limit.p10_rpm && *limit.p10_rpm < engine.true_limit_rpm &&
               (!limit.p90_rpm || *limit.p90_rpm > engine.true_limit_rpm);
    QString departs, gains;
    for (const RunDeparture& d : reading.departures)
        departs += QStringLiteral(" %1 %2/%3")
                       .arg(d.cause.c_str())
                       .arg(d.log_evidence, 0, 'f', 0)
                       .arg(d.gain_rpm.value_or(-1), 0, 'f', 0);
    for (const RunMechanism& m : reading.mechanisms)
        gains += QStringLiteral(" %1 %2").arg(m.cause.c_str()).arg(m.gain_rpm, 0, 'f', 0);
    qInfo().noquote() << QStringLiteral("%1 | %2 | run %3 (%4) | verdict %5 %6, %7 %8 | limit %9")
                             .arg(info(engine.truth).key.data(), engine.name.c_str(),
                                  told ? info(*told).key.data() : "healthy", c.chosen.c_str(),
                                  info(causes[0].cause).key.data())
                             .arg(causes[0].probability, 0, 'f', 2)
                             .arg(info(causes[1].cause).key.data())
                             .arg(causes[1].probability, 0, 'f', 2)
                             .arg(100 * out.limit_error, 0, 'f', 1)
                      << QStringLiteral("(%1)").arg(100 * out.train_error, 0, 'f', 1)
                      << QStringLiteral("% of %1 band %2 target %3 bind %4 |")
                             .arg(engine.true_limit_rpm, 0, 'f', 0)
                             .arg(out.band)
                             .arg(engine.target_rpm)
                             .arg(1e3 * reading.bind_margin_m, 0, 'f', 2)
                      << departs << "|" << gains;
    return out;
}

} // namespace

class TestRichEngines : public QObject {
    Q_OBJECT
  private slots:
    void the_true_cause_is_told_by_run_and_by_verdict() {
        const unsigned wanted = from_environment("BATHMOS_ENGINES", 3);
        unsigned seed = from_environment("BATHMOS_FIRST_ENGINE", 41000);
        std::vector<Outcome> all;
        std::size_t next = from_environment("BATHMOS_FIRST_CAUSE", 0);
        while (all.size() < wanted) {
            const Cause cause = rich_causes()[next % rich_causes().size()];
            auto engine = draw_engine(cause, source_file("tests/trains"), seed++);
            if (!engine)
                continue;
            ++next;
            all.push_back(outcome_of(*engine));
        }
        const auto count = [&](bool Outcome::*what) {
            return std::count_if(all.begin(), all.end(), [&](const Outcome& one) { return one.*what; });
        };
        std::vector<double> off, train_off;
        double score = 0;
        for (const Outcome& one : all) {
            off.push_back(std::abs(one.limit_error));
            train_off.push_back(std::abs(one.train_error));
            score += one.score / static_cast<double>(all.size());
        }
        std::sort(off.begin(), off.end());
        std::sort(train_off.begin(), train_off.end());
        qInfo("of %zu: by the run %td, by the verdict %td, in two %td, band %td, limit off %.1f %% median, "
              "%.1f %% "
              "most (by the fitted train alone %.1f, %.1f), score %.2f",
              all.size(), count(&Outcome::by_run), count(&Outcome::first), count(&Outcome::in_two),
              count(&Outcome::band), 100 * off[off.size() / 2], 100 * off.back(),
              100 * train_off[train_off.size() / 2], 100 * train_off.back(), score);
        QVERIFY(count(&Outcome::first) >= static_cast<std::ptrdiff_t>(0.85 * static_cast<double>(wanted)));
    }

    // Two departures of one train at once. Only when asked for: BATHMOS_PAIRS engines from BATHMOS_FIRST_PAIR
    // on (docs/calibration.md).
    void two_departures_at_once_are_measured() {
        using enum Cause;
        const std::pair<Cause, Cause> pairs[] = {
            {SpringWeak, TrainFlexible}, {SpringNotAsBelieved, TrainFlexible}, {PumpUp, TrainFlexible}};
        const unsigned wanted = from_environment("BATHMOS_PAIRS", 0);
        if (wanted == 0)
            QSKIP("BATHMOS_PAIRS says how many");
        unsigned seed = from_environment("BATHMOS_FIRST_PAIR", 47000), made = 0, told = 0, both = 0;
        std::vector<double> off;
        while (made < wanted) {
            const auto [first, second] = pairs[made % std::size(pairs)];
            const auto engine = draw_engine(first, source_file("tests/trains"), seed++, second);
            if (!engine)
                continue;
            ++made;
            const RigRun run = reduce(engine->trace, engine->believed);
            const Calibration c = calibrate({engine->believed, {&run}});
            const CalibratedLimit limit = limit_of(c, {&run}, engine->entered.input().limits);
            off.push_back(std::abs(limit.limit.speed_rpm.value_or(0) / engine->true_limit_rpm - 1));
            bool first_told = false, second_told = false;
            for (const std::string& key : {c.chosen, c.chosen_with})
                if (const auto cause = find_cause(key)) {
                    const auto& right = engine->as_right;
                    first_told = first_told || std::ranges::find(right, *cause) != right.end();
                    second_told = second_told || *cause == second;
                }
            told += first_told || second_told;
            both += first_told && second_told;
            qInfo("%s with %s, %s: %s %s; limit %.1f %% off", info(first).key.data(), info(second).key.data(),
                  engine->name.c_str(), c.chosen.c_str(), c.chosen_with.c_str(), 100 * off.back());
        }
        std::sort(off.begin(), off.end());
        qInfo("of %u: both told in %u, one of the two in %u; limit off %.1f %% median, %.1f %% most", wanted,
              both, told, 100 * off[off.size() / 2], 100 * off.back());
        QVERIFY2(off.back() < 0.15, qPrintable(QString::number(off.back()))); // no further than today
    }
};

QTEST_GUILESS_MAIN(TestRichEngines)
#include "tst_rich_engines.moc"
