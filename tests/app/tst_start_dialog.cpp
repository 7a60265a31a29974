// A new train from what somebody has, typed as at a bench, and the marks that stay until it is measured.
#include "app/start/known_number.h"
#include "app/start/lobe_form.h"
#include "app/widgets/fold.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/train_outline.h"
#include "app_fixture.h"
#include "core/train/assumed.h"
#include "io/train/known_json.h"

#include <QCheckBox>
#include <QLabel>
#include <QPlainTextEdit>
#include <QToolButton>

using namespace bathmos;
using namespace bathmos::test;

namespace {

StartDialog* opened(Fixture& f) {
    f.trigger("new_train");
    StartDialog* dialog = f.window->guide().dialog();
    if (!dialog)
        qFatal("the page does not open");
    dialog->estimate().set_trains(8);
    return dialog;
}

void type_into(QDialog* dialog, const char* name, const char* text) {
    auto* edit = find_in<QLineEdit>(*dialog, QLatin1String(name));
    edit->setFocus();
    edit->selectAll();
    if (*text == 0)
        QTest::keyClick(edit, Qt::Key_Delete);
    QTest::keyClicks(edit, QLatin1String(text));
}

QString words_of(QDialog* dialog, const char* name) {
    return find_in<QLabel>(*dialog, QLatin1String(name))->text();
}

bool assumed(const Train& train, const std::string& key) {
    for (const AssumedNumber& one : assumed_numbers(train))
        if (one.key == key)
            return true;
    return false;
}

void make(Fixture& f) {
    QTest::keyClick(f.window->guide().dialog(), Qt::Key_Return, Qt::ControlModifier);
}

} // namespace

