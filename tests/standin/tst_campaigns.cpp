// The proof of the plan on drawn campaigns whose truth it does not know: it finds the best combination, or
// one within 100 rev/min of it, in fewer rig hours than one factor at a time in the order of the shelf.
#include "standin/drawn_campaigns.h"
#include "support.h"

#include <algorithm>
#include <fmt/format.h>

using namespace bathmos;
using namespace bathmos::test;

class TstCampaigns : public QObject {
    Q_OBJECT

  private slots:
    void the_best_is_found_in_fewer_hours_than_one_factor_at_a_time() {
        const int count = std::max(1, qEnvironmentVariableIntValue("BATHMOS_CAMPAIGNS"));
        const int campaigns = qEnvironmentVariableIsSet("BATHMOS_CAMPAIGNS") ? count : drawn(9);
        const unsigned first =
            qEnvironmentVariableIsSet("BATHMOS_FIRST_CAMPAIGN")
                ? static_cast<unsigned>(qEnvironmentVariableIntValue("BATHMOS_FIRST_CAMPAIGN"))
                : 61000;
        int found = 0, found_by_hand = 0;
        double hours = 0, hours_by_hand = 0;
        for (int i = 0; i < campaigns; ++i) {
            const unsigned seed = first + static_cast<unsigned>(i);
            const DrawnCampaign drawn = draw_campaign(seed);
            const double best = std::ranges::max(drawn.truth_rpm);
            const Campaigned plan = as_planned(drawn, seed), hand = one_at_a_time(drawn, seed);
            found += plan.chosen_rpm >= best - plan::kMargin_rpm;
            found_by_hand += hand.chosen_rpm >= best - plan::kMargin_rpm;
            hours += plan.hours;
            hours_by_hand += hand.hours;
            const std::string line = fmt::format(
                "{}: best {:.0f}; plan {:.0f} in {:.2f} h, {} runs; one at a time {:.0f} in {:.2f} h, "
                "{} runs",
                seed, best, plan.chosen_rpm, plan.hours, plan.runs, hand.chosen_rpm, hand.hours, hand.runs);
            qInfo("%s", line.c_str());
        }
        qInfo("%d of %d found by plan (%d one at a time), hours %.0f against %.0f", found, campaigns,
              found_by_hand, hours, hours_by_hand);
        QVERIFY2(found >= 0.9 * campaigns, qPrintable(QString::number(found)));
        QVERIFY2(hours <= 0.7 * hours_by_hand, qPrintable(QString::number(hours / hours_by_hand)));
    }
};

QTEST_GUILESS_MAIN(TstCampaigns)
#include "tst_campaigns.moc"
