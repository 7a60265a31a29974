// What three sources say together.
#include "core/verdict/agreement.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {
std::string said(std::initializer_list<SpeedClaim> claims) {
    return agreement_in_words(claims);
}
constexpr auto kModel = Claimant::Model, kRig = Claimant::Rig, kDyno = Claimant::Dyno;
} // namespace

class TestAgreement : public QObject {
    Q_OBJECT
  private slots:
    void claims_agree_within_their_widths_or_two_per_cent() {
        QVERIFY(agree({kModel, 8000, 0}, {kRig, 8150, 0}));
        QVERIFY(!agree({kModel, 8000, 0}, {kRig, 8200, 0}));
        QVERIFY(agree({kModel, 8000, 300}, {kRig, 8490, 400})); // root of squares: 500
        QVERIFY(!agree({kModel, 8000, 300}, {kRig, 8510, 400}));
    }
    void one_source_speaks_alone() {
        QCOMPARE(said({}), std::string());
        QCOMPARE(said({{kDyno, 7700, 40}}), std::string("Only the dyno speaks so far"));
    }
    void two_agree_or_differ() {
        QCOMPARE(said({{kModel, 7438, 0}, {kRig, 7502, 50}}),
                 std::string("Model and rig agree: 7440 to 7500 rev/min"));
        QCOMPARE(said({{kModel, 8438, 0}, {kRig, 7642, 50}}),
                 std::string("Model and rig disagree: the rig is 800 lower"));
    }
    void of_three_the_odd_one_is_named() {
        QCOMPARE(said({{kModel, 7600, 100}, {kRig, 7640, 50}, {kDyno, 7662, 30}}),
                 std::string("Model, rig and dyno agree: 7600 to 7660 rev/min"));
        QCOMPARE(said({{kModel, 7160, 60}, {kRig, 7642, 50}, {kDyno, 7662, 30}}),
                 std::string("Rig and dyno agree, 7640 to 7660 rev/min; the model is 490 lower"));
        QCOMPARE(said({{kModel, 7640, 60}, {kRig, 7642, 50}, {kDyno, 8262, 30}}),
                 std::string("Model and rig agree, 7640 rev/min; the dyno is 620 higher"));
        QCOMPARE(said({{kModel, 7000, 0}, {kRig, 7500, 0}, {kDyno, 8000, 0}}),
                 std::string("Model, rig and dyno disagree: 7000 to 8000 rev/min"));
    }
};

QTEST_APPLESS_MAIN(TestAgreement)
#include "tst_agreement.moc"