class TestStartDialog : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    // From the cold to a limit with its band, by keys alone; Tab and Enter go from number to number.
    void a_train_is_typed_from_the_cold_to_a_limit_with_its_band() {
        Fixture f;
        QTest::keyClick(f.window.get(), Qt::Key_N, Qt::ControlModifier);
        StartDialog* dialog = opened(f); // which it is already
        const auto focused = [&] { return dialog->focusWidget()->objectName(); };
        QCOMPARE(focused(), QStringLiteral("known_name"));
        QTest::keyClicks(dialog->focusWidget(), QStringLiteral("Bench four"));
        const std::vector<std::pair<const char*, const char*>> typed = {
            {"known_valve.head_diameter_mm", "44"},
            {"known_valve.mass_g", "88"},
            {"known_installed_height_mm", "42"},
            {"known_spring.seat_load_N", "420"},
            {"known_spring.open_load_N", "1050"},
            {"card_lift", "12.7"},
            {"card_duration_0", "248"},
            {"known_rocker.ratio", "1.55"},
            {"known_lash_mm", "0.3"},
            {"known_engine.target_rpm", "8600"}};
        for (const auto& [name, text] : typed) {
            for (int presses = 0; focused() != QLatin1String(name) && presses < 40; ++presses)
                QTest::keyClick(dialog->focusWidget(), qobject_cast<QLineEdit*>(dialog->focusWidget())
                                                           ? Qt::Key_Return
                                                           : Qt::Key_Tab);
            QCOMPARE(focused(), QLatin1String(name));
            QTest::keyClicks(dialog->focusWidget(), QLatin1String(text));
        }
        QTRY_VERIFY_WITH_TIMEOUT(dialog->estimate().band() && !dialog->estimate().running(), kPatience_ms);
        QVERIFY(words_of(dialog, "start_limit").contains("rev/min, from"));
        make(f);
        QVERIFY(f.window->document().has_train());
        const Train& train = f.window->document().train();
        QCOMPARE(train.name, std::string("Bench four"));
        NEAR(train.valve.mass_kg, 0.088, 1e-12);
        NEAR(f.window->document().rigid()->peak_m(), 12.7e-3, 1e-6);
        NEAR(f.window->document().target_rpm(), 8600, 0);
        QVERIFY(!assumed(train, "valve.mass_g") && assumed(train, "pushrod.mass_g"));
        f.few_speeds();
        f.wait_for_sweep();
        f.window->uncertainty().set_trains(8);
        f.window->uncertainty().start();
        QTRY_VERIFY_WITH_TIMEOUT(f.window->uncertainty().uncertainty() && !f.window->uncertainty().running(),
                                 kPatience_ms);
        QVERIFY(f.window->strip().accessibleName().contains("model limit over tolerances"));
    }

    void what_is_not_known_shows_what_stands_for_it() {
        Fixture f;
        StartDialog* dialog = opened(f);
        auto* mass = find_in<QLineEdit>(*dialog, "known_valve.mass_g");
        QVERIFY(mass->text().isEmpty());
        QVERIFY(mass->placeholderText().startsWith("? "));
        type_into(dialog, "known_valve.head_diameter_mm", "30");
        type_into(dialog, "known_valve.stem_diameter_mm", "5.5"); // 0.0065 x 30 x 30 x 5.5 = 32.2 g
        QCOMPARE(mass->placeholderText(), QStringLiteral("? 32.2 ± 9.65"));
        type_into(dialog, "known_valve.mass_g", "38");
        QCOMPARE(dialog->known().number("valve.mass_g").value_or(0), 0.038);
        auto* table = find_in<NumberTable>(*dialog, "start_assumed");
        for (int row = 0; row < table->rowCount(); ++row)
            QVERIFY(table->cell(row, 0) != QStringLiteral("Valve mass"));
        QCOMPARE(table->cell(table->rowCount() - 1, 4).isEmpty(), false); // its rule
    }

    void a_number_that_cannot_be_is_told_and_its_correction_taken() {
        Fixture f;
        StartDialog* dialog = opened(f);
        auto* button = find_in<QPushButton>(*dialog, "start_make");
        QVERIFY(button->isEnabled());
        type_into(dialog, "known_spring.seat_load_N", "500");
        type_into(dialog, "known_spring.open_load_N", "40");
        QVERIFY(!button->isEnabled());
        QVERIFY(words_of(dialog, "start_words").contains("Load at full lift"));
        QTest::keyClick(dialog, Qt::Key_Return, Qt::ControlModifier);
        QVERIFY(!f.window->document().has_train());
        type_into(dialog, "known_spring.open_load_N", "1100");
        QVERIFY(button->isEnabled());
        QVERIFY(!find_in<QLabel>(*dialog, "start_words")->isVisible());
        type_into(dialog, "known_valve.mass_g", "abc");
        QVERIFY(!button->isEnabled());
        QVERIFY(words_of(dialog, "start_words").contains("\"abc\" is not a number"));
        type_into(dialog, "known_valve.mass_g", "-4");
        QVERIFY(words_of(dialog, "start_words").contains("must be above 0"));
        type_into(dialog, "known_valve.mass_g", "");
        QVERIFY(button->isEnabled());
        type_into(dialog, "card_duration_0", "248");
        type_into(dialog, "card_duration_1", "200"); // shorter at 0.5 mm than at 1.27
        QVERIFY(words_of(dialog, "start_words").contains("no shorter than"));
        QVERIFY(!button->isEnabled());
    }

    void another_layout_asks_for_its_own_numbers_and_keeps_the_rest() {
        Fixture f;
        StartDialog* dialog = opened(f);
        type_into(dialog, "known_valve.mass_g", "29");
        type_into(dialog, "known_pushrod.length_mm", "212");
        QTest::mouseClick(find_in<QToolButton>(*dialog, "layout_bucket"), Qt::LeftButton);
        QVERIFY(!dialog->findChild<QLineEdit*>("known_pushrod.length_mm"));
        QVERIFY(!dialog->findChild<QLineEdit*>("known_rocker.ratio"));
        QCOMPARE(find_in<QLineEdit>(*dialog, "known_valve.mass_g")->text(), QStringLiteral("29"));
        QVERIFY(!dialog->known().number("pushrod.length_mm"));
        find_in<QCheckBox>(*dialog, "known_hydraulic")->click();
        QVERIFY(!dialog->findChild<QLineEdit*>("known_lash_mm"));
        make(f);
        QVERIFY(f.window->document().train().layout == Layout::Bucket);
        QVERIFY(f.window->document().train().hydraulic());
        QVERIFY(f.window->document().train().lobe.follower == FollowerKind::Flat);
        QVERIFY(f.window->document().problems().empty());
    }

    void inches_are_the_same_numbers() {
        Fixture f;
        StartDialog* dialog = opened(f);
        type_into(dialog, "known_installed_height_mm", "42");
        type_into(dialog, "card_lift", "12.7");
        type_into(dialog, "card_duration_0", "250");
        const KnownTrain before = dialog->known();
        f.window->units().set_system(UnitSystem::Inch);
        QCOMPARE(find_in<QLineEdit>(*dialog, "card_lift")->text(), QStringLiteral(".5"));
        NEAR(find_in<QLineEdit>(*dialog, "known_installed_height_mm")->text().toDouble(), 1.65354, 1e-4);
        NEAR(std::get<LobeCard>(dialog->known().lobe).lift_m.value_or(0), 12.7e-3, 1e-9);
        type_into(dialog, "card_lift", "0.55");
        NEAR(std::get<LobeCard>(dialog->known().lobe).lift_m.value_or(0), 0.55 * kInch_m, 1e-9);
        NEAR(dialog->known().number("installed_height_mm").value_or(0), 42e-3, 1e-9);
        NEAR(std::get<LobeCard>(dialog->known().lobe).durations.at(0).height_m, 1.27e-3, 1e-7);
        f.window->units().set_system(UnitSystem::Metric);
    }

    void readings_by_hand_make_the_lobe() {
        Fixture f;
        StartDialog* dialog = opened(f);
        auto* tabs = find_in<QTabWidget>(*dialog, "known_lobe");
        tabs->setCurrentIndex(1);
        const LobeCurve truth = curve_of(starter_train().lobe);
        QString text;
        for (int deg = -180; deg < 180; deg += 5)
            text += QStringLiteral("%1 %2\n").arg(deg).arg(truth.at(radians(deg)) * 1e3, 0, 'f', 3);
        find_in<QPlainTextEdit>(*dialog, "readings")->setPlainText(text);
        QVERIFY(find_in<QPushButton>(*dialog, "start_make")->isEnabled());
        make(f);
        const Train& train = f.window->document().train();
        QVERIFY(std::holds_alternative<LobeTable>(train.lobe.shape));
        NEAR(curve_of(train.lobe).lift_m(), 8e-3, 0.02e-3);
        QVERIFY(!assumed(train, "lobe.analytic.lift_mm"));
    }

    void a_page_that_is_filled_anew_shows_what_it_was_filled_with() {
        Fixture f;
        StartDialog* dialog = opened(f);
        KnownTrain read;
        LobeTable table;
        for (int deg = -180; deg < 180; deg += 5) {
            table.angle.push_back(deg);
            table.lift.push_back(curve_of(starter_train().lobe).at(radians(deg)) * 1e3);
        }
        read.lobe = table;
        dialog->show_known(read);
        auto* tabs = find_in<QTabWidget>(*dialog, "known_lobe");
        QCOMPARE(tabs->currentIndex(), 1);
        f.window->units().toggle(); // readings have their own unit
        QCOMPARE(tabs->currentIndex(), 1);
        QVERIFY(std::get<LobeTable>(dialog->known().lobe) == table);
        f.window->units().toggle();
        KnownTrain card;
        card.lobe = LobeCard{11e-3, true, {{1.27e-3, radians(244), false}}};
        dialog->show_known(card);
        QCOMPARE(tabs->currentIndex(), 0);
        type_into(dialog, "known_valve.mass_g", "80"); // the page is read: the readings are gone
        QVERIFY(std::get<LobeCard>(dialog->known().lobe) == std::get<LobeCard>(card.lobe));
    }

    void what_was_typed_is_there_when_the_page_opens_again() {
        Fixture f;
        StartDialog* dialog = opened(f);
        type_into(dialog, "known_valve.mass_g", "77");
        type_into(dialog, "card_lift", "11");
        find_in<QComboBox>(*dialog, "known_nested")->setCurrentIndex(1);
        emit find_in<QComboBox>(*dialog, "known_nested")->activated(1);
        QTest::keyClick(dialog, Qt::Key_Escape);
        QVERIFY(!f.window->document().has_train());
        QTRY_VERIFY(!f.window->guide().dialog());
        dialog = opened(f);
        QCOMPARE(find_in<QLineEdit>(*dialog, "known_valve.mass_g")->text(), QStringLiteral("77"));
        QCOMPARE(find_in<QLineEdit>(*dialog, "card_lift")->text(), QStringLiteral("11"));
        QCOMPARE(dialog->known().nested, 2);
        make(f);
        QTRY_VERIFY(!f.window->guide().dialog());
        QVERIFY(find_in<QLineEdit>(*opened(f), "known_valve.mass_g")->text().isEmpty()); // it made its train
    }

    void a_draft_with_edits_is_asked_about_before_another_train_takes_its_place() {
        Fixture f;
        opened(f);
        make(f);
        f.type("valve.mass_g", "91");
        QTRY_VERIFY(!f.window->guide().dialog());
        type_into(opened(f), "known_valve.mass_g", "50");
        f.unsaved = Unsaved::Cancel;
        make(f);
        QVERIFY(f.asked.contains("unsaved"));
        NEAR(f.window->document().train().valve.mass_kg, 0.091, 1e-12);
    }

    // ---- the marks in the form

    void the_form_marks_assumed_numbers_until_somebody_types_one() {
        Fixture f;
        opened(f);
        make(f);
        const auto field = [&](const char* key) {
            for (NumberField* one : f.window->findChildren<NumberField*>())
                if (one->edit()->objectName() == QLatin1String(key))
                    return one;
            return static_cast<NumberField*>(nullptr);
        };
        QCOMPARE(field("valve.mass_g")->source_sign(), QStringLiteral("?"));
        QCOMPARE(field("contacts.seat.stiffness_N_per_mm")->source_sign(), QStringLiteral("≈"));
        QVERIFY(field("valve.mass_g")->edit()->accessibleDescription().contains("assumed, ± "));
        const auto loads_marked = [&] { // nobody pressed the springs
            for (QLabel* label : f.window->findChildren<QLabel*>())
                if (label->text().startsWith("height   load") && label->text().contains("? assumed, ± 35 %"))
                    return true;
            return false;
        };
        QVERIFY(loads_marked());
        const std::set<std::string> dotted = assumed_parts(f.window->document().train());
        QVERIFY(dotted.contains("valve") && dotted.contains("pushrod") && dotted.contains("springs"));
        f.type("valve.mass_g", "91");
        QCOMPARE(field("valve.mass_g")->source_sign(), QStringLiteral("●"));
        QVERIFY(!assumed(f.window->document().train(), "valve.mass_g"));
        auto* loads = f.find<QPlainTextEdit>("springs[0].load_table");
        loads->setPlainText("30 900\n35 700\n42 400\n");
        QVERIFY(!loads_marked());
        f.trigger("undo");
        QVERIFY(loads_marked());
        f.trigger("undo");
        QCOMPARE(field("valve.mass_g")->source_sign(), QStringLiteral("?"));
        QVERIFY(assumed(f.window->document().train(), "valve.mass_g"));
    }

    void a_sign_opens_the_numbers_tolerance() {
        Fixture f;
        f.open_demo();
        auto* edit = f.find<QLineEdit>("pushrod.mass_g");
        edit->setFocus();
        QTest::keyClick(edit, Qt::Key_Down, Qt::AltModifier);
        auto* popup = f.find<QFrame>("tolerance_popup");
        auto* source = find_in<QComboBox>(*popup, "popup_source");
        const int sheet = source->findText("sheet");
        source->setCurrentIndex(sheet);
        emit source->activated(sheet);
        auto* off = find_in<QLineEdit>(*popup, "popup_plus_minus");
        off->selectAll();
        QTest::keyClicks(off, QStringLiteral("2.5"));
        const Tolerance kept = f.window->document().train().tolerances.at("pushrod.mass_g");
        QVERIFY(kept.source == Source::Sheet);
        NEAR(kept.plus_minus, 2.5e-3, 1e-12);
        popup->close();
    }

    void groups_fold_and_open_for_a_part_that_was_chosen() {
        Fixture f;
        opened(f);
        make(f);
        auto* heading = f.find<QPushButton>("fold_pushrod");
        QVERIFY(heading->text().contains("assumed"));
        QVERIFY(f.find<QLineEdit>("pushrod.mass_g")->isVisible());
        heading->setFocus();
        QTest::keyClick(heading, Qt::Key_Space);
        QVERIFY(!f.find<QLineEdit>("pushrod.mass_g")->isVisible());
        f.type("valve.mass_g", "90"); // the form is shown anew; the group stays as it was
        QVERIFY(!f.find<QLineEdit>("pushrod.mass_g")->isVisible());
        auto* form = f.window->findChild<QScrollArea*>("train_form");
        QVERIFY(form);
        auto* view = f.find<QWidget>("train_view");
        view->setFocus();
        for (int i = 0; i < 12 && !f.find<QLineEdit>("pushrod.mass_g")->isVisible(); ++i)
            QTest::keyClick(view, Qt::Key_Down);
        QVERIFY(f.find<QLineEdit>("pushrod.mass_g")->isVisible());
    }
};

QTEST_MAIN(TestStartDialog)
#include "tst_start_dialog.moc"
