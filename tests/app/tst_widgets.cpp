#include "app/desk/action_registry.h"
#include "app/widgets/list_edit.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "app/widgets/table_copy.h"
#include "app_fixture.h"

#include <QClipboard>
#include <QHeaderView>
#include <QListWidget>
#include <QTreeWidget>

using namespace bathmos;
using namespace bathmos::test;

namespace {
std::string positive(double value) {
    return value > 0 ? "" : "must be above 0";
}
} // namespace

class TestWidgets : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void numbers_are_read_as_people_write_them_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("value");
        QTest::newRow("point") << "1.25" << 1.25;
        QTest::newRow("comma") << "1,25" << 1.25;
        QTest::newRow("blanks") << "  7 " << 7.0;
        QTest::newRow("power") << "1e-5" << 1e-5;
        QTest::newRow("negative") << "-3" << -3.0;
    }
    void numbers_are_read_as_people_write_them() {
        QFETCH(QString, text);
        QFETCH(double, value);
        NEAR(parse_number(text).value(), value, 0);
    }
    void what_is_no_number_is_none() {
        for (const char* text : {"", "abc", "1.2.3", "inf", "nan", "12 mm", "1,2,3"})
            QVERIFY2(!parse_number(QLatin1String(text)).has_value(), text);
    }

    void a_field_hands_on_si_in_the_unit_in_force() {
        DisplayUnits units;
        NumberField field(units, Quantity::Stiffness, "k", "Rate", "help", positive);
        QSignalSpy edited(&field, &NumberField::edited);
        field.show_value(60000);
        QCOMPARE(field.edit()->text(), QStringLiteral("60"));
        QTest::keyClicks(field.edit(), "5"); // 605 N/mm
        NEAR(edited.last()[0].toDouble(), 605e3, 1e-6);
        units.toggle();
        const double inch = 605e3 / unit_of(Quantity::Stiffness, UnitSystem::Inch).to_si;
        NEAR(field.edit()->text().toDouble(), inch, 0.05); // five digits in inch;
        QVERIFY(field.edit()->accessibleName().contains("lbf/in"));
    }

    void a_refused_number_goes_when_the_value_is_shown_again() {
        DisplayUnits units;
        NumberField field(units, Quantity::Mass, "m", "Mass", "the help", positive);
        QSignalSpy edited(&field, &NumberField::edited);
        field.show_value(0.05);
        field.edit()->selectAll();
        QTest::keyClicks(field.edit(), "-1");
        QCOMPARE(edited.count(), 0);
        QVERIFY(field.problem().contains("above 0"));
        QVERIFY(field.edit()->accessibleDescription().contains("above 0"));
        field.show_value(0.05);
        QCOMPARE(field.problem(), QString());
        QCOMPARE(field.edit()->text(), QStringLiteral("50"));
        QCOMPARE(field.edit()->toolTip(), QStringLiteral("the help"));
    }

    void a_list_takes_rows_and_tells_the_bad_line() {
        ListEdit list("l", {"height", "load"});
        QSignalSpy edited(&list, &ListEdit::edited);
        list.show_rows({{30, 40}, {900, 400}});
        QCOMPARE(list.toPlainText(), QStringLiteral("30  900\n40  400"));
        QCOMPARE(edited.count(), 0); // showing is no edit
        list.setPlainText("30; 900\n\n40\t410\n45 250");
        QCOMPARE(edited.count(), 1);
        const auto rows = edited[0][0].value<std::vector<std::vector<double>>>();
        QCOMPARE(rows[1].size(), std::size_t{3});
        NEAR(rows[1][1], 410, 0);
        list.setPlainText("30 900\n40");
        QVERIFY(list.problem().contains("line 2 holds 1"));
        QCOMPARE(edited.count(), 1);
    }

    void a_table_copies_what_is_selected_or_all() {
        NumberTable table("t");
        table.set_headings({"a", "b\nmm"});
        table.setRowCount(2);
        for (int row = 0; row < 2; ++row)
            for (int column = 0; column < 2; ++column)
                table.set_cell(row, column, QString::number(10 * row + column));
        QCOMPARE(table.as_text(), QStringLiteral("a\tb mm\n0\t1\n10\t11\n"));
        table.setRangeSelected(QTableWidgetSelectionRange(0, 1, 1, 1), true);
        QCOMPARE(table.as_text(), QStringLiteral("1\n11\n"));
    }

    void any_table_or_tree_is_copied_as_it_is_seen() {
        QTreeWidget tree;
        tree.setColumnCount(3);
        tree.setHeaderLabels({"name", "hidden", "limit"});
        auto* first = new QTreeWidgetItem(&tree, {"r1", "x", "7969"});
        new QTreeWidgetItem(first, {"r2", "x", "8556"});
        new QTreeWidgetItem(&tree, {"r3", "x", "8600"});
        tree.hideColumn(1);
        tree.header()->moveSection(2, 0);
        QCOMPARE(table_text(tree), QStringLiteral("limit\tname\n7969\tr1\n8556\tr2\n8600\tr3\n"));
        tree.topLevelItem(1)->setHidden(true);
        QCOMPARE(table_text(tree), QStringLiteral("limit\tname\n7969\tr1\n8556\tr2\n"));
        TableCopy copies(&tree);
        tree.setCurrentItem(first);
        tree.show();
        QTest::keyClick(&tree, Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(QApplication::clipboard()->text(), QStringLiteral("7969\tr1\n")); // the chosen line
        QListWidget list;
        list.addItems({"one", "two"});
        QCOMPARE(table_text(list), QStringLiteral("one\ntwo\n"));
    }

    void long_text_wraps_within_what_is_seen() {
        NumberTable table("t");
        table.set_headings(
            {"what", "why it is so, in a heading that is longer than the place for it in a window"});
        table.wrap_last_column();
        table.setRowCount(2);
        table.set_cell(0, 0, "oil");
        table.set_cell(0, 1, QStringLiteral("pressure falls with speed ").repeated(8), false);
        table.set_cell(1, 0, "air");
        table.set_cell(1, 1, "clear", false);
        table.resize(700, 300);
        table.show();
        QVERIFY(QTest::qWaitForWindowExposed(&table));
        const auto fits = [&] {
            return table.columnWidth(0) + table.columnWidth(1) <= table.viewport()->width();
        };
        QVERIFY(fits());
        const int wide = table.rowHeight(0);
        table.resize(320, 300);
        QTRY_VERIFY(fits());
        QTRY_VERIFY(table.rowHeight(0) > wide); // the same words need more lines
        QVERIFY(table.rowHeight(0) > 2 * table.rowHeight(1));
    }

    void many_requests_make_one_redraw_and_none_while_hidden() {
        QWidget widget;
        int drawn = 0;
        Refresher refresher(&widget, 5, [&] { ++drawn; });
        widget.show();
        QVERIFY(QTest::qWaitForWindowExposed(&widget));
        for (int i = 0; i < 20; ++i)
            refresher.ask();
        QTRY_COMPARE(drawn, 1);
        widget.hide();
        refresher.ask();
        QTest::qWait(40); // longer than the pause: a redraw would have come
        QCOMPARE(drawn, 1);
        widget.show();
        QTRY_COMPARE(drawn, 2);
    }

    void an_action_runs_only_while_it_is_enabled_and_names_its_key() {
        ActionRegistry actions;
        int ran = 0;
        QAction* action = actions.add("x", "Do it", QKeySequence(Qt::CTRL | Qt::Key_D), [&] { ++ran; });
        QVERIFY(action->toolTip().contains("Ctrl+D"));
        actions.run("x");
        action->setEnabled(false);
        actions.run("x");
        actions.run("nothing");
        QCOMPARE(ran, 1);
        QVERIFY(actions.find("nothing") == nullptr);
    }

    void units_of_metrics_follow_the_system() {
        DisplayUnits units;
        QCOMPARE(units.metric_unit(Metric::Loft), QStringLiteral("mm"));
        QCOMPARE(units.metric_unit(Metric::DurationChange), QStringLiteral("°"));
        QCOMPARE(units.metric_unit(Metric::BounceCount), QString());
        units.toggle();
        QCOMPARE(units.metric_unit(Metric::Seating), QStringLiteral("in/s"));
        NEAR(units.metric_value(Metric::Seating, 0.254), 10, 1e-9);
        QCOMPARE(units.metric_unit(Metric::DurationChange), QStringLiteral("°"));
    }
};

QTEST_MAIN(TestWidgets)
#include "tst_widgets.moc"
