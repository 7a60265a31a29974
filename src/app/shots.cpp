#include "app/shots.h"

#include "app/shell/main_window.h"
#include "app/stations/rig/rig_import_dialog.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QThread>

namespace bathmos::app {

namespace {

constexpr int kPatience_ms = 60000, kSettle_ms = 300;

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
    wait_for([&] { return clock.elapsed() > kSettle_ms; });
}

} // namespace

bool write_shots(MainWindow& window, const QString& folder) {
    bool good = QDir().mkpath(folder);
    const auto shoot = [&](const QString& name) {
        settle();
        good = window.grab().save(QDir(folder).filePath(name + QStringLiteral(".png"))) && good;
    };
    if (!window.document().has_train()) {
        shoot(QStringLiteral("empty"));
        return good;
    }
    good = wait_for([&] {
               return window.sweep().state() != SweepRunner::State::Running &&
                      window.rig().state() != RigSession::State::Running;
           }) &&
           good;
    window.cursors().set_speed(7800);
    window.cursors().set_crank(124);
    shoot(QStringLiteral("train"));
    window.show_station(QStringLiteral("station_motion"));
    shoot(QStringLiteral("motion"));
    window.show_station(QStringLiteral("station_rig"));
    shoot(QStringLiteral("rig"));
    if (!window.rig().path().isEmpty()) {
        RigImportDialog dialog(window.rig().path(), &window);
        dialog.show();
        settle();
        good = dialog.grab().save(QDir(folder).filePath(QStringLiteral("rig-import.png"))) && good;
    }
    window.theme().set_look(Look::Dark);
    shoot(QStringLiteral("rig-dark"));
    return good;
}

} // namespace bathmos::app
