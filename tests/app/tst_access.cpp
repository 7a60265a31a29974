// What somebody needs who does not see the window or does not use the mouse: a name and a role for everything
// that takes part, in every station, tab and dialogue; plots that say what stands at the cursor.
#include "app_fixture.h"

#include "app/plot/plot.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAbstractSpinBox>
#include <QAccessible>
#include <QHeaderView>
#include <QLabel>
#include <QScrollBar>
#include <QTabBar>
#include <QToolButton>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// What a person acts on, not what only holds or shows.
bool is_acted_on(const QWidget* w) {
    if (!w->isVisible() || w->focusProxy() || w->objectName().startsWith(QStringLiteral("qt_")) ||
        qobject_cast<const QScrollBar*>(w) || qobject_cast<const QTabBar*>(w) ||
        qobject_cast<const QHeaderView*>(w))
        return false;
    if (const auto* label = qobject_cast<const QLabel*>(w); label && label->text().isEmpty())
        return false;
    if (w->inherits("QTableCornerButton"))
        return false; // selects all, as Ctrl+A does
    if (qobject_cast<const QLineEdit*>(w) && qobject_cast<const QAbstractSpinBox*>(w->parentWidget()))
        return false; // the inside of its box
    if (qobject_cast<const QLineEdit*>(w) && qobject_cast<const QComboBox*>(w->parentWidget()))
        return false;
    return w->focusPolicy() != Qt::NoFocus || qobject_cast<const QAbstractButton*>(w) ||
           qobject_cast<const QAbstractItemView*>(w) || qobject_cast<const QLineEdit*>(w);
}

QString told(const QWidget* w) {
    return QStringLiteral("%1 \"%2\" in %3")
        .arg(w->metaObject()->className(), w->objectName(),
             w->parentWidget() ? w->parentWidget()->metaObject()->className() : "nothing");
}

// What has no name or no role within a widget. Names that a program gave itself are no words.
QStringList unnamed(const QWidget& in) {
    QStringList out;
    for (QWidget* w : in.findChildren<QWidget*>()) {
        if (!is_acted_on(w))
            continue;
        QAccessibleInterface* face = QAccessible::queryAccessibleInterface(w);
        // a box of choices is told by its choice here, its name by a relation
        const QString name = qobject_cast<QComboBox*>(w) ? w->accessibleName()
                             : face                      ? face->text(QAccessible::Name)
                                                         : QString();
        const bool internal = name.contains(QLatin1Char('_'));
        if (name.trimmed().isEmpty() || internal)
            out << told(w) + QStringLiteral(" is named \"%1\"").arg(name);
        else if (face->role() == QAccessible::NoRole)
            out << told(w) + QStringLiteral(" has no role");
    }
    return out;
}

int acted_on(const QWidget& in) {
    int count = 0;
    for (const QWidget* w : in.findChildren<QWidget*>())
        count += is_acted_on(w);
    return count;
}

} // namespace

