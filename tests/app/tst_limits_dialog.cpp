// The dialogue of limits by itself: sets by name and of one's own, units, reasons, what is refused.
#include "app/shell/limits_dialog.h"
#include "app_fixture.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>

using namespace bathmos;
using namespace bathmos::test;

namespace {

struct Open {
    explicit Open(const LimitSet& now = named_limits().front().set, UnitSystem system = UnitSystem::Metric,
                  const Project& project = {}) {
        units.set_system(system);
        dialog = std::make_unique<LimitsDialog>(now, project, units);
    }
    template <class W>
    W* find(const QString& name) {
        return find_in<W>(*dialog, name);
    }
    QDoubleSpinBox* above(const char* metric) {
        return find<QDoubleSpinBox>(QStringLiteral("limits_above_%1").arg(QLatin1String(metric)));
    }
    QCheckBox* counts(const char* metric) {
        return find<QCheckBox>(QStringLiteral("limits_counts_%1").arg(QLatin1String(metric)));
    }
    bool accepts() { return find<QPushButton>("limits_accept")->isEnabled(); }
    QString verdict() { return find<QLabel>("limits_verdict")->text(); }
    void reason(const QString& text) { find<QLineEdit>("limits_reason")->setText(text); }
    std::string name() { return dialog->chosen().name; }

    DisplayUnits units;
    std::unique_ptr<LimitsDialog> dialog;
};

const LimitRow* row_of(const LimitSet& set, std::string_view metric) {
    for (const LimitRow& row : set.rows)
        if (row.metric == metric)
            return &row;
    return nullptr;
}

} // namespace

