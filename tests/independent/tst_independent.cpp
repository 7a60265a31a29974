// The core against a second writing of the same equations, integrated by another method.
#include "core/motion/motion.h"
#include "core/train/train_fields.h"
#include "independent/plain_train.h"
#include "independent/random_train.h"
#include "support.h"

#include <algorithm>
#include <cmath>
#include <numeric>

using namespace bathmos;
using namespace bathmos::independent;
using namespace bathmos::test;

namespace {

constexpr int kCases = 200, kCasesWithOptions = 60;

struct Compared {
    unsigned number = 0;
    std::string what;
    double rms_um = 0, largest_um = 0;
    double own_spread_um = 0, other_spread_um = 0;
    bool own_periodic = false, other_periodic = false;
};

bool within(const Compared& c) {
    return c.rms_um < 0.5 && c.largest_um < 3;
}

std::string described(const RandomCase& c) {
    std::string out = std::string(layout_name(c.train.layout)) + (c.train.hydraulic() ? " oil" : "") +
                      " at " + std::to_string(static_cast<int>(c.speed_rpm));
    for (const Spring& s : c.train.springs) {
        const auto* coil = std::get_if<CoilGeometry>(&s.kind);
        out += coil ? uneven_pitch(*coil) ? " pitch" : " coil" : " table";
    }
    return out;
}

Compared compare(unsigned number, const RandomCase& c, double close_step = kCloseStep) {
    CycleRule rule;
    rule.close_step = close_step;
    const Motion own = MotionModel(c.train).run({c.speed_rpm}, {}, rule).front();
    // the check valve's quick flow makes the oil stiff
    const CvodeResult other =
        run_cvode(PlainTrain(c.train), c.speed_rpm, c.train.hydraulic() ? Method::Bdf : Method::Adams, 1e-8);
    Compared out{number, described(c), 0, 0, 0, 0, own.periodic, other.periodic};
    for (std::size_t i = 0; i < kGridPoints; ++i) {
        const double d = (own[Channel::Lift][i] - other.lift_m[i]) * 1e6;
        out.rms_um += d * d / kGridPoints;
        out.largest_um = std::max(out.largest_um, std::abs(d));
    }
    out.rms_um = std::sqrt(out.rms_um);
    out.own_spread_um = 1e6 * own.metrics[Metric::CycleVariation].value_or(0);
    out.other_spread_um = 1e6 * cycle_variation_m(other.cycles_m);
    return out;
}

} // namespace

class TestIndependent : public QObject {
    Q_OBJECT
  private slots:
    void random_trains_agree() {
        QVERIFY(4 * agree(unsigned(drawn(kCases)), random_case, 0) >= 3u * unsigned(drawn(kCases)));
    }
    void trains_with_the_options_of_the_model_agree() {
        const auto cases = unsigned(drawn(kCasesWithOptions));
        QVERIFY(3 * agree(cases, random_case_with_options, 1) >= 2 * cases);
    }

  private:
    // How many cases repeat from cycle to cycle; the test fails where one departs.
    std::size_t agree(unsigned cases, RandomCase (*draw)(unsigned), std::size_t sensitive_allowed) {
        std::vector<Compared> all(cases);
        parallel_for(cases, [&](std::size_t i) {
            all[i] = compare(static_cast<unsigned>(i), draw(static_cast<unsigned>(i)));
        });
        std::size_t periodic = 0, beyond = 0, sensitive = 0;
        QStringList failed;
        double worst_rms = 0, worst = 0;
        for (const Compared& c : all) {
            const QString where = QStringLiteral("case %1, %2: rms %3 um, largest %4 um, spread %5 and %6 um")
                                      .arg(c.number)
                                      .arg(QString::fromStdString(c.what))
                                      .arg(c.rms_um)
                                      .arg(c.largest_um)
                                      .arg(c.own_spread_um)
                                      .arg(c.other_spread_um);
            if (qEnvironmentVariableIsSet("BATHMOS_SHOW_CASES"))
                qInfo().noquote() << where << c.own_periodic << c.other_periodic;
            if (c.own_periodic && c.other_periodic) {
                ++periodic;
                worst_rms = std::max(worst_rms, c.rms_um);
                worst = std::max(worst, c.largest_um);
                if (within(c))
                    continue;
                // Contacts that open within a step cost the more, the nearer a motion is to not repeating;
                // one in fifty may be up to twice as far off, if a fourth of the step puts it right.
                ++sensitive;
                const bool same_equations = within(compare(c.number, draw(c.number), kCloseStep / 4));
                if (!same_equations || !(c.rms_um < 1 && c.largest_um < 6))
                    failed << where;
                continue;
            }
            // Beyond the onset no two integrations meet in the curve: the order of the spread must, as far as
            // it counts (a fifth of its limit).
            ++beyond;
            const double low = std::min(c.own_spread_um, c.other_spread_um),
                         high = std::max(c.own_spread_um, c.other_spread_um);
            if (!(high < 20 || high < 3 * low))
                failed << where;
        }
        qInfo("%zu periodic cases: rms at most %.3f um, largest %.3f um; %zu beyond the edge", periodic,
              worst_rms, worst, beyond);
        if (sensitive > sensitive_allowed)
            failed << QStringLiteral("%1 motions are off by more than 0.5 um (rms) or 3 um").arg(sensitive);
        if (!failed.isEmpty())
            QTest::qFail(qPrintable(failed.join(QLatin1Char('\n'))), __FILE__, __LINE__);
        return failed.isEmpty() ? periodic : 0;
    }
};

QTEST_GUILESS_MAIN(TestIndependent)
#include "tst_independent.moc"
