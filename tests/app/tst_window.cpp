// The window as a whole: keys, help, looks, names for everything, nothing lost.
#include "app_fixture.h"

#include <QAccessible>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QStackedWidget>
#include <QTextBlock>
#include <QTextBrowser>
#include <QToolButton>
#include <algorithm>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// The rail is one stop for Tab; arrows move within it, as in any group of which one is chosen.
bool inside_rail(QWidget* w) {
    auto* button = qobject_cast<QToolButton*>(w);
    return button && button->objectName().startsWith("rail_") && !button->isChecked();
}

QString station(Fixture& f) {
    return f.window->findChild<QStackedWidget*>()->currentWidget()->objectName();
}

} // namespace

class TestWindow : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void empty_stations_say_what_they_are_for_and_offer_the_next_step() {
        Fixture f;
        QVERIFY(f.find<QPushButton>("empty_open")->isVisible());
        f.window->show_station("station_rig");
        QVERIFY(f.find<QPushButton>("empty_import")->isVisible());
        f.window->show_station("station_motion");
        QVERIFY(f.find<QPushButton>("empty_open_motion")->isVisible());
        f.window->show_station("station_train");
        f.next_path = source_path("tests/trains/ashgill-a22-intake.train.json");
        QTest::mouseClick(f.find<QPushButton>("empty_open"), Qt::LeftButton);
        QVERIFY(f.window->document().has_train());
        QCOMPARE(f.find<QLabel>("build_name")->text(), QStringLiteral("Ashgill A22 intake"));
    }

    void a_new_train_starts_valid_and_is_computed() {
        Fixture f;
        QTest::mouseClick(f.find<QPushButton>("empty_new"), Qt::LeftButton);
        QTest::mouseClick(f.find<QPushButton>("start_make"), Qt::LeftButton); // nothing known: all assumed
        QVERIFY(f.window->document().problems().empty());
        QVERIFY(f.find<QLabel>("build_state")->text().contains("draft"));
        f.few_speeds();
        f.wait_for_sweep();
        QCOMPARE(f.window->sweep().current().motions.size(), std::size_t{7});
        QVERIFY(f.window->document().train().lash_at == LashAt::LoadedRest); // as a feeler gauge reads it
    }

    void stations_have_keys_and_rail_buttons() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        for (const auto& [key, name] : {std::pair{Qt::Key_4, "station_motion"},
                                        {Qt::Key_3, "station_bench"},
                                        {Qt::Key_5, "station_plan"},
                                        {Qt::Key_6, "station_rig"},
                                        {Qt::Key_1, "station_train"}}) {
            QTest::keyClick(f.window.get(), key, Qt::ControlModifier);
            QCOMPARE(station(f), QLatin1String(name));
            QVERIFY(f.find<QToolButton>(QStringLiteral("rail_") + name)->isChecked());
        }
        QTest::mouseClick(f.find<QToolButton>("rail_station_rig"), Qt::LeftButton);
        QCOMPARE(station(f), QStringLiteral("station_rig"));
        auto* rig = f.find<QToolButton>("rail_station_rig");
        rig->setFocus();
        QTest::keyClick(rig, Qt::Key_Up);
        QTest::keyClick(f.window->focusWidget(), Qt::Key_Space);
        QCOMPARE(station(f), QStringLiteral("station_plan"));
    }

    void actions_have_ids_texts_and_shortcuts_of_their_own() {
        Fixture f;
        QStringList keys;
        for (QAction* action : f.window->actions_by_id().all()) {
            QVERIFY(!action->objectName().isEmpty() && !action->text().isEmpty());
            if (!action->shortcut().isEmpty())
                keys.push_back(action->shortcut().toString());
        }
        QVERIFY(keys.size() > 10);
        const auto all = keys.size();
        keys.removeDuplicates();
        QCOMPARE(keys.size(), all);
    }

    void help_follows_the_station() {
        Fixture f;
        auto* help = f.find<QTextBrowser>("help");
        QVERIFY(help->isHidden());
        QTest::keyClick(f.window.get(), Qt::Key_F1);
        QVERIFY(help->isVisible());
        QStringList seen;
        for (const char* name : {"station_train", "station_motion", "station_rig"}) {
            f.window->show_station(name);
            QVERIFY(help->toPlainText().size() > 400);
            seen.push_back(help->toPlainText());
        }
        seen.removeDuplicates();
        QCOMPARE(seen.size(), 3);
        QVERIFY(seen[0].contains("eye protection"));
        QVERIFY(seen[2].contains("guards"));
        QTest::keyClick(f.window.get(), Qt::Key_F1);
        QVERIFY(help->isHidden());
    }

    // Everything that takes the keyboard has a name for those who cannot see it, and Tab reaches it.
    void all_that_takes_focus_is_named_and_reachable_data() { station_rows(); }
    void all_that_takes_focus_is_named_and_reachable() {
        QFETCH(QString, name);
        ProjectFixture f(QStringLiteral("focus"));
        f.window->sweep().set_range({7000, 8600, 800});
        if (name == QStringLiteral("station_rig")) {
            f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
            f.wait_for_rig();
        }
        f.wait_for_sweep();
        {
            f.window->show_station(name);
            f.wait_for_redraw();
            QList<QWidget*> wanted;
            for (QWidget* w : f.window->findChildren<QWidget*>())
                if (w->isVisible() && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus) &&
                    !w->focusProxy() && !inside_rail(w))
                    wanted.push_back(w);
            QVERIFY(wanted.size() > 5);
            for (QWidget* w : wanted) {
                QAccessibleInterface* face = QAccessible::queryAccessibleInterface(w);
                QVERIFY2(face && !face->text(QAccessible::Name).isEmpty(),
                         qPrintable(w->objectName() + QLatin1Char(' ') + w->metaObject()->className()));
            }
            QSet<QWidget*> reached;
            f.window->strip().setFocus();
            for (int i = 0; i < 400; ++i) {
                reached.insert(f.window->focusWidget());
                QTest::keyClick(f.window->focusWidget(), Qt::Key_Tab);
            }
            for (QWidget* w : wanted)
                QVERIFY2(
                    reached.contains(w),
                    qPrintable(QStringLiteral("Tab does not reach %1 %2, and ends at %3 %4 after %5 widgets")
                                   .arg(w->objectName(), w->metaObject()->className(),
                                        f.window->focusWidget()->objectName(),
                                        f.window->focusWidget()->metaObject()->className())
                                   .arg(reached.size())));
        }
    }

    void every_station_has_help_that_leads_to_equations_and_words() {
        Fixture f;
        auto* help = f.find<QTextBrowser>("help");
        QStringList texts;
        QTest::keyClick(f.window.get(), Qt::Key_F1);
        for (const QString& name : station_names()) {
            f.window->show_station(name);
            QVERIFY2(help->toPlainText().size() > 400, qPrintable(name));
            texts.push_back(help->toPlainText());
            emit help->anchorClicked(QUrl(QStringLiteral("page:physics#7")));
            QVERIFY(help->toPlainText().contains("Bibliography"));
            QCOMPARE(help->textCursor().block().text(), QStringLiteral("7. Metrics, limits, onset"));
            emit help->anchorClicked(QUrl(QStringLiteral("page:glossary")));
            QVERIFY(help->toPlainText().contains("installed height"));
        }
        QCOMPARE(texts.removeDuplicates(), qsizetype{0});
    }

    void limits_are_chosen_by_name_with_a_reason_and_age_what_was_computed() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        f.wait_for_sweep();
        QVERIFY(f.find<QPushButton>("limits_button")->text().contains("usual"));
        const auto before = *f.window->sweep().summary();
        Press press("limits_dialog", [&](QDialog* dialog) {
            auto* accept = dialog->findChild<QPushButton*>("limits_accept");
            QVERIFY(!accept->isEnabled()); // not without a reason
            auto* name = dialog->findChild<QComboBox*>("limits_name");
            name->setCurrentText("lofts on purpose");
            emit name->activated(name->currentIndex());
            QVERIFY(!dialog->findChild<QCheckBox*>("limits_counts_contact_loss")->isChecked());
            QTest::keyClicks(dialog->findChild<QLineEdit*>("limits_reason"), "hill climb");
            QVERIFY(accept->isEnabled());
            accept->click();
        });
        f.trigger("limits");
        QVERIFY(press.came);
        QCOMPARE(f.window->document().limits().name, std::string("lofts on purpose"));
        QVERIFY(f.window->sweep().state() == SweepRunner::State::Running);
        f.wait_for_sweep();
        const SweepSummary& after = *f.window->sweep().summary();
        QCOMPARE(after.limits_name, std::string("lofts on purpose"));
        QVERIFY(!contact_loss_rpm(after.limit) && contact_loss_rpm(before.limit).has_value());
        QVERIFY(f.find<QPushButton>("limits_button")->text().contains("lofts on purpose"));
        f.trigger("undo");
        QCOMPARE(f.window->document().limits().name, std::string("usual"));
        QVERIFY(f.window->sweep().summary() == nullptr ||
                f.window->sweep().state() == SweepRunner::State::Running);
        QTRY_VERIFY_WITH_TIMEOUT(f.window->sweep().state() == SweepRunner::State::Done,
                                 2000); // kept: at once
        QCOMPARE(*f.window->sweep().summary()->limit.speed_rpm, *before.limit.speed_rpm);
    }

    void numbers_of_one_s_own_make_a_set_of_one_s_own_and_bad_ones_are_refused() {
        Fixture f;
        f.open_demo();
        f.trigger("units"); // inches on screen, the same limit in the file
        Press press("limits_dialog", [&](QDialog* dialog) {
            auto* loft = dialog->findChild<QDoubleSpinBox*>("limits_above_loft");
            NEAR(loft->value(), 0.25 / 25.4, 1e-4);
            loft->setValue(0);
            QTest::keyClicks(dialog->findChild<QLineEdit*>("limits_reason"), "mine");
            QVERIFY(!dialog->findChild<QPushButton*>("limits_accept")->isEnabled());
            QVERIFY(dialog->findChild<QLabel*>("limits_verdict")->text().contains("above 0"));
            loft->setValue(0.020);
            dialog->findChild<QPushButton*>("limits_accept")->click();
        });
        f.trigger("limits");
        QVERIFY(press.came);
        NEAR(f.window->document().limits().find("loft")->above, 0.508, 1e-4);
        QCOMPARE(f.window->document().limits().name, std::string("as chosen here"));
    }

    void light_and_dark_change_all_of_the_window() {
        Fixture f;
        f.open_demo();
        const auto brightness = [&] {
            const QImage picture =
                f.window->grab().toImage().scaled(64, 40).convertToFormat(QImage::Format_Grayscale8);
            double sum = 0;
            for (int y = 0; y < picture.height(); ++y)
                for (int x = 0; x < picture.width(); ++x)
                    sum += qGray(picture.pixel(x, y));
            return sum / (picture.width() * picture.height());
        };
        const double light = brightness();
        f.trigger("look");
        f.wait_for_redraw();
        const double dark = brightness();
        QVERIFY2(light > 200 && dark < 70, qPrintable(QStringLiteral("%1 %2").arg(light).arg(dark)));
        f.trigger("look");
    }

    void no_text_is_smaller_than_12_pixels() {
        Fixture f;
        f.open_demo();
        for (QWidget* w : f.window->findChildren<QWidget*>())
            QVERIFY2(w->font().pixelSize() >= 12, qPrintable(w->objectName()));
    }

    void opening_over_unsaved_edits_asks_first_data() {
        QTest::addColumn<int>("answer");
        QTest::addColumn<bool>("opens");
        QTest::newRow("keep") << int(Unsaved::Cancel) << false;
        QTest::newRow("discard") << int(Unsaved::Discard) << true;
        QTest::newRow("save") << int(Unsaved::Save) << true;
    }
    void opening_over_unsaved_edits_asks_first() {
        QFETCH(int, answer);
        QFETCH(bool, opens);
        Fixture f;
        f.open_demo();
        f.type("valve.mass_g", "57.5");
        const QString name = QStringLiteral("kept%1.bathmos").arg(answer),
                      path = Fixture::folder().filePath(name);
        f.unsaved = Unsaved(answer);
        f.next_path = path; // where the draft is kept; no project, so that opening it is refused after that
        f.trigger("open_train");
        QCOMPARE(f.asked.first(), QByteArray("unsaved"));
        QCOMPARE(f.asked.contains("open_train"), opens);
        QCOMPARE(QFile::exists(path), Unsaved(answer) == Unsaved::Save);
        if (Unsaved(answer) == Unsaved::Save) {
            Document saved;
            saved.open(path);
            NEAR(saved.train().valve.mass_kg, 0.0575, 1e-12);
        }
        f.next_path = source_path("tests/trains/skerrin-650-intake.train.json");
        f.trigger("open_train");
        QCOMPARE(f.window->document().train().layout == Layout::Bucket, opens);
    }

    void a_file_that_cannot_be_opened_changes_nothing_and_says_why() {
        Fixture f;
        f.open_demo();
        const Train before = f.window->document().train();
        QVERIFY(!f.window->open_train(source_path("CMakeLists.txt")));
        QVERIFY(f.window->message().contains("was not opened"));
        QVERIFY(f.window->message().contains("line 1"));
        QVERIFY(f.window->document().train() == before);
        f.next_path = "/nowhere/x.bathmos";
        f.trigger("keep_project");
        QVERIFY(f.window->message().contains("edits are still here"));
    }

    void a_draft_comes_back_after_a_kill() {
        QFile::remove(Fixture::recovery_path());
        {
            Fixture f(true);
            f.open_demo();
            f.type("valve.mass_g", "58.25");
            QVERIFY(QFile::exists(Fixture::recovery_path()));
        }
        Fixture again(true);
        NEAR(again.window->document().train().valve.mass_kg, 0.05825, 1e-12);
        QVERIFY(again.window->document().modified());
        QVERIFY(again.window->message().contains("had no name yet"));
        again.next_path = Fixture::folder().filePath("named.bathmos");
        again.trigger("keep_project");
        QVERIFY(!QFile::exists(Fixture::recovery_path()));
    }

    void a_hydraulic_train_is_computed_like_any_other() {
        Fixture f;
        f.open("tests/trains/ravenmoor-t14-intake.train.json");
        f.window->sweep().set_range({6500, 7300, 200});
        f.wait_for_sweep();
        QVERIFY(f.find<QLabel>("build_verdict")->text().contains("held open"));
    }

    void numbers_that_run_away_are_told_with_the_part() {
        Fixture f;
        f.open_demo();
        f.few_speeds();
        f.type("pushrod.damping_s", "1");
        QTRY_VERIFY_WITH_TIMEOUT(f.window->sweep().state() == SweepRunner::State::Failed, kPatience_ms);
        const QString verdict = f.find<QLabel>("build_verdict")->text();
        QVERIFY2(verdict.contains("ran away") && verdict.contains("stiffest part"), qPrintable(verdict));
        f.trigger("undo");
        f.wait_for_sweep();
    }

    void another_train_takes_the_rig_run_away() {
        Fixture f;
        f.open_demo();
        f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
        f.wait_for_rig();
        QVERIFY(f.window->rig().run());
        QVERIFY(!f.window->open_train("/nowhere.train.json"));
        QVERIFY(f.window->rig().run()); // nothing changed
        f.open("tests/trains/skerrin-650-intake.train.json");
        QVERIFY(!f.window->rig().run());
        for (const StripMark& m : f.window->strip().marks())
            QVERIFY(m.kind != StripMark::Kind::RigOnset && m.kind != StripMark::Kind::RigLimit);
    }

    void the_window_keeps_to_a_laptop_s_width_while_it_computes() {
        Fixture f;
        f.window->resize(1280, 800);
        f.open_demo();
        f.type("name", "A name as long as they come in a shop that writes down everything that was changed "
                       "since last winter");
        QTRY_VERIFY(!f.window->sweep().current().motions.empty());
        QCOMPARE(f.window->width(), 1280);
        QVERIFY(f.window->minimumSizeHint().width() <= 1280);
    }

    void closing_while_everything_runs_is_safe() {
        Fixture f;
        f.open_demo();
        f.window->rig().import(source_path("demo/ashgill-a22-intake-after.rig.csv"));
        QVERIFY(f.window->rig().state() == RigSession::State::Running);
        QVERIFY(f.window->sweep().state() == SweepRunner::State::Running);
        const QPointer<MainWindow> window = f.window.get();
        f.window.reset(); // stops and waits
        QVERIFY(window.isNull());
        QCoreApplication::processEvents(); // nothing of it is delivered to what is gone
        QVERIFY(QApplication::topLevelWidgets().isEmpty());
    }

    void the_sweep_range_is_edited_in_the_build_bar() {
        Fixture f;
        f.open_demo();
        auto* last = f.find<QWidget>("sweep_last");
        last->setFocus();
        QTest::keyClick(last, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(last, "6000");
        QTest::keyClick(last, Qt::Key_Return);
        NEAR(f.window->sweep().range().last_rpm, 6000, 0);
        f.wait_for_sweep();
        NEAR(f.window->sweep().current().motions.rbegin()->first, 6000, 0);
    }
};

QTEST_MAIN(TestWindow)
#include "tst_window.moc"
