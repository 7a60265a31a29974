// The Lobe station as a person uses it.
#include "app/plot/plot.h"
#include "app/stations/lobe/curves_panel.h"
#include "app/stations/lobe/design_panel.h"
#include "app/stations/lobe/gauge_import_dialog.h"
#include "app/stations/lobe/lobe_station.h"
#include "app/stations/lobe/ranking_panel.h"
#include "app/widgets/number_table.h"
#include "app_fixture.h"
#include "core/cam/cam_events.h"
#include "core/cam/cutting.h"
#include "core/lobe/lobe_fit.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QListWidget>
#include <QSettings>
#include <QSlider>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// Numbers and units stand a narrow blank apart.
QString plain(QString text) {
    for (QChar& c : text)
        if (c.isSpace())
            c = QLatin1Char(' ');
    return text;
}

struct Lobes : ProjectFixture {
    explicit Lobes(const QString& name) : ProjectFixture(name) {
        window->sweep().set_range({7000, 8600, 800});
        window->show_station("station_lobe");
        wait_for_redraw();
    }
    LobeSet& set() { return find<LobeStation>("station_lobe")->lobes(); }
    void show_tab(const QString& text) {
        auto* tabs = find<QTabWidget>("lobe_tabs");
        for (int i = 0; i < tabs->count(); ++i)
            if (tabs->tabText(i) == text)
                tabs->setCurrentIndex(i);
        QCOMPARE(tabs->tabText(tabs->currentIndex()), text);
        wait_for_redraw();
    }
    QListWidgetItem* item(const QString& name) {
        auto* list = find<QListWidget>("lobe_list");
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->text().startsWith(name))
                return list->item(i);
        qFatal("no lobe named %s", qPrintable(name));
    }
    void only(const QStringList& names) {
        auto* list = find<QListWidget>("lobe_list");
        for (int i = 0; i < list->count(); ++i)
            list->item(i)->setCheckState(Qt::Unchecked);
        for (const QString& name : names)
            item(name)->setCheckState(Qt::Checked);
        wait_for_redraw();
    }
    void choose(const QString& name) {
        find<QListWidget>("lobe_list")->setCurrentItem(item(name));
        wait_for_redraw();
    }
    QString cell(const char* table, const QString& row, int column) {
        auto* t = find<NumberTable>(table);
        for (int r = 0; r < t->rowCount(); ++r)
            if (plain(t->cell(r, 0)) == row)
                return plain(t->cell(r, column));
        return QStringLiteral("no row ") + row;
    }
    const LobeTable& table(const QString& key) { return std::get<LobeTable>(set().find(key)->lobe.shape); }
    // Opens the import dialogue on a file, with the mapping guessed anew.
    void import(const QString& file, const std::function<void(QDialog*)>& act) {
        QSettings(QSettings::IniFormat, QSettings::UserScope, "bathmos", "bathmos").clear();
        next_path = source_path(file);
        Press press("gauge_import", act);
        trigger("import_lobe");
        QVERIFY(press.came);
        wait_for_redraw();
    }
};

void accept(QDialog* dialog) {
    QTest::mouseClick(dialog->findChild<QPushButton*>("gauge_accept"), Qt::LeftButton);
}

} // namespace