class TestAccess : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void all_of_a_station_has_names_and_roles_data() { station_rows(); }
    void all_of_a_station_has_names_and_roles() {
        QFETCH(QString, name);
        ProjectFixture f(QStringLiteral("access"));
        f.window->sweep().set_range({7000, 8600, 800});
        if (name == QStringLiteral("station_rig")) {
            f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
            f.wait_for_rig();
        }
        f.wait_for_sweep();
        f.window->show_station(name);
        f.wait_for_redraw();
        auto* station = f.find<QWidget>(name);
        QStringList all = unnamed(*station);
        int seen = acted_on(*station);
        for (QTabWidget* tabs : station->findChildren<QTabWidget*>())
            for (int i = 0; i < tabs->count(); ++i) {
                tabs->setCurrentIndex(i);
                f.wait_for_redraw();
                if (!tabs->isVisible())
                    continue;
                all << unnamed(*tabs->currentWidget());
                seen += acted_on(*tabs->currentWidget());
            }
        all.removeDuplicates();
        QVERIFY2(all.isEmpty(), qPrintable(all.join(QLatin1Char('\n'))));
        QVERIFY2(seen > (name == QStringLiteral("station_dyno") ? 0 : 8), qPrintable(QString::number(seen)));
    }

    void all_around_the_stations_has_names_and_roles() {
        ProjectFixture f(QStringLiteral("around"));
        f.trigger("help");
        const QStringList all = unnamed(*f.window);
        QVERIFY2(all.isEmpty(), qPrintable(all.join(QLatin1Char('\n'))));
        for (const QAction* action : f.window->actions_by_id().all())
            QVERIFY(!action->text().isEmpty());
    }

    void all_of_a_dialogue_has_names_and_roles_data() {
        QTest::addColumn<QString>("dialog");
        QTest::addColumn<QString>("action");
        QTest::addColumn<QString>("file");
        const auto row = [](const char* dialog, const char* action, const char* file = "") {
            QTest::newRow(dialog) << QString(dialog) << QString(action) << QString(file);
        };
        row("start_dialog", "new_train");
        row("limits_dialog", "limits");
        row("settings_dialog", "settings");
        row("find_box", "find");
        row("rig_import", "import_rig", "demo/ashgill-a22-intake-after.rig.csv");
        row("pull_import", "import_pull", "demo/ashgill-a22-after-1.pull.csv");
        row("gauge_import", "import_lobe", "demo/degree-wheel.csv");
        row("instrument_dialog", "bench instrument_describe");
        row("table_export", "lobe lobe_export_table");
    }
    void all_of_a_dialogue_has_names_and_roles() {
        QFETCH(QString, dialog);
        QFETCH(QString, action);
        QFETCH(QString, file);
        ProjectFixture f(QStringLiteral("dialogues"));
        f.next_path = file.isEmpty() ? QString() : source_path(file);
        QStringList all;
        int seen = 0;
        Press press(dialog, [&](QDialog* shown) {
            all = unnamed(*shown);
            seen = acted_on(*shown);
            for (QTabWidget* tabs : shown->findChildren<QTabWidget*>())
                for (int i = 0; i < tabs->count(); ++i) {
                    tabs->setCurrentIndex(i);
                    all << unnamed(*tabs->currentWidget());
                }
            if (shown->windowTitle().isEmpty() && shown->accessibleName().isEmpty())
                all << QStringLiteral("the dialogue itself");
            shown->reject();
        });
        if (action.contains(QLatin1Char(' '))) {
            f.window->show_station(QStringLiteral("station_") + action.section(QLatin1Char(' '), 0, 0));
            f.wait_for_redraw();
            if (dialog == QStringLiteral("instrument_dialog"))
                f.find<QPushButton>("bench_new")->click(); // a device reads into a sheet
            f.find<QAbstractButton>(action.section(QLatin1Char(' '), 1))->click();
        } else {
            f.trigger(qPrintable(action));
        }
        QTRY_VERIFY_WITH_TIMEOUT(press.came, kPatience_ms);
        QVERIFY2(all.isEmpty(), qPrintable(all.join(QLatin1Char('\n'))));
        QVERIFY(seen > 1);
    }

    void plots_say_what_stands_at_their_cursor() {
        ProjectFixture f(QStringLiteral("spoken"));
        f.wait_for_sweep();
        f.window->show_station(QStringLiteral("station_motion"));
        f.window->cursors().set_speed(7800);
        f.wait_for_redraw();
        int spoken = 0;
        for (Plot* plot : f.find<QWidget>("station_motion")->findChildren<Plot*>()) {
            if (!plot->isVisible())
                continue;
            QAccessibleInterface* face = QAccessible::queryAccessibleInterface(plot);
            QVERIFY(face && face->role() == QAccessible::Chart);
            const QString said = face->text(QAccessible::Description);
            QVERIFY2(said.contains(QRegularExpression("\\d")), qPrintable(plot->objectName() + ": " + said));
            ++spoken;
        }
        QVERIFY(spoken >= 2);
    }
};

QTEST_MAIN(TestAccess)
#include "tst_access.moc"
