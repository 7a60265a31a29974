// The proof of the plan on drawn campaigns whose truth it does not know: it finds the best combination, or
// one within 100 rev/min of it, in fewer rig hours than one factor at a time in the order of the shelf.
#include "core/calibration/calibrate.h"
#include "core/calibration/carried_fit.h"
#include "standin/drawn_campaigns.h"
#include "standin/rig/spin.h"
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

    // The baseline's run calibrated: what it found out of its parts holds for all that have them. Both sides
    // hear of the baseline's limit.
    void what_a_calibrated_run_taught_brings_the_others_nearer() {
        const int count = std::max(1, qEnvironmentVariableIntValue("BATHMOS_CARRIED"));
        double believed_off = 0, fitted_off = 0;
        for (int i = 0; i < count; ++i) {
            const unsigned seed = 63000 + static_cast<unsigned>(i);
            const DrawnCampaign drawn = draw_campaign(seed);
            const Train& believed = *drawn.candidates[0].train;
            standin::SpinSetup setup;
            setup.truth = drawn.truth[0];
            setup.seed = seed;
            for (double rpm = 3000; rpm < drawn.truth_rpm[0] + 700; rpm += 400)
                setup.speeds_rpm.push_back(rpm);
            const RigRun run = reduce(standin::spin(setup), believed);
            const Calibration found = calibrate({.believed = believed, .runs = {&run}});
            std::set<std::string> keys;
            for (const FittedNumber& number : found.numbers)
                if (number.number.moves(0))
                    keys.insert(number.number.key);
            const CarriedFit fit{"", believed, accepted(found, believed, keys)};
            const double before = mean_off_rpm(drawn, drawn.candidates, seed);
            std::vector<plan::Candidate> fitted = drawn.candidates;
            for (plan::Candidate& one : fitted)
                one.train = with_fit(*one.train, fit);
            const double after = mean_off_rpm(drawn, fitted, seed);
            qInfo("%u: other combinations off by %.0f as believed, by %.0f with what was fitted", seed,
                  before, after);
            believed_off += before / count;
            fitted_off += after / count;
        }
        qInfo("in the mean %.0f and %.0f rev/min", believed_off, fitted_off);
        QVERIFY(fitted_off < 0.9 * believed_off);
    }

  private:
    // Of all but the baseline, once the baseline's limit was heard.
    static double mean_off_rpm(const DrawnCampaign& drawn, const std::vector<plan::Candidate>& candidates,
                               unsigned seed) {
        plan::Campaign c = drawn.campaign;
        c.measured.push_back({c.baseline, measured_rpm(drawn, 0, 0, seed), kRig_rpm});
        const plan::Plan plan = plan::plan_runs(c, candidates, plan::forecast(c, candidates, {}));
        double sum = 0;
        int count = 0;
        for (std::size_t i = 1; i < candidates.size(); ++i)
            if (plan.candidates[i].limit_rpm > 0 && drawn.truth_rpm[i] > 0) {
                sum += std::abs(plan.candidates[i].limit_rpm - drawn.truth_rpm[i]);
                ++count;
            }
        return sum / std::max(1, count);
    }
};

QTEST_GUILESS_MAIN(TstCampaigns)
#include "tst_campaigns.moc"
