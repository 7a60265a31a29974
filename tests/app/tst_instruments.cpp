// Devices beside the keyboard: lines over the network and a serial port, what is taken and what is refused, a
// line that breaks, the stand-in started from the window, the dialogue that describes a device.
#include "app/app_fixture.h"
#include "app/instruments/instrument_bar.h"
#include "app/instruments/instrument_dialog.h"
#include "app/speaker.h"
#include "app/stations/bench/reading_table.h"
#include "app/stations/bench/sheet_form.h"
#include "app/widgets/remembered.h"
#include "io/train/train_file.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPlainTextEdit>
#include <QProcess>
#include <QRegularExpression>
#include <QSpinBox>
#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

namespace {

InstrumentSetup tester_at(quint16 port) {
    InstrumentSetup out;
    out.name = QStringLiteral("tester");
    out.network = true;
    out.host_port = port;
    out.channels = {{"height", Quantity::Length, "H"}, {"load", Quantity::Force, "F"}};
    return out;
}

class BenchWithDevice : public Fixture {
  public:
    explicit BenchWithDevice(const QString& kind) {
        few_speeds();
        open_demo();
        window->show_station(QStringLiteral("station_bench"));
        auto* kinds = find<QComboBox>("bench_kind");
        kinds->setCurrentIndex(kinds->findData(kind));
        QTest::mouseClick(find<QPushButton>("bench_new"), Qt::LeftButton);
        wait_for_redraw();
    }
    InstrumentBar& bar() { return *window->findChild<InstrumentBar*>(); }
    ReadingTable& readings() { return *find<ReadingTable>("bench_readings"); }
    const bench::SheetDraft& sheet() { return window->findChild<SheetForm*>()->sheet(); }
    QString shows() { return find<QLabel>("instrument_shows")->text(); }
    void plug_in(Speaker& speaker, const InstrumentSetup& setup) {
        bar().connect_to(setup);
        QTRY_VERIFY(speaker.connected());
    }
    void say(Speaker& speaker, const QByteArray& line) {
        speaker.say(line + "\r\n");
        QTRY_VERIFY(shows() != before_ && shows() != "nothing yet" && !shows().startsWith("connecting"));
        before_ = shows();
    }
    void enter(Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        QTest::keyClick(&readings(), Qt::Key_Return, modifiers);
        wait_for_redraw();
    }
    void to_cell(int row, int column) {
        readings().setFocus();
        readings().setCurrentCell(row, column);
    }

  private:
    QString before_;
};

} // namespace

