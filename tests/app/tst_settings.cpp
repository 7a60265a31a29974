// What a user chooses for the window: kept, shown in one table, in force at once or at the next start; keys
// of one's own; print.
#include "app_fixture.h"

#include "app/settings/settings_dialog.h"
#include "app/shell/print_page.h"
#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"

#include <QKeySequenceEdit>
#include <QLabel>
#include <QPrinter>
#include <QScrollArea>
#include <QScrollBar>
#include <array>
#include <cmath>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// What somebody sees who has one of three kinds of cones less, by linear RGB [Machado 2009, severity 1].
using Matrix = std::array<std::array<double, 3>, 3>;
const std::vector<Matrix> kEyes = {
    {{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}},
    {{{0.152286, 1.052583, -0.204868}, {0.114503, 0.786281, 0.099216}, {-0.003882, -0.048116, 1.051998}}},
    {{{0.367322, 0.860646, -0.227968}, {0.280085, 0.672501, 0.047413}, {-0.011820, 0.042940, 0.968881}}},
    {{{1.255528, -0.076749, -0.178779}, {-0.078411, 0.930809, 0.147602}, {0.004733, 0.691367, 0.303900}}}};

std::array<double, 3> lab(const QColor& colour, const Matrix& eye) {
    const auto linear = [](double c) {
        return c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4);
    };
    const std::array<double, 3> rgb = {linear(colour.redF()), linear(colour.greenF()),
                                       linear(colour.blueF())};
    const auto times = [](const Matrix& m, const std::array<double, 3>& v) {
        std::array<double, 3> out{};
        for (std::size_t i = 0; i < 3; ++i)
            out[i] = m[i][0] * v[0] + m[i][1] * v[1] + m[i][2] * v[2];
        return out;
    };
    std::array<double, 3> seen = times(eye, rgb);
    for (double& one : seen)
        one = std::clamp(one, 0.0, 1.0);
    const std::array<double, 3> xyz =
        times({{{0.4124, 0.3576, 0.1805}, {0.2126, 0.7152, 0.0722}, {0.0193, 0.1192, 0.9505}}}, seen);
    const auto f = [](double t) { return t > 0.008856 ? std::cbrt(t) : 7.787 * t + 16.0 / 116; };
    const double x = f(xyz[0] / 0.9505), y = f(xyz[1]), z = f(xyz[2] / 1.089);
    return {116 * y - 16, 500 * (x - y), 200 * (y - z)};
}

double least_difference(Look look, Colours colours) {
    const std::vector<Role> roles = {Role::Kinematic, Role::Predicted, Role::Measured,
                                     Role::Third,     Role::LimitMark, Role::StopMark};
    double least = 1e9;
    for (const Matrix& eye : kEyes)
        for (std::size_t a = 0; a < roles.size(); ++a)
            for (std::size_t b = 0; b < a; ++b) {
                const auto p = lab(color_of(roles[a], look, colours), eye),
                           q = lab(color_of(roles[b], look, colours), eye);
                least = std::min(least, std::hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]));
            }
    return least;
}

void choose(const QDialog& dialog, const char* box, int index) {
    auto* combo = find_in<QComboBox>(dialog, QStringLiteral("setting_") + QLatin1String(box));
    combo->setCurrentIndex(index);
    emit combo->activated(index);
}

void choose_action(const QDialog& dialog, const QString& id) {
    auto* table = find_in<QTableWidget>(dialog, "keys_table");
    for (int row = 0; row < table->rowCount(); ++row)
        if (table->item(row, 0)->data(Qt::UserRole).toString() == id)
            return table->setCurrentCell(row, 0);
    QFAIL(qPrintable(id));
}

void give_keys(const QDialog& dialog, const QString& id, const QKeySequence& keys) {
    choose_action(dialog, id);
    find_in<QKeySequenceEdit>(dialog, "keys_new")->setKeySequence(keys);
    find_in<QPushButton>(dialog, "keys_give")->click();
}

} // namespace

