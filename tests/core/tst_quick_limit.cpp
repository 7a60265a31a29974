// The limit found near where it is expected is that of a sweep of the whole range.
#include "core/motion/quick_limit.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

const SpeedRange kRange{5000, 10000, 100};

Train train_of(Layout layout) {
    return with_layout(starter_train(), layout);
}

} // namespace

class TestQuickLimit : public QObject {
    Q_OBJECT
  private slots:
    void after_an_estimate_it_is_the_limit_of_the_sweep_data() {
        QTest::addColumn<int>("layout");
        QTest::newRow("pushrod") << static_cast<int>(Layout::Pushrod);
        QTest::newRow("bucket") << static_cast<int>(Layout::Bucket);
    }
    void after_an_estimate_it_is_the_limit_of_the_sweep() {
        QFETCH(int, layout);
        const Train train = train_of(static_cast<Layout>(layout));
        const LimitSpeed whole = sweep(train, kRange).summary.limit;
        QVERIFY(whole.speed_rpm && whole.first);
        const MotionModel model(train);
        const QuickLimitQuery query{kRange};
        const LimitSpeed quick = refine_limit(model, after_estimate(query, estimate_limit(model, query)));
        QVERIFY(quick.speed_rpm && quick.first);
        NEAR(*quick.speed_rpm, *whole.speed_rpm, 1.5 * query.bisect_to_rpm);
        QCOMPARE(quick.first->metric, whole.first->metric);
    }

    void it_is_found_from_far_above_and_below() {
        const Train train = starter_train();
        const double whole = *sweep(train, kRange).summary.limit.speed_rpm;
        for (const double away_rpm : {-1200.0, 1200.0}) {
            QuickLimitQuery query{kRange};
            query.near_rpm = whole + away_rpm;
            const LimitSpeed quick = refine_limit(MotionModel(train), query);
            QVERIFY(quick.speed_rpm.has_value());
            NEAR(*quick.speed_rpm, whole, 1.5 * query.bisect_to_rpm);
        }
    }

    void the_estimate_is_near_enough_to_begin_with() {
        const Train train = starter_train();
        const MotionModel model(train);
        QuickLimitQuery query{kRange};
        const LimitSpeed estimate = estimate_limit(model, query);
        QVERIFY(estimate.speed_rpm.has_value());
        const QuickLimitQuery next = after_estimate(query, estimate);
        NEAR(next.near_rpm, *estimate.speed_rpm, 1);
        const LimitSpeed refined = refine_limit(model, next);
        QVERIFY(refined.speed_rpm.has_value());
        NEAR(*estimate.speed_rpm, *refined.speed_rpm, 250);
    }

    void no_limit_in_the_range_is_none() {
        const MotionModel model(starter_train());
        QuickLimitQuery query{{2000, 3000, 100}};
        QVERIFY(!refine_limit(model, query).speed_rpm.has_value());
    }

    void fewer_limits_are_crossed_later_or_not_at_all() {
        const MotionModel model(starter_train());
        QuickLimitQuery all{kRange}, one{kRange};
        std::erase_if(one.limits.list, [](const Limit& l) { return l.metric != Metric::HeldOpen; });
        const auto first = refine_limit(model, all).speed_rpm, later = refine_limit(model, one).speed_rpm;
        QVERIFY(first.has_value());
        QVERIFY(!later || *later >= *first - all.bisect_to_rpm);
    }

    void a_stop_is_heeded() {
        const MotionModel model(starter_train());
        std::stop_source source;
        source.request_stop();
        QVERIFY_THROWS_EXCEPTION(Stopped, refine_limit(model, QuickLimitQuery{kRange}, source.get_token()));
    }
};

QTEST_APPLESS_MAIN(TestQuickLimit)
#include "tst_quick_limit.moc"
