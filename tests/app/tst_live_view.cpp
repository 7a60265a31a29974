// Rig, Live, through the window: the stand-in from a click, the caution before the first start, a programme,
// turns over what was asked, the recording kept as a run; an address that is none.
#include "app/app_fixture.h"
#include "app/speaker.h"
#include "app/stations/rig/live_devices.h"
#include "app/stations/rig/live_view.h"
#include "app/stations/rig/programme_table.h"
#include "app/widgets/remembered.h"
#include "io/live/recording.h"
#include "session/live/programme_record.h"
#include "session/plan/campaign_record.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDate>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QTabWidget>
#include <QTableWidget>

using namespace bathmos;
using namespace bathmos::test;

namespace {

class Live : public Fixture {
  public:
    Live() {
        few_speeds();
        open_demo();
        window->show_station(QStringLiteral("station_rig"));
        click("empty_live"); // no run is loaded: the next step is offered
        wait_for_redraw();
    }
    const LiveRunner& runner() { return window->findChild<LiveView*>()->runner(); }
    void click(const char* name) {
        QTest::mouseClick(find<QPushButton>(name), Qt::LeftButton);
        wait_for_redraw();
    }
    bool until(const std::function<bool(const session::LiveSnapshot&)>& so) {
        return QTest::qWaitFor([&] { return so(runner().now()); }, 120'000);
    }
};

} // namespace

class TstLiveView : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        prepare_application();
        cleanup(); // whoever used this machine before
    }
    void cleanup() {
        remembered().remove(QStringLiteral("live"));
        remembered().remove(QStringLiteral("instruments"));
    }

    void the_stand_in_is_spun_from_a_click_and_its_run_is_kept() {
        Live f;
        QVERIFY(!f.find<QPushButton>("live_start")->isEnabled());
        f.click("live_standin");
        QVERIFY(QTest::qWaitFor([&] { return f.runner().on() && f.runner().now().pieces == 1; }, 60'000));
        f.wait_for_redraw();
        QVERIFY(!f.find<QPushButton>("live_start")->isEnabled()); // the caution first
        f.find<QCheckBox>("live_caution")->setChecked(true);
        QCOMPARE(remembered().value("live/cautions_read").toDate(), QDate::currentDate());
        f.find<QLineEdit>("live_steps")->setText("1500:2000:500");
        f.find<QSpinBox>("live_cycles")->setValue(10);
        f.click("live_make_steps");
        QCOMPARE(f.find<QTableWidget>("live_legs")->rowCount(), 2);
        QTRY_VERIFY(f.find<QPushButton>("live_start")->isEnabled());
        f.click("live_start");
        QVERIFY(f.until([](const session::LiveSnapshot& now) { return now.programme_done && now.run; }));
        f.wait_for_redraw();
        const session::LiveSnapshot now = f.runner().now();
        QCOMPARE(now.lost, std::uint64_t(0));
        QVERIFY(now.good_cycles >= 20);
        QCOMPARE(now.cycle.lift_m.size(), std::size_t(1441));
        CONTAINS(f.find<QLabel>("live_state")->text().toStdString(), "stand-in rig");
        const QString recording = f.runner().recording();
        f.click("live_connect"); // leaves
        QVERIFY(!f.runner().on() && !f.runner().plays_along());
        io::RecordingFacts facts;
        QVERIFY(io::read_recording(recording.toStdString(), &facts).turns.size() >= 20);
        QVERIFY(!facts.cut);
        f.click("live_keep");
        QVERIFY(QTest::qWaitFor(
            [&] {
                const auto& runs = f.window->document().project().of(EntryKind::RigRun);
                return std::ranges::any_of(
                    runs, [](const auto& one) { return contains(one.second.name, "rig-stream"); });
            },
            120'000));
    }

    void a_tachometer_with_a_thermometer_is_chosen_shown_and_kept_with_the_run() {
        Speaker speaker;
        Live f;
        auto* devices = f.window->findChild<LiveDevices*>();
        auto *speed = f.find<QComboBox>("live_speed_device"), *oil = f.find<QComboBox>("live_oil_device");
        QCOMPARE(speed->count(), 2); // the rig, and one to describe
        InstrumentSetup setup;
        setup.name = QStringLiteral("panel");
        setup.network = true;
        setup.host_port = speaker.port;
        setup.channels = {{"speed", Quantity::Speed, "n"}, {"oil", Quantity::Temperature, "T"}};
        devices->listen_to(setup);
        QCOMPARE(speed->currentText(), QStringLiteral("speed: panel"));
        QCOMPARE(oil->currentText(), QStringLiteral("oil: panel"));
        QTRY_VERIFY(speaker.connected());
        auto* shows = f.find<QLabel>("live_devices_show");
        CONTAINS(shows->text().toStdString(), "no word");
        speaker.say("n 0 rpm T 66.5 C\r\n");
        QTRY_COMPARE(shows->text().simplified(), QStringLiteral("panel: 0 rev/min, 66.5 °C"));
        f.click("live_standin");
        const auto said = [&](const session::LiveSnapshot& now) {
            speaker.say("n 0 rpm T 66.5 C\r\n");
            return now.pieces == 1 && now.devices.size() == 1 && now.oil_C == 66.5;
        };
        QVERIFY(f.until(said));
        f.window->show_station(QStringLiteral("station_motion")); // out of sight it goes on with the run
        f.wait_for_redraw();
        QVERIFY(speaker.connected());
        f.window->show_station(QStringLiteral("station_rig"));
        QTRY_VERIFY(f.find<QLabel>("live_words")->text().contains("oil 66 °C") ||
                    f.find<QLabel>("live_words")->text().contains("oil 67 °C"));
        f.click("live_connect");
        oil->setCurrentIndex(0);
        emit oil->activated(0);
        CONTAINS(shows->text().simplified().toStdString(), "panel: 0 rev/min");
        QVERIFY(!shows->text().contains("66.5"));
        f.window->show_station(QStringLiteral("station_motion")); // no run: the port is left to others
        QTRY_VERIFY(!speaker.connected());
        f.window->show_station(QStringLiteral("station_rig"));
        QTRY_VERIFY(speaker.connected());
        speaker.hang_up();
        QTRY_VERIFY(f.window->message().contains("panel, 127.0.0.1"));
    }

    void the_operator_s_key_stops_rig_and_programme() {
        Live f;
        f.find<QCheckBox>("live_caution")->setChecked(true);
        f.click("live_standin");
        QVERIFY(QTest::qWaitFor([&] { return f.runner().on() && f.runner().now().pieces == 1; }, 60'000));
        f.find<QLineEdit>("live_steps")->setText("1500:4000:500");
        f.click("live_make_steps");
        QTRY_VERIFY(f.find<QPushButton>("live_start")->isEnabled());
        f.click("live_start");
        QVERIFY(f.until([](const session::LiveSnapshot& now) { return now.rpm > 800; }));
        QTest::keyClick(f.window.get(), Qt::Key_F8);
        QVERIFY(f.until([](const session::LiveSnapshot& now) { return !now.programme && now.rpm < 100; }));
        CONTAINS(f.window->message().toStdString(), "stopped by the operator");
    }

    void what_is_no_address_and_no_programme_is_told() {
        Live f;
        f.find<QLineEdit>("live_address")->setText("rig");
        f.click("live_connect");
        CONTAINS(f.window->message().toStdString(), "give HOST:PORT");
        QVERIFY(!f.runner().on());
        f.find<QLineEdit>("live_steps")->setText("fast");
        f.click("live_make_steps");
        CONTAINS(f.window->message().toStdString(), "is no range");
        f.find<QLineEdit>("live_address")->setText("127.0.0.1:9");
        f.click("live_connect");
        QVERIFY(f.runner().on());
        QVERIFY(f.until([](const session::LiveSnapshot& now) { return !now.notes.empty(); }));
        QVERIFY(f.runner().now().notes.back().kind == "lost");
        f.click("live_connect");
    }

    void a_stop_rule_that_is_no_number_goes_back_and_is_told() {
        Live f;
        auto* rules = f.find<QTableWidget>("live_rules");
        const QString usual = rules->item(0, 1)->text();
        for (const char* nonsense : {"soon", "0", "-1", ""}) {
            rules->item(0, 1)->setText(nonsense);
            QCOMPARE(rules->item(0, 1)->text(), usual);
            CONTAINS(f.window->message().toStdString(), "no number above 0");
        }
        rules->item(0, 1)->setText("0,7");
        QCOMPARE(rules->item(0, 1)->text(), "0,7");
        // In the units chosen, and back to what was typed.
        f.trigger("units");
        QCOMPARE(rules->item(0, 2)->text(), QStringLiteral("in"));
        NEAR(rules->item(0, 1)->text().toDouble(), 0.7 / 25.4, 1e-5);
        f.trigger("units");
        NEAR(rules->item(0, 1)->text().toDouble(), 0.7, 1e-9);
    }

    void a_programme_is_kept_by_name_chosen_again_and_undone() {
        Live f;
        auto* name = f.find<QComboBox>("live_programme");
        auto* legs = f.find<QTableWidget>("live_legs");
        const std::vector<Id> campaigns =
            session::campaigns_of(f.window->document().project(), f.window->document().build());
        QVERIFY(!f.find<QPushButton>("live_remove_programme")->isEnabled());
        f.click("live_keep_programme"); // without a name
        CONTAINS(f.window->message().toStdString(), "has no name");
        f.find<QLineEdit>("live_steps")->setText("3000:4000:500");
        f.click("live_make_steps");
        const int rows = legs->rowCount();
        name->setCurrentText("warm up");
        f.click("live_keep_programme");
        QCOMPARE(name->count(), 1);
        f.find<QLineEdit>("live_steps")->setText("3000:8000:250");
        f.click("live_make_steps");
        f.find<QSpinBox>("live_times")->setValue(4);
        name->setCurrentText("the day's");
        f.click("live_keep_programme");
        QVERIFY(legs->rowCount() > rows);
        QCOMPARE(name->count(), 2);
        name->setCurrentIndex(0); // as a person picks it
        emit name->activated(0);
        QCOMPARE(legs->rowCount(), rows);
        QCOMPARE(f.find<QSpinBox>("live_times")->value(), 1);
        f.click("live_remove_programme");
        QCOMPARE(name->count(), 1);
        f.trigger("undo");
        QCOMPARE(name->count(), 2);
        // Kept in the project, and in no station that asks for campaigns.
        const Project& project = f.window->document().project();
        QCOMPARE(session::programmes_of(project, f.window->document().build()).size(), std::size_t(2));
        const live::Programme kept = session::programme_of(
            project.of(EntryKind::Plan)
                .at(session::programme_named(project, f.window->document().build(), "the day's")));
        QCOMPARE(kept.times, std::size_t(4));
        QCOMPARE(session::campaigns_of(project, f.window->document().build()), campaigns);
    }

    void a_programme_is_edited_row_by_row() {
        ProgrammeTable table;
        auto* legs = find_in<QTableWidget>(table, "live_legs");
        find_in<QLineEdit>(table, "live_steps")->setText("3000:4000:1000");
        QTest::mouseClick(find_in<QPushButton>(table, "live_make_steps"), Qt::LeftButton);
        QTest::mouseClick(find_in<QPushButton>(table, "live_add_leg"), Qt::LeftButton);
        find_in<QSpinBox>(table, "live_times")->setValue(3);
        live::Programme programme = table.programme();
        QCOMPARE(programme.legs.size(), std::size_t(3));
        QVERIFY((programme.legs[2] == live::Leg{live::LegKind::Hold, 4000, 0, 10, 0}));
        QCOMPARE(programme.times, std::size_t(3));
        legs->item(1, 1)->setText("3500,5");
        QCOMPARE(table.programme().legs[1].rpm, 3500.5);
        legs->item(1, 1)->setText("soon");
        QCOMPARE(problem_of([&] { table.programme(); }).location, std::string("leg 2"));
        legs->setCurrentCell(1, 1);
        QTest::mouseClick(find_in<QPushButton>(table, "live_remove_leg"), Qt::LeftButton);
        QCOMPARE(table.programme().legs.size(), std::size_t(2));
    }
};

QTEST_MAIN(TstLiveView)
#include "tst_live_view.moc"
