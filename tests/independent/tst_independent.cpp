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

constexpr unsigned kCases = 200;

struct Compared {
    unsigned number = 0;
    std::string what;
    double rms_um = 0, largest_um = 0;
    double own_spread_um = 0, other_spread_um = 0;
    bool own_periodic = false, other_periodic = false;
};

std::string described(const RandomCase& c) {
    std::string out = std::string(layout_name(c.train.layout)) + (c.train.hydraulic() ? " oil" : "") +
                      " at " + std::to_string(static_cast<int>(c.speed_rpm));
    for (const Spring& s : c.train.springs) {
        const auto* coil = std::get_if<CoilGeometry>(&s.kind);
        out += coil ? coil->pitch_m.empty() ? " coil" : " pitch" : " table";
    }
    return out;
}

Compared compare(unsigned number) {
    const RandomCase c = random_case(number);
    const Motion own = MotionModel(c.train).run({c.speed_rpm}).front();
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
    void two_hundred_random_trains_agree() {
        std::vector<Compared> all(kCases);
        parallel_for(kCases, [&](std::size_t i) { all[i] = compare(static_cast<unsigned>(i)); });
        std::size_t periodic = 0, beyond = 0;
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
                if (!(c.rms_um < 0.5 && c.largest_um < 3))
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
        QVERIFY2(failed.isEmpty(), qPrintable(failed.join(QLatin1Char('\n'))));
        QVERIFY(periodic >= 150);
    }
};

QTEST_GUILESS_MAIN(TestIndependent)
#include "tst_independent.moc"
