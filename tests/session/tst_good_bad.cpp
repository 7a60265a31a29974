// The last good and the first bad state: what tells, which turn counts, what lies between them.
#include "session/compare/good_bad.h"
#include "session/judged_demo.h"
#include "session/log/log_json.h"

#include <nlohmann/json.hpp>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::session;

namespace {

std::vector<SeenState> marked(const std::string& marks) {
    std::vector<SeenState> out;
    for (const char mark : marks)
        out.push_back({static_cast<Id>(out.size() + 1),
                       "",
                       mark == 'g'   ? StateMark::Good
                       : mark == 'b' ? StateMark::Bad
                                     : StateMark::Unknown,
                       {}});
    return out;
}
std::string turn(const std::string& marks) {
    const GoodBad found = last_good_first_bad(marked(marks));
    return std::to_string(found.good) + " " + std::to_string(found.bad);
}

} // namespace

class TstGoodBad : public QObject {
    Q_OBJECT

  private slots:
    void the_first_bad_after_the_last_good_counts() {
        QCOMPARE(turn("gb"), std::string("1 2"));
        QCOMPARE(turn("gg?bb"), std::string("2 4")); // not the bad ones after it
        QCOMPARE(turn("gbgb"), std::string("3 4"));  // the last such turn
        QCOMPARE(turn("gbg"), std::string("1 2"));   // mended since
        QCOMPARE(turn("bbg"), std::string("0 0"));
        QCOMPARE(turn("?b"), std::string("0 0"));
        QCOMPARE(turn(""), std::string("0 0"));
    }

    void pulls_runs_and_failures_tell_of_the_demo() {
        QTemporaryDir folder;
        const io::Store store = demo_store(folder);
        const auto trace = [&](Id id) { return store.trace(id); };
        Results results;
        const SeenInput input = gather_seen(store.project(), 2, trace);
        QCOMPARE(input.target_rpm, 8600.0);
        const std::vector<SeenState> states = seen_states(input, results);
        QCOMPARE(states.size(), std::size_t(2));
        const auto why = [](const SeenState& state) {
            std::string out;
            for (const std::string& one : state.why)
                out += one + "|";
            return out;
        };
        QVERIFY2(states[0].mark == StateMark::Good, why(states[0]).c_str());
        CONTAINS(why(states[0]), "without a break");
        QVERIFY(states[1].mark == StateMark::Bad);
        CONTAINS(why(states[1]), "power breaks at 76");
        CONTAINS(why(states[1]), "below what is wanted");
        CONTAINS(why(states[1]), "marked"); // the locks
        const GoodBad of = last_good_first_bad(states);
        QCOMPARE(of.good, Id(1));
        QCOMPARE(of.bad, Id(2));

        const SpeedRange range{7000, 9400, 400};
        const BetweenStates between = study_between(store.project(), of, range, input.limits, results);
        // What undoing the only change gains is what lies between both limits.
        QVERIFY(between.good_rpm && between.bad_rpm && *between.good_rpm > *between.bad_rpm + 300);
        QCOMPARE(between.changes.changes.size(), std::size_t(1));
        NEAR(*between.changes.changes[0].undone_gain_rpm, *between.good_rpm - *between.bad_rpm, 60);
        CONTAINS(between.changes.changes[0].text.in_words(), "0.89");
        const auto mass = std::ranges::find_if(
            between.effects, [](const Difference& one) { return contains(one.label, "mass"); });
        QVERIFY(mass != between.effects.end() && *mass->after < *mass->before); // lighter rods
        QVERIFY(between.cycles > 1e5);
        QVERIFY(!between.lines.empty());
        for (const LogLine& line : between.lines)
            QVERIFY(line.build == 1);

        const auto json = nlohmann::json::parse(between_json(states, &between));
        QCOMPARE(json["states"][1]["mark"].get<std::string>(), std::string("bad"));
        QCOMPARE(json["good"].get<int>(), 1);
        NEAR(json["limit_rpm"]["bad"].get<double>(), *between.bad_rpm, 0.5);
        QVERIFY(nlohmann::json::parse(between_json(states, nullptr)).size() == 1);
    }

    void what_is_not_there_is_told() {
        QTemporaryDir folder;
        const io::Store store = demo_store(folder);
        const auto trace = [&](Id id) { return store.trace(id); };
        Results results;
        CONTAINS(problem_of([&] { gather_seen(store.project(), 77, trace); }).what, "is not there");
        const auto between = [&](Id good, Id bad) {
            return problem_of([&] { study_between(store.project(), {good, bad}, {}, {}, results); }).what;
        };
        CONTAINS(between(1, 77), "77 is not there");
        CONTAINS(between(2, 2), "the same");
    }
};

QTEST_APPLESS_MAIN(TstGoodBad)
#include "tst_good_bad.moc"
