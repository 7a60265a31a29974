#include "app/shots.h"

#include "app/shell/main_window.h"
#include "app/stations/log/good_bad_view.h"
#include "app/stations/log/life_view.h"
#include "app/stations/log/log_station.h"
#include "app/stations/log/tell_view.h"
#include "app/stations/plan/plan_station.h"
#include "app/stations/rig/live_view.h"

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSplitter>
#include <QTabWidget>
#include <QTableView>
#include <QTableWidget>
#include <QThread>

namespace bathmos::app {

namespace {

constexpr double kShotDay = 20563; // 2026-04-20
constexpr int kPatience_ms = 900000, kShotPause_ms = 300, kOnset_ms = 60000;

bool wait_for(const std::function<bool()>& ready) {
    QElapsedTimer clock;
    clock.start();
    while (!ready() && clock.elapsed() < kPatience_ms) {
        QApplication::processEvents(QEventLoop::AllEvents, 20);
        QThread::msleep(2);
    }
    return ready();
}

void settle() {
    QElapsedTimer clock;
    clock.start();
    wait_for([&] { return clock.elapsed() > kShotPause_ms; });
}

// A value half way through being dragged, beside the uncertainty.
bool shoot_trial(MainWindow& window, const std::function<void()>& shoot) {
    auto* tabs = window.findChild<QTabWidget*>(QStringLiteral("motion_tabs"));
    tabs->setCurrentIndex(1);
    Train trial = window.document().train();
    if (trial.pushrod)
        trial.pushrod->wall_m += 0.6e-3;
    window.what_if().drag(trial);
    const bool good = wait_for([&] { return window.what_if().stage() == WhatIf::Stage::Refined; });
    QElapsedTimer clock; // the whole range comes behind it, and tells the onset where there is one
    clock.start();
    wait_for([&] {
        const auto& limit = window.what_if().limit();
        return (limit && limit->onset_rpm) || clock.elapsed() > kOnset_ms;
    });
    shoot();
    window.what_if().leave();
    window.what_if().forget_before();
    return good;
}

// The shelf with a part chosen, the revisions against each other, and the budget.
void shoot_records(MainWindow& window, const std::function<void(const QString&)>& shoot) {
    auto* tabs = window.findChild<QTabWidget*>(QStringLiteral("train_tabs"));
    auto* pictures = window.findChild<QTabWidget*>(QStringLiteral("train_pictures"));
    auto* list = window.findChild<QTableView*>(QStringLiteral("shelf_list"));
    if (window.document().project().parts.empty())
        return;
    tabs->setCurrentIndex(1);
    for (int row = 0; row < list->model()->rowCount(); ++row)
        if (list->model()->index(row, 0).data().toString() == QStringLiteral("Retainer"))
            list->selectRow(row);
    shoot(QStringLiteral("shelf"));
    tabs->setCurrentIndex(2);
    pictures->setCurrentIndex(1);
    const Revision& now = window.document().project().revisions.at(window.document().shown());
    window.document().compare(now.parent);
    const auto ready = [&] { return window.document().prediction_of(now.parent) != nullptr; };
    wait_for(ready);
    shoot(QStringLiteral("revisions"));
    window.document().compare(0);
    pictures->setCurrentIndex(0);
    tabs->setCurrentIndex(0);
}

// The demo's two days on the rig, planned, with two results.
bool shoot_plan(MainWindow& window, const std::function<void()>& shoot) {
    window.show_station(QStringLiteral("station_plan"));
    auto* station = window.findChild<PlanStation*>();
    settle();
    window.findChild<QPushButton*>(QStringLiteral("plan_run"))->click();
    bool good = wait_for([&] { return station->plan() && !station->planning(); });
    settle();
    window.findChild<QTableWidget*>(QStringLiteral("plan_runs"))->selectRow(2);
    shoot();
    return good;
}

// Two seasons of use, and what they cost: as of a day that stays.
bool shoot_log(MainWindow& window, const std::function<void(const QString&)>& shoot) {
    window.show_station(QStringLiteral("station_log"));
    auto* station = window.findChild<LogStation*>();
    station->life().set_today(kShotDay);
    settle();
    auto* lines = window.findChild<QTableWidget*>(QStringLiteral("log_lines"));
    lines->selectRow(0);
    shoot(QStringLiteral("log"));
    station->navigate(QStringLiteral("life"));
    station->life().refresh();
    bool good = wait_for([&] { return !station->life().counting(); });
    shoot(QStringLiteral("log-life"));
    station->navigate(QStringLiteral("between"));
    settle();
    good = wait_for([&] { return !station->between().looking(); }) && good;
    shoot(QStringLiteral("log-between"));
    station->navigate(QStringLiteral("tell"));
    station->tell().set_today(QStringLiteral("2026-04-20"));
    window.findChild<QPushButton*>(QStringLiteral("tell_make"))->click();
    good = wait_for([&] { return !station->tell().making(); }) && good;
    settle();
    shoot(QStringLiteral("log-report"));
    return good;
}

// A stand-in rig part of the way through its steps.
bool shoot_live(MainWindow& window, const std::function<void()>& shoot) {
    window.show_station(QStringLiteral("station_rig"));
    auto* view = window.findChild<LiveView*>();
    window.findChild<QTabWidget*>(QStringLiteral("rig_tabs"))->setCurrentIndex(3);
    window.findChild<QPushButton*>(QStringLiteral("live_standin"))->click();
    bool good = wait_for([&] { return view->runner().on() && view->runner().now().pieces > 0; });
    window.findChild<QCheckBox*>(QStringLiteral("live_caution"))->setChecked(true);
    window.findChild<QLineEdit*>(QStringLiteral("live_steps"))->setText(QStringLiteral("3000:8000:500"));
    window.findChild<QPushButton*>(QStringLiteral("live_make_steps"))->click();
    settle();
    window.findChild<QPushButton*>(QStringLiteral("live_start"))->click();
    good = wait_for([&] {
               const session::LiveSnapshot& now = view->runner().now();
               return now.leg >= 6 || now.stopped || now.programme_done;
           }) &&
           good;
    settle();
    shoot();
    view->stop();
    window.findChild<QPushButton*>(QStringLiteral("live_connect"))->click();
    return good;
}

// Two look-alikes of the shelf over each other, then a new lobe.
bool shoot_lobes(MainWindow& window, const std::function<void(const QString&)>& shoot) {
    window.show_station(QStringLiteral("station_lobe"));
    auto* list = window.findChild<QListWidget*>(QStringLiteral("lobe_list"));
    auto* tabs = window.findChild<QTabWidget*>(QStringLiteral("lobe_tabs"));
    for (int row = 0; row < list->count(); ++row) {
        list->item(row)->setCheckState(
            list->item(row)->text().startsWith(QStringLiteral("Trial")) ? Qt::Checked : Qt::Unchecked);
        if (list->item(row)->text() == QStringLiteral("Trial 12"))
            list->setCurrentRow(row);
    }
    auto* flags = window.findChild<QListWidget*>(QStringLiteral("lobe_flags"));
    wait_for([&] { return flags->count() > 0; });
    flags->setCurrentRow(std::min(2, flags->count() - 1));
    shoot(QStringLiteral("lobe"));
    tabs->setCurrentIndex(5);
    list->setCurrentRow(0); // the lobe in hand
    window.findChild<QPushButton*>(QStringLiteral("design_take"))->click();
    window.findChild<QPushButton*>(QStringLiteral("design_shape"))->click();
    auto* rank = window.findChild<QPushButton*>(QStringLiteral("design_rank"));
    bool good = wait_for([&] { return rank->isEnabled(); });
    rank->click();
    good = wait_for([&] { return rank->isEnabled(); }) && good;
    shoot(QStringLiteral("lobe-new"));
    tabs->setCurrentIndex(0);
    return good;
}

// The run in hand explained, its departures beside its numbers; the project is left as it was.
bool shoot_calibration(MainWindow& window, const std::function<void()>& shoot) {
    auto* tabs = window.findChild<QTabWidget*>(QStringLiteral("rig_tabs"));
    tabs->setCurrentIndex(1);
    window.findChild<QPushButton*>(QStringLiteral("calibrate"))->click();
    const bool good = wait_for(
        [&] { return !window.calibration().running() && window.calibration().reading() != nullptr; });
    window.findChild<QTabWidget*>(QStringLiteral("calibration_pictures"))->setCurrentIndex(1);
    shoot();
    if (good)
        window.document().undo(); // the record of it
    tabs->setCurrentIndex(0);
    return good;
}

// A train that somebody is putting together from a card and two loads.
bool shoot_start(MainWindow& window, const QString& file) {
    KnownTrain known;
    known.name = "Bench four";
    known.numbers = {
        {"valve.head_diameter_mm", 44e-3}, {"installed_height_mm", 42e-3}, {"spring.seat_load_N", 420},
        {"spring.open_load_N", 1050},      {"rocker.ratio", 1.55},         {"engine.target_rpm", 8600}};
    known.lobe = LobeCard{12.7e-3, true, {{1.27e-3, radians(248), false}, {0.5e-3, radians(285), false}}};
    window.guide().open();
    StartDialog* page = window.guide().dialog();
    page->show_known(known);
    const bool good = wait_for([&] { return page->estimate().band() && !page->estimate().running(); });
    settle();
    const bool saved = page->grab().save(file);
    page->reject();
    return good && saved;
}

bool shoot_dyno(MainWindow& window, const std::function<void()>& shoot) {
    window.show_station(QStringLiteral("station_dyno"));
    const bool good = wait_for([&] { return !window.dyno().running(); });
    shoot();
    return good;
}

// The answer with the evidence, and what would help.
bool shoot_verdict(MainWindow& window, const std::function<void()>& shoot) {
    window.show_station(QStringLiteral("station_verdict"));
    auto* record = window.findChild<QPushButton*>(QStringLiteral("verdict_record"));
    auto* help = window.findChild<QPushButton*>(QStringLiteral("verdict_try"));
    bool good = wait_for([&] { return record->isEnabled(); });
    help->click();
    auto* outcomes = window.findChild<QTableWidget*>(QStringLiteral("verdict_outcomes"));
    good = wait_for([&] { return outcomes->rowCount() > 1; }) && good;
    good = wait_for([&] { return help->isEnabled(); }) && good;
    // Halves, whatever the words above needed while it was weighed.
    for (QSplitter* split :
         window.findChild<QWidget*>(QStringLiteral("station_verdict"))->findChildren<QSplitter*>())
        if (split->orientation() == Qt::Vertical)
            split->setSizes({1000, 1000});
    shoot();
    return good;
}

} // namespace

bool write_shots(MainWindow& window, const QString& folder) {
    QApplication::setCursorFlashTime(0); // a caret that blinks is another picture each time
    bool good = QDir().mkpath(folder);
    QElapsedTimer clock;
    clock.start();
    const auto shoot = [&](const QString& name) {
        settle();
        good = window.grab().save(QDir(folder).filePath(name + QStringLiteral(".png"))) && good;
        qInfo("%s: after %lld s", qPrintable(name), clock.elapsed() / 1000);
    };
    good = wait_for([&] {
               return window.sweep().state() != SweepRunner::State::Running &&
                      window.rig().state() != RigSession::State::Running;
           }) &&
           good;
    window.uncertainty().start();
    good = wait_for([&] { return !window.uncertainty().running(); }) && good;
    window.cursors().set_speed(7800);
    window.cursors().set_crank(124);
    shoot(QStringLiteral("train"));
    good = shoot_start(window, QDir(folder).filePath(QStringLiteral("start.png"))) && good;
    shoot_records(window, shoot);
    good = shoot_lobes(window, shoot) && good;
    window.cursors().set_crank(124);
    window.show_station(QStringLiteral("station_bench"));
    if (auto* sheets = window.findChild<QListWidget*>(QStringLiteral("bench_sheets")); sheets->count() > 0)
        sheets->setCurrentRow(0);
    auto* with_it = window.findChild<QLabel*>(QStringLiteral("bench_limit"));
    good = wait_for([&] { return !with_it->text().endsWith(QStringLiteral("…")); }) && good;
    shoot(QStringLiteral("bench"));
    window.show_station(QStringLiteral("station_motion"));
    const auto& revisions = window.document().project().revisions;
    window.document().compare(revisions.at(window.document().shown()).parent);
    if (window.document().compared() != 0)
        good = wait_for([&] { return window.comparison().motion() != nullptr; }) && good;
    shoot(QStringLiteral("motion"));
    window.document().compare(0);
    good = shoot_plan(window, [&] { shoot(QStringLiteral("plan")); }) && good;
    window.show_station(QStringLiteral("station_motion"));
    good = shoot_trial(window, [&] { shoot(QStringLiteral("what-if")); }) && good;
    window.cursors().set_speed(7800);
    window.show_station(QStringLiteral("station_rig"));
    shoot(QStringLiteral("rig"));
    good = shoot_calibration(window, [&] { shoot(QStringLiteral("rig-calibrate")); }) && good;
    good = shoot_dyno(window, [&] { shoot(QStringLiteral("dyno")); }) && good;
    good = shoot_verdict(window, [&] { shoot(QStringLiteral("verdict")); }) && good;
    good = shoot_log(window, shoot) && good;
    window.show_station(QStringLiteral("station_rig"));
    good = wait_for([&] {
               return window.rig().state() != RigSession::State::Running &&
                      window.sweep().state() == SweepRunner::State::Done && !window.uncertainty().running();
           }) &&
           good;
    window.theme().set_look(Look::Dark);
    good = shoot_live(window, [&] { shoot(QStringLiteral("rig-live")); }) && good;
    return good;
}

} // namespace bathmos::app