class TestLimitsDialog : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void a_named_set_comes_back_as_it_is_in_either_unit_data() {
        QTest::addColumn<int>("set");
        QTest::addColumn<bool>("inch");
        for (int i = 0; i < static_cast<int>(named_limits().size()); ++i)
            for (const bool inch : {false, true})
                QTest::addRow("%s, %s", named_limits()[static_cast<std::size_t>(i)].set.name.c_str(),
                              inch ? "inch" : "metric")
                    << i << inch;
    }
    void a_named_set_comes_back_as_it_is_in_either_unit() {
        QFETCH(int, set);
        QFETCH(bool, inch);
        const LimitSet& named = named_limits()[static_cast<std::size_t>(set)].set;
        Open f(named, inch ? UnitSystem::Inch : UnitSystem::Metric);
        QVERIFY(f.dialog->chosen() == named); // to the last digit
        QCOMPARE(f.find<QComboBox>("limits_name")->currentText(), QString::fromStdString(named.name));
    }

    void choosing_another_name_puts_its_numbers_into_the_boxes() {
        Open f;
        auto* name = f.find<QComboBox>("limits_name");
        name->setCurrentText("no bounce that can be seen");
        emit name->activated(name->currentIndex());
        NEAR(f.above("bounce")->value(), 0.05, 1e-12);
        NEAR(f.above("seating")->value(), 1.0, 1e-12);
        QCOMPARE(f.name(), std::string("no bounce that can be seen"));
        name->setCurrentText("lofts on purpose");
        emit name->activated(name->currentIndex());
        NEAR(f.above("loft")->value(), 0.6, 1e-12);
        QVERIFY(!f.counts("contact_loss")->isChecked() && !f.above("contact_loss")->isEnabled());
    }

    void a_number_of_one_s_own_takes_the_name_away_and_back() {
        Open f;
        const double usual = f.above("loft")->value();
        f.above("loft")->setValue(usual + 0.1);
        QCOMPARE(f.name(), std::string("as chosen here"));
        NEAR(row_of(f.dialog->chosen(), "loft")->above, usual + 0.1, 1e-9);
        f.above("loft")->setValue(usual);
        QCOMPARE(f.name(), named_limits().front().set.name);
    }

    void what_does_not_count_is_left_out_and_cannot_be_typed() {
        Open f;
        f.counts("bounce")->setChecked(false);
        QVERIFY(!row_of(f.dialog->chosen(), "bounce"));
        QVERIFY(!f.above("bounce")->isEnabled());
        QVERIFY(row_of(f.dialog->chosen(), "loft"));
        f.counts("bounce")->setChecked(true);
        QCOMPARE(f.name(), named_limits().front().set.name);
    }

    void nothing_is_judged_anew_without_a_reason() {
        Open f;
        QVERIFY(!f.accepts());
        QVERIFY(f.verdict().contains("Say why"));
        f.reason("   ");
        QVERIFY(!f.accepts());
        f.reason("  seats must last ");
        QVERIFY(f.accepts());
        QCOMPARE(f.dialog->reason(), QStringLiteral("seats must last"));
        QVERIFY(f.verdict().contains("Undo goes back"));
    }

    void bounds_the_wrong_way_round_and_impossible_lifts_are_told() {
        Open f;
        f.reason("trial");
        auto* below = f.find<QDoubleSpinBox>("limits_below_duration_change");
        const double good = below->value();
        below->setValue(f.above("duration_change")->value() + 1);
        QVERIFY(!f.accepts());
        QVERIFY2(f.verdict().contains("duration_change"), qPrintable(f.verdict()));
        below->setValue(good);
        QVERIFY(f.accepts());
        auto* lift = f.find<QDoubleSpinBox>("limits_check_lift");
        lift->setValue(0.01);
        QVERIFY(!f.accepts());
        lift->setValue(1.27);
        QVERIFY(f.accepts());
    }

    void fifty_thousandths_typed_in_inches_are_exactly_their_millimetres() {
        LimitSet now = named_limits().front().set;
        now.check_lift_m = 1e-3;
        now.name = "as chosen here";
        Open f(now, UnitSystem::Inch);
        auto* lift = f.find<QDoubleSpinBox>("limits_check_lift");
        QVERIFY(lift->suffix().contains("in"));
        NEAR(lift->value(), 1 / 25.4, 1e-4);
        lift->setValue(0.050);
        NEAR(f.dialog->chosen().check_lift_m, 1.27e-3, 1e-12);
        f.above("loft")->setValue(0.020);
        NEAR(row_of(f.dialog->chosen(), "loft")->above, 0.508, 1e-9);
        // metres a second are read in inches a second, degrees stay degrees
        QVERIFY(f.above("seating")->suffix().contains("in/s"));
        NEAR(f.above("duration_change")->value(), row_of(now, "duration_change")->above, 1e-9);
    }

    void what_was_in_force_before_is_told_newest_first() {
        QVERIFY(Open().find<QLabel>("limits_history")->text().contains("since the project began"));
        Project project;
        LimitSet first = named_limits()[1].set, second = named_limits()[2].set;
        first.reason = "club rules";
        first.when = "2026-02-01T10:00:00Z";
        second.reason = "hill climb";
        project.limits = {{1, first}, {2, second}};
        const QString text = Open(second, UnitSystem::Metric, project).find<QLabel>("limits_history")->text();
        QVERIFY2(text.indexOf("hill climb") < text.indexOf("club rules") && text.contains("2026-02-01"),
                 qPrintable(text));
    }

    void every_box_is_named_and_reached_by_tab_before_the_buttons() {
        Open f;
        f.reason("reachable");
        f.dialog->show();
        QVERIFY(QTest::qWaitForWindowExposed(f.dialog.get()));
        QSet<QWidget*> reached;
        QWidget* at = f.find<QComboBox>("limits_name");
        for (int i = 0; i < 60; ++i, at = at->nextInFocusChain())
            if (at->isEnabled() && at->isVisible() && (at->focusPolicy() & Qt::TabFocus))
                reached.insert(at);
        for (auto* box : f.dialog->findChildren<QDoubleSpinBox*>()) {
            QVERIFY(!box->accessibleName().isEmpty());
            QVERIFY2(reached.contains(box), qPrintable(box->objectName()));
        }
        QVERIFY(reached.contains(f.find<QLineEdit>("limits_reason")));
        QVERIFY(reached.contains(f.find<QPushButton>("limits_accept")));
    }
};

QTEST_MAIN(TestLimitsDialog)
#include "tst_limits_dialog.moc"