class TstInstruments : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { prepare_application(); }
    void cleanup() { remembered().remove(QStringLiteral("instruments")); }

    void enter_takes_what_the_device_shows_and_goes_on() {
        Speaker speaker;
        BenchWithDevice f(QStringLiteral("spring"));
        InstrumentSetup setup = tester_at(speaker.port);
        setup.after_reading = QStringLiteral("next");
        f.plug_in(speaker, setup);
        f.to_cell(0, 0);
        f.say(speaker, "H 46.00 mm F 300.5 N");
        f.enter();
        QCOMPARE(f.sheet().rows.size(), std::size_t(1));
        NEAR(f.sheet().rows[0].cells[0].front(), 0.046, 1e-12);
        NEAR(f.sheet().rows[0].cells[1].front(), 300.5, 1e-9); // both numbers of the line
        QTRY_COMPARE(speaker.heard, QByteArray("next\r\n"));
        f.to_cell(1, 0);
        f.say(speaker, "H 40.00 mm F 510.0 N");
        f.enter();
        f.to_cell(2, 0);
        f.say(speaker, "H 43.00 mm F 390.0 N");
        f.enter();
        QCOMPARE(f.sheet().rows.size(), std::size_t(3));
        QVERIFY(!f.sheet().rows[1].back);
        QVERIFY(f.sheet().rows[2].back); // it has turned: up again
        // A repeat goes into the same cell, and what was taken is undone as what was typed.
        f.to_cell(2, 1);
        f.say(speaker, "H 43.00 mm F 391.0 N");
        f.enter(Qt::ControlModifier);
        QCOMPARE(f.sheet().rows[2].cells[1].size(), std::size_t(2));
        f.trigger("undo");
        f.wait_for_redraw();
        QCOMPARE(f.sheet().rows[2].cells[1].size(), std::size_t(1));
    }

    void what_is_no_reading_is_told_and_not_taken() {
        Speaker speaker;
        BenchWithDevice f(QStringLiteral("spring"));
        f.plug_in(speaker, tester_at(speaker.port));
        f.to_cell(0, 0);
        for (const auto& [line, told] :
             {std::pair{"OVERLOAD", "range"}, {"garbage", "no \"H\""}, {"H 12.0 g F 1.5 kg", "height –"}}) {
            f.say(speaker, line);
            f.to_cell(0, 0);
            f.enter();
            if (QByteArray(line).startsWith("H 12")) // the load of it was good, and is all that was taken
                QVERIFY(f.sheet().rows.empty() || f.sheet().rows[0].cells[0].empty());
            else
                QVERIFY(f.sheet().rows.empty());
            CONTAINS(f.shows().toStdString(), told);
        }
        // What was said long ago is not what stands there now.
        f.say(speaker, "H 46.00 mm F 300.0 N");
        QTest::qWait(InstrumentLink::kFresh_ms + 300);
        const std::size_t before = f.sheet().rows.size();
        f.to_cell(int(before), 0);
        f.enter();
        QCOMPARE(f.sheet().rows.size(), before);
        CONTAINS(f.window->message().toStdString(), "has sent nothing for 2 s");
    }

    void a_line_that_breaks_loses_nothing_and_is_taken_up_again() {
        Speaker speaker;
        BenchWithDevice f(QStringLiteral("spring"));
        f.plug_in(speaker, tester_at(speaker.port));
        f.to_cell(0, 0);
        f.say(speaker, "H 46.00 mm F 300.0 N");
        f.enter();
        speaker.hang_up();
        QTRY_VERIFY(f.shows().contains("lost"));
        CONTAINS(f.window->message().toStdString(), "Readings that were taken are kept");
        QCOMPARE(f.sheet().rows.size(), std::size_t(1));
        f.to_cell(1, 0);
        f.enter();
        QCOMPARE(f.sheet().rows.size(), std::size_t(1));
        QTRY_VERIFY_WITH_TIMEOUT(speaker.connected(), 10000);
        QTRY_VERIFY(f.window->message().contains("is there again"));
        f.say(speaker, "H 44.00 mm F 370.0 N");
        f.enter();
        QCOMPARE(f.sheet().rows.size(), std::size_t(2));
    }

    void the_stand_in_rig_says_its_speed_and_oil_as_lines_too() {
        QTcpServer free; // a port that is free just now
        QVERIFY(free.listen(QHostAddress::LocalHost));
        InstrumentSetup setup;
        setup.name = QStringLiteral("panel");
        setup.network = true;
        setup.host_port = free.serverPort();
        setup.channels = {{"speed", Quantity::Speed, "n"}, {"oil", Quantity::Temperature, "T"}};
        free.close();
        QTemporaryDir folder;
        const QString train = folder.filePath("t.train.json");
        io::write_train(train.toStdString(), starter_train());
        QProcess rig;
        rig.start(StandinProcess::program(),
                  {"rig", train, "--from", "2000", "--lines", QString::number(setup.host_port)});
        QTRY_VERIFY_WITH_TIMEOUT(rig.bytesAvailable() > 0, 30000);
        const QByteArray at = rig.readAllStandardOutput().trimmed(); // "tcp 127.0.0.1:PORT"
        QTcpSocket listener;                                         // it runs while somebody listens
        listener.connectToHost(QHostAddress::LocalHost, at.mid(at.lastIndexOf(':') + 1).toUShort());
        InstrumentLink link;
        link.open(setup);
        QTRY_VERIFY_WITH_TIMEOUT(link.fresh(), 30000);
        const instrument::LineReading& said = *link.latest();
        QVERIFY(said.state == instrument::LineState::Value && said.why.empty());
        QVERIFY2(*said.values_si[0] > 1000, qPrintable(QString::number(*said.values_si[0])));
        QVERIFY(*said.values_si[1] > 10 && *said.values_si[1] < 130);
        rig.closeWriteChannel();
        QTRY_VERIFY_WITH_TIMEOUT(rig.state() == QProcess::NotRunning, 30000);
    }

    void a_device_with_a_button_of_its_own_fills_row_after_row() {
        Speaker speaker;
        BenchWithDevice f(QStringLiteral("weigh_set"));
        InstrumentSetup setup = tester_at(speaker.port);
        setup.channels = {{"mass", Quantity::Mass}};
        setup.on_its_button = true;
        f.plug_in(speaker, setup);
        f.to_cell(0, 1); // behind the name
        f.say(speaker, "18.40 g");
        f.wait_for_redraw();
        QCOMPARE(f.sheet().rows.size(), std::size_t(1));
        NEAR(f.sheet().rows[0].cells[0].front(), 0.0184, 1e-12);
        f.to_cell(1, 1);
        f.say(speaker, "18.31 g");
        f.wait_for_redraw();
        QCOMPARE(f.sheet().rows.size(), std::size_t(2));
    }

    void a_field_takes_what_has_its_quantity() {
        Speaker speaker;
        BenchWithDevice f(QStringLiteral("spring"));
        f.plug_in(speaker, tester_at(speaker.port));
        f.say(speaker, "H --- mm F -1.5 N");
        auto* zero = f.find<QLineEdit>("bench_zero_before_load_N");
        zero->setFocus();
        QTest::keyClick(zero, Qt::Key_Return);
        f.wait_for_redraw();
        NEAR(f.sheet().fields.at("zero_before_load_N").front(), -1.5, 1e-12);
        auto* mass = f.find<QLineEdit>("bench_mass_g"); // a tester weighs nothing
        mass->setFocus();
        QTest::keyClick(mass, Qt::Key_Return);
        QVERIFY(!f.sheet().fields.contains("mass_g"));
    }

    void the_stand_in_plays_a_whole_sheet_from_a_click_and_ends_with_the_window() {
        QVERIFY2(!StandinProcess::program().isEmpty(), "bathmos-standin was not built");
        qint64 pid = 0;
        {
            BenchWithDevice f(QStringLiteral("spring"));
            QTest::mouseClick(f.find<QPushButton>("instrument_try"), Qt::LeftButton);
            QTRY_VERIFY_WITH_TIMEOUT(f.shows().startsWith("Stand-in") && f.shows().contains(" N"), 15000);
            pid = f.bar().findChild<QProcess*>()->processId();
            auto* zero = f.find<QLineEdit>("bench_zero_before_load_N");
            zero->setFocus();
            QTest::keyClick(zero, Qt::Key_Return);
            // The hand has moved on to 48 mm, as near as a hand comes; each start plays another part.
            const QRegularExpression first(QStringLiteral("height (47\\.[5-9]|48)"));
            QTRY_VERIFY_WITH_TIMEOUT(f.shows().contains(first), 15000);
            QString before;
            for (int row = 0; row < 8; ++row) {
                QTRY_VERIFY_WITH_TIMEOUT(f.shows() != before, 15000);
                f.to_cell(row, 0);
                QTest::qWait(250); // the next lines are of the new height
                before = f.shows();
                f.enter();
                QCOMPARE(f.sheet().rows.size(), std::size_t(row + 1));
            }
            QVERIFY(f.sheet().rows[0].cells[0].front() > f.sheet().rows[7].cells[0].front() + 10e-3);
            CONTAINS(f.find<QLabel>("bench_says")->text().toStdString(), "seat load");
        }
        QTRY_VERIFY(!QFile::exists(QStringLiteral("/proc/%1/stat").arg(pid)));
    }

    void a_serial_port_is_read_as_the_network_is() {
        QProcess standin;
        standin.start(StandinProcess::program(), {"height_micrometer", "--terminal", "--every", "0.05"});
        QVERIFY(standin.waitForReadyRead(15000));
        InstrumentSetup setup;
        setup.name = QStringLiteral("micrometer");
        setup.port = QString::fromUtf8(standin.readLine()).trimmed().section(QLatin1Char(' '), 1);
        setup.channels = {{"height", Quantity::Length}};
        InstrumentLink link;
        QSignalSpy lines(&link, &InstrumentLink::line), told(&link, &InstrumentLink::told);
        link.open(setup);
        QTRY_VERIFY_WITH_TIMEOUT(lines.size() >= 3, 15000);
        QVERIFY(link.latest()->state == instrument::LineState::Value);
        QVERIFY(link.latest()->values_si[0].value() > 0.04 && link.latest()->values_si[0].value() < 0.052);
        standin.closeWriteChannel();
        QVERIFY(standin.waitForFinished(5000));
        QTRY_VERIFY_WITH_TIMEOUT(link.state() == InstrumentLink::State::Lost, 15000);
        QVERIFY(told.size() >= 1);
    }

    void nothing_there_is_told_once_and_tried_again() {
        InstrumentSetup setup = tester_at(1); // nobody listens there
        InstrumentLink link;
        QSignalSpy told(&link, &InstrumentLink::told);
        link.open(setup);
        QTRY_COMPARE_WITH_TIMEOUT(told.size(), 1, 10000);
        QTest::qWait(3500);
        QCOMPARE(told.size(), 1);
        CONTAINS(told.first().first().toString().toStdString(), "127.0.0.1:1");
        link.close();
        QVERIFY(link.state() == InstrumentLink::State::Closed);
    }

    void a_flood_without_lines_is_told_and_fills_no_memory() {
        Speaker speaker;
        InstrumentLink link;
        QSignalSpy told(&link, &InstrumentLink::told), lines(&link, &InstrumentLink::line);
        link.open(tester_at(speaker.port));
        QTRY_VERIFY(speaker.connected());
        speaker.say(QByteArray(3 << 20, 'x'));
        QTRY_COMPARE_WITH_TIMEOUT(told.size(), 1, 10000);
        CONTAINS(told.first().first().toString().toStdString(), "no lines of text");
        speaker.say("\nH 46.0 mm F 300 N\n");
        QTRY_VERIFY_WITH_TIMEOUT(lines.size() == 1, 10000);
        QVERIFY(link.latest()->state == instrument::LineState::Value);
    }

    void a_device_is_described_tried_on_a_line_and_remembered() {
        DisplayUnits units;
        InstrumentDialog dialog(InstrumentSetup(), units);
        dialog.show();
        auto* accept = find_in<QPushButton>(dialog, "instrument_accept");
        QVERIFY(!accept->isEnabled());
        CONTAINS(find_in<QLabel>(dialog, "instrument_problem")->text().toStdString(), "name");
        QTest::keyClicks(find_in<QLineEdit>(dialog, "instrument_name"), "dial, left");
        find_in<QComboBox>(dialog, "instrument_where")->setCurrentIndex(1);
        find_in<QSpinBox>(dialog, "instrument_host_port")->setValue(4001);
        QVERIFY(accept->isEnabled());
        auto* trial = find_in<QLineEdit>(dialog, "instrument_trial");
        auto* reads = find_in<QLabel>(dialog, "instrument_reads");
        trial->setText("CH2: -0.1000");
        CONTAINS(reads->text().toStdString(), "-0.1");
        QTest::keyClicks(find_in<QLineEdit>(dialog, "instrument_before_1"), "CH2");
        auto* unit = find_in<QComboBox>(dialog, "instrument_unit_1");
        unit->setCurrentIndex(unit->findText("in"));
        find_in<QCheckBox>(dialog, "instrument_reversed_1")->setChecked(true);
        CONTAINS(reads->text().toStdString(), "length 2.540");
        trial->setText("nothing here");
        CONTAINS(reads->text().toStdString(), "no \"CH2\"");
        const InstrumentSetup setup = dialog.setup();
        remember_instrument(setup);
        QCOMPARE(remembered_instruments(), QStringList{"dial, left"});
        QVERIFY(remembered_instrument("dial, left") == setup);
        forget_instrument("dial, left");
        QVERIFY(!remembered_instrument("dial, left"));
    }
};

QTEST_MAIN(TstInstruments)
#include "tst_instruments.moc"