class TestLobeStation : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() {
        QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, Fixture::folder().path());
    }
    void init() { prepare_application(); }

    void an_empty_station_says_what_it_is_for() {
        Fixture f;
        f.window->show_station("station_lobe");
        QVERIFY(f.find<QPushButton>("lobe_empty_open")->isVisible());
        f.next_path = source_path("demo/gauge-two-lobes.csv");
        f.trigger("import_lobe");
        QVERIFY(f.window->message().contains("no project"));
    }

    void lobes_of_builds_and_shelf_stand_in_the_list_and_the_one_in_hand_is_drawn() {
        Lobes f("lobes-list");
        QVERIFY(f.item("A22 intake, grind 4 (in hand)")->checkState() == Qt::Checked);
        for (const char* name : {"A22 exhaust", "T14 intake", "Trial 11", "Trial 12"})
            QVERIFY(f.item(name)->checkState() == Qt::Unchecked);
        const auto* rise = f.find<Plot>("Cam lift");
        QTRY_VERIFY(!rise->points(0).isEmpty());
        const LobeCurve curve = curve_of(f.document().train().lobe);
        for (const QPointF& p : rise->points(0))
            NEAR(p.y(), curve.at(radians(p.x() / 2)) * 1e3, 1e-9);
        const auto* acceleration = f.find<Plot>("Acceleration");
        NEAR(acceleration->points(0)[300].y(),
             curve.at(radians(acceleration->points(0)[300].x() / 2), 2) * 1e3 * std::pow(kPi / 180, 2),
             1e-12);
    }

    void look_alikes_are_told_apart_in_words_and_a_line_leads_to_the_place() {
        Lobes f("lobes-alike");
        f.only({"Trial 11", "Trial 12"});
        auto* flags = f.find<QListWidget>("lobe_flags");
        QTRY_VERIFY(flags->count() > 0);
        int braking = -1;
        for (int i = 0; i < flags->count(); ++i)
            if (flags->item(i)->text().contains("decelerates"))
                braking = i;
        QVERIFY(braking >= 0);
        const QString words = flags->item(braking)->text();
        QVERIFY2(words.contains("Trial 12 decelerates 2") && words.contains("mm on the closing side") &&
                     words.contains("against Trial 11"),
                 qPrintable(words));
        flags->setCurrentRow(braking);
        QVERIFY(f.window->cursors().crank_deg() > 95 && f.window->cursors().crank_deg() < 120);
        NEAR(f.find<Plot>("Jerk")->cursor(), f.window->cursors().crank_deg(), 1e-9);
        f.trigger("units");
        QTRY_VERIFY(plain(flags->item(0)->text()).contains(" in on the"));
    }

    void curves_are_laid_on_a_height_and_seen_at_the_valve() {
        Lobes f("lobes-laid");
        f.find<QComboBox>("lobe_align")->setCurrentIndex(2);
        QTRY_VERIFY(f.find<QLineEdit>("lobe_align_height")->isEnabled());
        f.type("lobe_align_height", "1");
        const LobeCurve curve = curve_of(f.document().train().lobe);
        const auto c = crossings_at([&](double t) { return curve.at(t); }, 1e-3);
        auto* rise = f.find<Plot>("Cam lift");
        QTRY_VERIFY(std::abs(rise->points(0)[0].x() - 2 * degrees(-kPi - c->opening_rad)) < 1e-6);
        f.find<QComboBox>("lobe_align")->setCurrentIndex(0);
        f.find<QComboBox>("lobe_side")->setCurrentIndex(1);
        const RigidMotion rigid(f.document().train(), curve);
        QTRY_VERIFY(std::abs(rise->points(0)[720].y() - rigid.lift_m(0) * 1e3) < 1e-6);
    }

    void the_ladder_gives_durations_and_marks_a_card_without_height() {
        Lobes f("lobes-ladder");
        f.only({"Trial 11", "Trial 12"});
        f.choose("Trial 12");
        f.show_tab("Heights");
        const LobeCurve& curve = *f.set().find("part 24")->curve;
        const auto c = crossings_at([&](double t) { return curve.at(t); }, 1.27e-3);
        const QString cell = f.cell("heights_table", "Duration at 1.270 mm", 2);
        QVERIFY2(cell.startsWith(QString::number(c->duration_crank_deg(), 'f', 1)), qPrintable(cell));
        QVERIFY(f.cell("heights_table", "Advertised on its card", 1).startsWith("300 at"));
        QVERIFY(f.cell("heights_table", "Advertised on its card", 2).contains("height not stated"));
        QVERIFY(f.find<QLabel>("heights_words")->text().contains("cannot be compared"));
        const auto at = height_of_duration([&](double t) { return curve.at(t); }, 292);
        QVERIFY(f.cell("heights_table", "The lobe has that duration at", 2)
                    .startsWith(QString::number(*at * 1e3, 'f', 3)));
        f.type("heights_card_at", "0.25"); // somebody asked the maker
        QTRY_VERIFY(f.cell("heights_table", "Advertised on its card", 2).startsWith("292 at"));
        QVERIFY(!f.find<QLabel>("heights_words")->isVisible());
        f.document().undo();
        QTRY_VERIFY(f.cell("heights_table", "Advertised on its card", 2).contains("height not stated"));
    }

    void smoothing_is_stored_with_its_reason_shown_at_once_and_undone() {
        Lobes f("lobes-smoothing");
        f.only({"Trial 12"});
        f.choose("Trial 12");
        f.show_tab("Gauge");
        const double before = f.set().find("part 24")->curve->smoothing()->residual_rms_m;
        f.find<QSlider>("gauge_strength")->setValue(60); // a thousand times
        QTRY_VERIFY(f.set().find("part 24")->curve->smoothing()->residual_rms_m > 1.05 * before);
        NEAR(f.table("part 24").smoothing.strength, 1000, 1e-6);
        auto* reason = f.find<QLineEdit>("gauge_reason");
        QTest::keyClicks(reason, "gauge tip was worn");
        QTest::keyClick(reason, Qt::Key_Return);
        QCOMPARE(f.table("part 24").smoothing.reason, std::string("gauge tip was worn"));
        QVERIFY(f.cell("gauge_numbers", "Residual, RMS", 1).contains("µm"));
        f.find<QComboBox>("gauge_base")->setCurrentIndex(2);
        emit f.find<QComboBox>("gauge_base")->activated(2);
        QVERIFY(f.table("part 24").base == BaseStep::RunoutOff);
        io::Store again = io::Store::open(f.path.toStdString()); // what is on disk
        QCOMPARE(std::get<LobeTable>(again.project().parts.at(24).piece.lobe.shape).smoothing.reason,
                 std::string("gauge tip was worn"));
        for (int i = 0; i < 3; ++i)
            f.document().undo();
        QVERIFY(f.table("part 24").smoothing == LobeSmoothing{});
        QVERIFY(f.table("part 24").base == BaseStep::AsGauged);
    }

    void a_reading_that_stands_out_is_left_out_only_by_hand() {
        Lobes f("lobes-outstanding");
        f.import("demo/gauge-three-passes.csv", accept);
        f.show_tab("Gauge");
        auto* rows = f.find<NumberTable>("gauge_outstanding");
        QTRY_COMPARE(rows->rowCount(), 1);
        QVERIFY(rows->cell(0, 0).startsWith("120"));
        const QString key = f.set().chosen()->key;
        QVERIFY(f.table(key).left_out.empty());
        emit rows->cellActivated(0, 0);
        QCOMPARE(f.table(key).left_out, (std::vector<std::size_t>{120}));
        QTRY_COMPARE(rows->cell(0, 2), QStringLiteral("left out"));
        emit rows->cellActivated(0, 0);
        QVERIFY(f.table(key).left_out.empty());
    }

    void an_import_shows_what_it_found_keeps_the_raw_passes_and_can_be_undone() {
        Lobes f("lobes-import");
        const std::size_t parts = f.document().project().parts.size();
        f.import("demo/gauge-three-passes.csv", [](QDialog* dialog) {
            const QString said = dialog->findChild<QLabel*>("gauge_verdict")->text();
            QVERIFY2(said.contains("3 passes repeat within") && said.contains("runout") &&
                         said.contains("stand out"),
                     qPrintable(said));
            accept(dialog);
        });
        const Project& project = f.document().project();
        QCOMPARE(project.parts.size(), parts + 1);
        const Entry& entry = project.of(EntryKind::Lobe).rbegin()->second;
        QCOMPARE(entry.traces.size(), std::size_t{1});
        const io::Trace raw = io::unpacked(f.document().trace(entry.traces.front()));
        QCOMPARE(raw.columns[0].size(), std::size_t{3 * 360});
        QCOMPARE(raw.columns[0].numbers.back(), 3.0);
        NEAR(entry.numbers.at("repeatability_um"), 1.6, 0.4);
        f.show_tab("Gauge");
        QCOMPARE(f.cell("gauge_numbers", "Passes", 1), QStringLiteral("3"));
        QVERIFY(f.cell("gauge_numbers", "Passes repeat within, standard deviation", 1).contains("µm"));
        QVERIFY(f.set().chosen()->from == LoadedLobe::From::Shelf && f.set().chosen()->shown);
        f.document().undo();
        QCOMPARE(f.document().project().parts.size(), parts);
        QVERIFY(f.document().project().of(EntryKind::Lobe).empty());
    }

    void another_machine_is_laid_over_this_one_and_both_are_joined_as_a_lobe() {
        Lobes f("lobes-machines");
        f.import("demo/gauge-second-machine.csv", accept);
        f.show_tab("Gauge");
        const QString second = f.set().chosen()->name;
        f.set().choose("hand");
        f.wait_for_redraw();
        auto* join = f.find<QPushButton>("gauge_join");
        QVERIFY(!join->isEnabled());
        f.Fixture::choose("gauge_other", "Trial 11"); // another lobe: told, and not to be joined
        QVERIFY(f.cell("gauge_numbers", "Other machine: lift over this one's", 1).contains(' '));
        QVERIFY(!join->isEnabled());
        f.Fixture::choose("gauge_other", second);
        QTRY_VERIFY(join->isEnabled());
        const QString scale = f.cell("gauge_numbers", "Other machine: lift over this one's", 1);
        NEAR(scale.section(' ', 0, 0).toDouble(), 1.003, 0.0003);
        const std::size_t parts = f.document().project().parts.size();
        QTest::mouseClick(join, Qt::LeftButton);
        QTRY_COMPARE(f.document().project().parts.size(), parts + 1);
        const LoadedLobe& both = *f.set().chosen();
        QVERIFY(both.name.endsWith("two machines"));
        QVERIFY(std::get<LobeTable>(both.lobe.shape).lift.size() > 360);
        f.document().undo();
        QCOMPARE(f.document().project().parts.size(), parts);
    }

    void a_mapping_is_corrected_and_remembered() {
        Lobes f("lobes-mapping");
        f.import("demo/gauge-two-lobes.csv", [](QDialog* dialog) {
            auto* d = static_cast<GaugeImportDialog*>(dialog);
            QCOMPARE(d->lobes().size(), std::size_t{2});
            d->findChild<QListWidget*>("gauge_rises")->item(2)->setCheckState(Qt::Unchecked);
            QCOMPARE(d->lobes().size(), std::size_t{1});
            d->findChild<QComboBox*>("gauge_unit")->setCurrentIndex(0); // thou taken for mm
            QVERIFY(d->lobes().empty() || d->lobes()[0].combined.table.lift.size() > 0);
            d->findChild<QComboBox*>("gauge_unit")->setCurrentIndex(2);
            accept(dialog);
        });
        GaugeImportDialog again(source_path("demo/gauge-two-lobes.csv"));
        QCOMPARE(again.mapping().rises.size(), std::size_t{1});
        QVERIFY(again.mapping().unit == io::GaugeUnit::Thou);
    }

    void a_file_that_is_no_profile_changes_nothing_and_explains_itself() {
        Lobes f("lobes-bad");
        const Project before = f.edited();
        f.import("demo/ashgill-a22-intake-after.rig.csv", [](QDialog* dialog) {
            QVERIFY(!dialog->findChild<QPushButton*>("gauge_accept")->isEnabled());
            QVERIFY(!static_cast<GaugeImportDialog*>(dialog)->problem().isEmpty());
            dialog->reject();
        });
        f.next_path = source_path("LICENSE.missing");
        f.trigger("import_lobe");
        QVERIFY(f.window->message().contains("was not imported"));
        QVERIFY(f.edited() == before);
    }

    void a_lobe_of_the_shelf_is_fitted_as_a_new_revision() {
        Lobes f("lobes-fit");
        const Id revision = f.document().shown();
        f.choose("Trial 12");
        f.click("lobe_fit");
        QVERIFY(f.document().shown() != revision);
        QCOMPARE(f.document().train().lobe.name, std::string("Trial 12"));
        QTRY_VERIFY(f.item("Trial 12 (in hand)") != nullptr);
        f.document().undo();
        QVERIFY(f.document().train().lobe.name != "Trial 12");
    }

    void cutting_limits_stand_beside_each_other_with_findings() {
        Lobes f("lobes-cutting");
        f.only({"A22 intake", "Trial 12"});
        f.show_tab("Cutting");
        const Cutting cutting = cutting_of(f.document().train().lobe, *f.set().find("hand")->curve);
        QCOMPARE(f.cell("cutting_table", "Roller: pressure angle, opening", 1),
                 QStringLiteral("%1°").arg(degrees(cutting.opening_pressure_rad.value), 0, 'f', 1));
        auto* findings = f.find<QListWidget>("cutting_findings");
        QVERIFY(findings->count() > 0);
        Part part = f.document().project().parts.at(24);
        part.facts.words["cut_for"] = "flat";
        f.document().set_part(24, part);
        const auto said = [&] {
            QString all;
            for (int i = 0; i < findings->count(); ++i)
                all += findings->item(i)->text() + '\n';
            return all;
        };
        QTRY_VERIFY2(said().contains("■ Trial 12: cut for a flat follower"), qPrintable(said()));
    }

    void moving_the_cam_is_read_out_live_and_kept_in_both_builds() {
        Lobes f("lobes-events");
        f.show_tab("Events");
        const double centre = f.document().project().builds.at(1).centreline_rad;
        const QString before = f.cell("events_table", "Intake closes after bottom", 1);
        auto* move = f.find<QSlider>("events_move");
        move->setValue(8); // four degrees later
        QTRY_VERIFY(f.find<QLabel>("events_reading")->text().contains("The intake closes 4 degrees later"));
        const auto number = [](QString text) { return text.remove(QChar(0x00b0)).toDouble(); };
        NEAR(number(f.cell("events_table", "Intake closes after bottom", 2)), number(before) + 4, 0.11);
        QCOMPARE(f.cell("events_table", "Overlap", 1), f.cell("events_table", "Overlap", 2));
        // the strip shows what the core computes
        const auto motion = f.set().motion(*f.set().find("hand"), true);
        const PlacedLobe intake{*motion, centre};
        auto* strip = f.find<Plot>("One cycle of the crank");
        for (const QPointF& p : strip->points(2))
            NEAR(p.y(), motion->at((radians(p.x()) - crank_of(intake, true, 0, radians(4))) / 2) * 1e3, 1e-6);
        f.click("events_keep");
        NEAR(f.document().project().builds.at(1).centreline_rad, centre + radians(4), 1e-9);
        QTRY_COMPARE(move->value(), 0);
        QTRY_COMPARE(f.cell("events_table", "Intake closes after bottom", 1),
                     f.cell("events_table", "Intake closes after bottom", 2));
        f.type("events_advance", "0");
        QTRY_COMPARE(f.find<QLineEdit>("events_intake_line")->text(),
                     f.find<QLineEdit>("events_exhaust_line")->text());
    }

    void a_new_lobe_is_shaped_run_beside_the_old_one_and_shelved() {
        Lobes f("lobes-new");
        f.choose("A22 intake, grind 4");
        f.show_tab("New lobe");
        f.click("design_take");
        f.click("design_shape");
        auto* rank = f.find<QPushButton>("design_rank");
        QTRY_VERIFY_WITH_TIMEOUT(rank->isEnabled(), kPatience_ms);
        QVERIFY2(f.find<QLabel>("design_words")->text().startsWith("Area"),
                 qPrintable(f.find<QLabel>("design_words")->text()));
        QVERIFY(f.find<Plot>("Area against deceleration")->points(0).size() > 3);
        f.click("design_rank");
        QTRY_VERIFY_WITH_TIMEOUT(f.find<NumberTable>("design_standing")->rowCount() == 2, kPatience_ms);
        QTRY_VERIFY_WITH_TIMEOUT(rank->isEnabled(), kPatience_ms);
        f.find<QLineEdit>("design_name")->setText("Grind 5");
        f.click("design_shelve");
        QTRY_VERIFY(f.item("Grind 5")->checkState() == Qt::Checked);
        NEAR(f.set().chosen()->curve->lift_m(), f.set().find("hand")->curve->lift_m(), 2e-6);
        // goals that cannot be met name what binds
        f.type("design_deceleration", "0.001");
        f.click("design_shape");
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("design_words")->text().contains("needs"), kPatience_ms);
        QVERIFY(f.find<QLabel>("design_words")->text().startsWith("■"));
    }

    void shown_lobes_are_ranked_and_old_rankings_are_marked() {
        Lobes f("lobes-ranking");
        f.only({"A22 intake", "Trial 11"});
        f.window->cursors().set_speed(7000);
        f.show_tab("Ranking");
        f.click("ranking_run");
        auto* table = f.find<NumberTable>("ranking_table");
        QTRY_VERIFY_WITH_TIMEOUT(table->rowCount() == 2 && f.find<QPushButton>("ranking_run")->isEnabled(),
                                 kPatience_ms);
        QVERIFY(f.find<QLabel>("ranking_words")->text().contains("7000"));
        QVERIFY(table->cell(0, 4).contains("m/s"));
        QCOMPARE(f.find<Plot>("Spring force needed")->points(0).size(), qsizetype(721));
        f.item("Trial 12")->setCheckState(Qt::Checked);
        QTRY_VERIFY(f.find<QLabel>("ranking_words")->text().contains("old"));
        QVERIFY(f.find<Plot>("Spring force needed")->note().contains("old"));
    }

    void curves_table_and_page_are_exported() {
        Lobes f("lobes-export");
        f.only({"Trial 11", "Trial 12"});
        f.next_path = f.folder().filePath("curves.csv");
        f.click("lobe_export_curves");
        QFile csv(f.next_path);
        QVERIFY(csv.open(QIODevice::ReadOnly));
        const QByteArray head = csv.readLine();
        QVERIFY(head.contains("Trial 11 rise_mm") && head.contains("Trial 12 jerk_mm_per_deg3"));
        f.choose("Trial 12");
        f.next_path = f.folder().filePath("table.csv");
        Press press("table_export", [](QDialog* dialog) {
            dialog->findChild<QDoubleSpinBox*>("table_step")->setValue(2);
            dialog->findChild<QComboBox*>("table_unit")->setCurrentIndex(2);
            QTest::mouseClick(dialog->findChild<QPushButton*>("table_accept"), Qt::LeftButton);
        });
        f.click("lobe_export_table");
        QVERIFY(press.came);
        QFile table(f.next_path);
        QVERIFY(table.open(QIODevice::ReadOnly));
        const QList<QByteArray> lines = table.readAll().trimmed().split('\n');
        QCOMPARE(lines.size(), qsizetype(181));
        QCOMPARE(lines[0], QByteArray("cam_deg,lift_thou"));
        f.next_path = f.folder().filePath("page.pdf");
        f.click("lobe_export_page");
        QFile pdf(f.next_path);
        QVERIFY(pdf.open(QIODevice::ReadOnly));
        QVERIFY(pdf.size() > 5000 && pdf.read(5) == "%PDF-");
        f.next_path = "/nowhere/at/all.pdf";
        f.click("lobe_export_page");
        QVERIFY(f.window->message().contains("cannot be written"));
    }

    void the_list_answers_to_keys() {
        Lobes f("lobes-keys");
        auto* list = f.find<QListWidget>("lobe_list");
        list->setFocus();
        list->setCurrentItem(f.item("Trial 11"));
        QTest::keyClick(list, Qt::Key_Space);
        QVERIFY(f.item("Trial 11")->checkState() == Qt::Checked);
        QTRY_VERIFY(f.set().find("part 23")->shown);
        f.window->show_station("station_train");
        f.trigger("go_station_lobe");
        QVERIFY(f.find<LobeStation>("station_lobe")->isVisible());
        QVERIFY(f.find<LobeStation>("station_lobe")->help().contains("Ctrl+J"));
        QVERIFY(f.window->minimumSizeHint().width() <= 1280);
    }
};

QTEST_MAIN(TestLobeStation)
#include "tst_lobe_station.moc"
