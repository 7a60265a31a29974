// The verdict against 200 drawn cases with one known fault each; prints the confusion table (kept in
// docs/verdict.md). Nothing was tuned on these seeds: development used others.
#include "core/verdict/verdict.h"
#include "standin/fault_cases.h"
#include "support.h"

#include <QTest>
#include <map>

using namespace bathmos;
using namespace bathmos::test;

namespace {
constexpr unsigned kFirstSeed = 20261125, kSceneSeed = 611;
constexpr int kCases = 200, kOfEach = 12;

struct Score {
    std::map<Cause, std::map<Cause, int>> table;
    int first = 0, two = 0, cases = 0;

    void add(const FaultCase& drawn) {
        const auto causes = judge(drawn.file).weighing.causes;
        const Cause a = causes.at(0).cause, b = causes.at(1).cause;
        ++cases;
        ++table[drawn.truth][a];
        first += a == drawn.truth ? 1 : 0;
        two += a == drawn.truth || b == drawn.truth ? 1 : 0;
    }

    void print() const {
        for (const auto& [truth, row] : table) {
            QString line = QStringLiteral("| %1 |").arg(QString::fromUtf8(info(truth).label.data()));
            for (const auto& [found, count] : row)
                line += QStringLiteral(" %1 %2;").arg(QString::fromUtf8(info(found).key.data())).arg(count);
            qInfo().noquote() << line;
        }
        qInfo().noquote()
            << QStringLiteral("first in %1, in the first two in %2 of %3").arg(first).arg(two).arg(cases);
    }
};
} // namespace

class TstFaultCases : public QObject {
    Q_OBJECT

  private slots:
    void the_true_cause_is_first_in_85_and_in_the_first_two_in_95_of_100() {
        const auto scenes = make_scenes(source_file("demo"), kSceneSeed);
        Score score;
        for (unsigned i = 0; i < unsigned(drawn(kCases)); ++i)
            score.add(draw_case(scenes, kFirstSeed + i));
        score.print();
        QVERIFY2(score.first >= 0.85 * score.cases, qPrintable(QString::number(score.first)));
        QVERIFY2(score.two >= 0.95 * score.cases, qPrintable(QString::number(score.two)));
    }

    // Harder than the above: a loss that comes slowly, of trains that are near their end before it. Bars by
    // what 240 cases of other seeds gave (first 215, first two 224).
    void rarer_troubles_of_the_train_are_found_too() {
        const auto scenes = make_rarer_scenes(source_file("demo"), source_file("tests/trains"), kSceneSeed);
        Score score;
        for (const TrainScene& scene : scenes) {
            // What costs nothing within the pulls (they end from 8450 on) no pull can show.
            double lost = 0;
            for (const standin::MotionLoss& loss : standin::motion_loss(scene.truth))
                if (loss.speed_rpm <= 8400)
                    lost = std::max(lost, loss.lost);
            QVERIFY2(lost > 0.03, qPrintable(QStringLiteral("%1: %2").arg(scene.name.c_str()).arg(lost)));
            for (unsigned i = 0; i < unsigned(drawn(kOfEach)); ++i)
                score.add(draw_case(scene, kFirstSeed + i));
        }
        score.print();
        QVERIFY2(score.first >= 0.80 * score.cases, qPrintable(QString::number(score.first)));
        QVERIFY2(score.two >= 0.90 * score.cases, qPrintable(QString::number(score.two)));
    }
};

QTEST_APPLESS_MAIN(TstFaultCases)
#include "tst_fault_cases.moc"