class TestSettings : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void what_was_chosen_comes_back_and_what_cannot_be_is_as_usual() {
        QTemporaryDir folder;
        const QString path = folder.filePath("s.ini");
        Settings chosen;
        chosen.language = QStringLiteral("de");
        chosen.look = LookChoice::Dark;
        chosen.colours = Colours::Apart;
        chosen.text_percent = 150;
        chosen.decimal = DecimalSign::Comma;
        chosen.units = UnitSystem::Inch;
        chosen.units.set(Quantity::Force, UnitSystem::Metric);
        chosen.keys = {{"find", QKeySequence("Ctrl+Alt+F")}, {"print", {}}};
        {
            QSettings to(path, QSettings::IniFormat);
            write_settings(chosen, to);
        }
        QSettings kept(path, QSettings::IniFormat);
        QVERIFY(read_settings(kept) == chosen);
        write_settings(Settings{}, kept); // what was chosen before is not left over
        QVERIFY(read_settings(kept) == Settings{});
        kept.setValue("window/text_percent", 137);
        kept.setValue("window/look", "purple");
        kept.setValue("window/language", "xx");
        kept.setValue("units/length", 3);
        QVERIFY(read_settings(kept) == Settings{});
    }

    void language_and_decimal_sign_follow_the_desktop_until_chosen() {
        Settings s;
        QCOMPARE(language_of(s, QLocale("de_AT")), QStringLiteral("de"));
        QCOMPARE(language_of(s, QLocale("fr_FR")), QStringLiteral("en"));
        QCOMPARE(locale_of(s, QLocale("de_AT")).toString(1234.5), QStringLiteral("1234,5"));
        QCOMPARE(locale_of(s, QLocale("fr_FR")).toString(1234.5), QStringLiteral("1234.5"));
        s.language = QStringLiteral("en");
        QCOMPARE(locale_of(s, QLocale("de_AT")).decimalPoint(), QStringLiteral("."));
        s.decimal = DecimalSign::Comma;
        QCOMPARE(locale_of(s, QLocale("de_AT")).decimalPoint(), QStringLiteral(","));
    }

    void colours_are_told_apart_with_two_kinds_of_cones_too() {
        for (const Look look : {Look::Light, Look::Dark}) {
            const double usual = least_difference(look, Colours::Usual),
                         apart = least_difference(look, Colours::Apart);
            QVERIFY2(apart >= 19.5 && apart > 2 * usual,
                     qPrintable(QStringLiteral("%1 %2").arg(usual).arg(apart)));
            for (const Role role :
                 {Role::Predicted, Role::Measured, Role::Third, Role::LimitMark, Role::StopMark})
                for (const Role back : {Role::Paper, Role::Panel})
                    QVERIFY(contrast(color_of(role, look, Colours::Apart), color_of(back, look)) >= 4.5);
        }
    }

    void every_setting_stands_in_one_table_and_is_found_by_its_words() {
        ActionRegistry actions;
        SettingsDialog dialog({}, actions, {});
        auto* table = find_in<QTableWidget>(dialog, "settings_table");
        QCOMPARE(table->rowCount(), 7 + int(setting_quantities().size()));
        for (int row = 0; row < table->rowCount(); ++row) {
            QVERIFY(!table->item(row, 0)->text().isEmpty() && !table->item(row, 2)->text().isEmpty());
            QVERIFY(!table->cellWidget(row, 1)->accessibleName().isEmpty());
        }
        find_in<QLineEdit>(dialog, "settings_find")->setText("torq");
        int seen = 0;
        for (int row = 0; row < table->rowCount(); ++row)
            seen += !table->isRowHidden(row);
        QCOMPARE(seen, 1);
        QVERIFY(dialog.chosen() == Settings{});
        QVERIFY(find_in<QLabel>(dialog, "settings_later")->isHidden());
        choose(dialog, "text_size", 3);
        QVERIFY(!find_in<QLabel>(dialog, "settings_later")->isHidden());
        QCOMPARE(dialog.chosen().text_percent, 150);
        QVERIFY(!find_in<QPushButton>(dialog, "setting_limits")->isEnabled()); // nothing is open
    }

    void one_quantity_may_have_the_other_system_s_unit() {
        Fixture f;
        f.open_demo();
        Press press1("settings_dialog", [](QDialog* shown) {
            const QDialog& dialog = *shown;
            choose(dialog, "units", 1);
            choose(dialog, "unit_stiffness", 0);
            find_in<QPushButton>(dialog, "settings_accept")->click();
        });
        f.trigger("settings");
        DisplayUnits& units = f.window->units();
        QCOMPARE(units.unit_name(Quantity::Length), QStringLiteral("in"));
        QCOMPARE(units.unit_name(Quantity::Stiffness), QStringLiteral("N/mm"));
        f.wait_for_redraw();
        auto* table = f.find<NumberTable>("train_figures");
        QString rate_unit, length_unit;
        for (int row = 0; row < table->rowCount(); ++row) {
            if (table->cell(row, 0).startsWith("Stiffness at the valve"))
                rate_unit = table->cell(row, 2);
            if (table->cell(row, 2) == QStringLiteral("in"))
                length_unit = table->cell(row, 2);
        }
        QCOMPARE(rate_unit, QStringLiteral("N/mm"));
        QCOMPARE(length_unit, QStringLiteral("in"));
        f.trigger("units"); // and the key brings all of them back at once
        QVERIFY(units.choice() == UnitChoice(UnitSystem::Metric));
    }

    void cancel_changes_nothing() {
        Fixture f;
        Press press2("settings_dialog", [](QDialog* shown) {
            const QDialog& dialog = *shown;
            choose(dialog, "look", 2);
            choose(dialog, "units", 1);
            shown->reject();
        });
        f.trigger("settings");
        QVERIFY(f.window->theme().look() == Look::Light);
        QVERIFY(f.window->units().system() == UnitSystem::Metric);
    }

    void looks_and_colours_are_in_force_at_once() {
        Fixture f;
        Press press3("settings_dialog", [](QDialog* shown) {
            const QDialog& dialog = *shown;
            choose(dialog, "look", 2);
            choose(dialog, "colours", 1);
            find_in<QPushButton>(dialog, "settings_accept")->click();
        });
        f.trigger("settings");
        QVERIFY(f.window->theme().look() == Look::Dark);
        QCOMPARE(f.window->theme().color(Role::Measured),
                 color_of(Role::Measured, Look::Dark, Colours::Apart));
        f.trigger("look");
        QVERIFY(f.window->theme().look() == Look::Light);
    }

    void keys_of_one_s_own_run_their_action_and_never_take_another_s() {
        Fixture f;
        f.open_demo();
        Press press4("settings_dialog", [](QDialog* shown) {
            const QDialog& dialog = *shown;
            give_keys(dialog, "go_station_log", QKeySequence("Ctrl+K"));
            CONTAINS(find_in<QLabel>(dialog, "keys_told")->text().toStdString(),
                     "belongs to \"Find an action");
            QVERIFY(!find_in<QPushButton>(dialog, "keys_give")->isEnabled());
            give_keys(dialog, "go_station_log", QKeySequence("Ctrl+K, Ctrl+L")); // would never be heard
            CONTAINS(find_in<QLabel>(dialog, "keys_told")->text().toStdString(), "belongs to");
            give_keys(dialog, "go_station_log", QKeySequence("Ctrl+Alt+J"));
            choose_action(dialog, "find");
            find_in<QPushButton>(dialog, "keys_none")->click();
            give_keys(dialog, "units", QKeySequence("Ctrl+K")); // free now
            find_in<QPushButton>(dialog, "settings_accept")->click();
        });
        f.trigger("settings");
        f.window->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(f.window.get()));
        QTest::keyClick(f.window.get(), Qt::Key_J, Qt::ControlModifier | Qt::AltModifier);
        QCOMPARE(f.window->findChild<QStackedWidget*>()->currentWidget()->objectName(),
                 QStringLiteral("station_log"));
        QTest::keyClick(f.window.get(), Qt::Key_K, Qt::ControlModifier);
        QVERIFY(f.window->units().system() == UnitSystem::Inch);
        CONTAINS(f.window->actions_by_id().find("go_station_log")->toolTip().toStdString(), "Ctrl+Alt+J");
        Press press5("settings_dialog", [](QDialog* shown) {
            const QDialog& dialog = *shown;
            choose_action(dialog, "units");
            find_in<QPushButton>(dialog, "keys_usual")->click();
            choose_action(dialog, "find");
            find_in<QPushButton>(dialog, "keys_usual")->click();
            find_in<QPushButton>(dialog, "settings_accept")->click();
        });
        f.trigger("settings");
        QCOMPARE(f.window->actions_by_id().find("find")->shortcut(), QKeySequence("Ctrl+K"));
        QCOMPARE(f.window->actions_by_id().find("units")->shortcut(), QKeySequence("Ctrl+U"));
    }

    void numbers_have_the_decimal_sign_that_was_chosen_and_both_are_read() {
        const QLocale before;
        Settings comma;
        comma.decimal = DecimalSign::Comma;
        QLocale::setDefault(locale_of(comma, QLocale::c()));
        {
            QCOMPARE(fixed(1234.5, 1), QStringLiteral("1234,5"));
            QCOMPARE(digits(0.25, 3), QStringLiteral("0,25"));
            Fixture f;
            f.open_demo();
            auto* lash = f.find<QLineEdit>("lash_mm");
            QCOMPARE(lash->text(), QStringLiteral("0,3"));
            for (const auto& [typed, lash_m] : {std::pair{"0,35", 0.35e-3}, {"0.4", 0.4e-3}}) {
                lash->setFocus();
                lash->selectAll();
                QTest::keyClicks(lash, QLatin1String(typed));
                QTest::keyClick(lash, Qt::Key_Return);
                NEAR(f.window->document().train().lash_m, lash_m, 1e-12);
            }
            f.wait_for_redraw();
            const QString copied = f.find<NumberTable>("train_figures")->as_text();
            QVERIFY(copied.contains(QRegularExpression("\\d,\\d")));
            QVERIFY2(!copied.contains(QRegularExpression("\\d\\.\\d")), qPrintable(copied));
        }
        QLocale::setDefault(before);
    }

    void a_station_is_printed_on_one_page_with_what_it_belongs_to() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        f.wait_for_sweep();
        f.window->show_station("station_motion");
        f.wait_for_redraw();
        const QString path = f.folder().filePath("page.pdf");
        f.print_to = path;
        f.trigger("look"); // dark, and so the window stays
        f.trigger("print");
        QVERIFY(f.window->theme().look() == Look::Dark);
        QFile file(path);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QByteArray bytes = file.readAll();
        QVERIFY(bytes.startsWith("%PDF"));
        QCOMPARE(bytes.count("/Type /Page\n"), 1);
        QVERIFY2(bytes.size() > 20000, qPrintable(QString::number(bytes.size())));
        f.trigger("look");
        f.print_to = f.folder().filePath("no/such/folder/page.pdf");
        f.trigger("print");
        CONTAINS(f.window->message().toStdString(), "Nothing was printed");
        f.print_to.clear(); // and who changes their mind prints nothing
        f.trigger("print");
        QCOMPARE(f.asked.count("choose_printer"), 3);
    }

    void what_is_printed_out_of_the_dark_look_is_drawn_as_on_light_paper() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        f.wait_for_sweep();
        f.window->show_station("station_motion");
        f.window->theme().set_look(Look::Dark);
        f.wait_for_redraw();
        const auto printed = [&] {
            QImage page(1200, 800, QImage::Format_RGB32);
            page.fill(Qt::white);
            print_view(*f.find<QWidget>("station_motion"), f.window->theme(), {"title", "under", "caution"},
                       page);
            return page;
        };
        const QImage at_once = printed();
        f.window->theme().set_look(Look::Light);
        f.wait_for_redraw();
        QTest::qWait(50); // the plots' own queue
        QVERIFY(at_once == printed());
    }

    void what_a_small_screen_has_no_room_for_is_reached_by_scrolling() {
        Fixture f;
        f.open_demo();
        f.window->resize(700, 420);
        QTest::qWait(20);
        auto* room = f.find<QScrollArea>("page_room");
        QVERIFY(f.window->width() <= 720 && f.window->height() <= 440);
        QVERIFY(room->verticalScrollBar()->maximum() > 100);
        QVERIFY(room->widget()->height() >= room->widget()->minimumSizeHint().height());
        f.window->strip().setFocus(Qt::TabFocusReason);
        room->ensureWidgetVisible(&f.window->strip());
        QVERIFY(!f.window->strip().visibleRegion().isEmpty());
        f.window->resize(1280, 800);
        QTest::qWait(20);
        QCOMPARE(room->verticalScrollBar()->maximum(), 0);
        QCOMPARE(room->horizontalScrollBar()->maximum(), 0);
        f.trigger("help"); // over the station's edge, where there is no room beside it
        QTest::qWait(20);
        QCOMPARE(room->horizontalScrollBar()->maximum(), 0);
        auto* help = f.find<QWidget>("help");
        auto* station = f.find<QWidget>("station_train");
        QVERIFY(help->isVisible() && help->mapTo(room->widget(), QPoint()).x() > 900);
        QVERIFY(station->mapTo(room->widget(), QPoint(station->width(), 0)).x() > 1200);
        f.window->resize(1700, 800);
        QTest::qWait(20);
        QVERIFY(station->mapTo(room->widget(), QPoint(station->width(), 0)).x() <=
                help->mapTo(room->widget(), QPoint()).x());
    }
};

QTEST_MAIN(TestSettings)
#include "tst_settings.moc"
