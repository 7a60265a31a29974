// A rig at 200 000 samples a second beside the window, as it would come: how long after its last sample a
// turn stands over asked and predicted, painted, and how long the window's thread is busy at a stretch (run
// it with QT_QPA_PLATFORM=offscreen).
#include "app/plot/plot.h"
#include "app/shell/main_window.h"
#include "app/stations/rig/live_view.h"
#include "app/widgets/refresher.h"
#include "core/train/train_starter.h"
#include "io/train/train_file.h"
#include "rig_feeder.h"
#include "timing.h"

#include <QApplication>
#include <QLineEdit>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>
#include <algorithm>
#include <fmt/format.h>
#include <utility>

using namespace bathmos;
using namespace bathmos::bench;

namespace {

using Clock = RigFeeder::Clock;

double since_ms(Clock::time_point begin, Clock::time_point end = Clock::now()) {
    return std::chrono::duration<double, std::milli>(end - begin).count();
}

constexpr double kLong_ms = 12;

// Times what the event loop hands out, and hears when the lift was painted.
class Timed : public QApplication {
  public:
    using QApplication::QApplication;
    const QWidget* watched = nullptr;
    std::function<void()> painted;
    bool counts = false;
    std::vector<double> busy_ms;
    std::vector<std::pair<double, QString>> longest; ///< events over kLong_ms, and who had them

    bool notify(QObject* to, QEvent* event) override {
        const bool paints =
            watched && event->type() == QEvent::Paint &&
            (to == watched || (to->isWidgetType() && watched->isAncestorOf(static_cast<QWidget*>(to))));
        const bool outermost = depth_++ == 0;
        const QString who =
            outermost && counts
                ? QStringLiteral("%1 to %2 in %3")
                      .arg(event->type())
                      .arg(QLatin1String(to->metaObject()->className()),
                           to->parent() ? QLatin1String(to->parent()->metaObject()->className())
                                        : QLatin1String())
                : QString();
        const Clock::time_point begin = Clock::now();
        const bool out = QApplication::notify(to, event);
        --depth_;
        if (outermost && counts) {
            busy_ms.push_back(since_ms(begin));
            if (busy_ms.back() > kLong_ms)
                longest.emplace_back(busy_ms.back(), who);
        }
        if (paints && painted)
            painted();
        return out;
    }

  private:
    int depth_ = 0;
};

double part_of(std::vector<double> all, double part) {
    std::sort(all.begin(), all.end());
    return all.empty() ? 0 : all[static_cast<std::size_t>(part * static_cast<double>(all.size() - 1))];
}

std::vector<double> speeds() {
    std::vector<double> out;
    for (double rpm = 4000; rpm <= 7900; rpm += 100)
        out.push_back(rpm);
    return out;
}

} // namespace

int main(int argc, char** argv) {
    Timed application(argc, argv);
    app::Theme::load_fonts();
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("bench.train.json"));
    io::write_train(path.toStdString(), starter_train());
    app::MainWindow window(app::WindowOptions{});
    window.resize(1280, 800);
    window.show();
    window.open_train(path);
    window.show_station(QStringLiteral("station_rig"));
    while (window.sweep().state() != app::SweepRunner::State::Done)
        QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);

    RigFeeder feeder(starter_train(), {.speeds_rpm = speeds(), .block_s = 0.01, .as_it_comes = true});
    window.findChild<QPushButton*>(QStringLiteral("empty_live"))->click();
    auto* view = window.findChild<app::LiveView*>();
    view->findChild<QLineEdit*>(QStringLiteral("live_address"))
        ->setText(QStringLiteral("127.0.0.1:") + QString::fromStdString(feeder.port));
    for (const app::Plot* plot : view->findChildren<app::Plot*>())
        if (plot->accessibleName() == QStringLiteral("The last turn over asked and predicted"))
            application.watched = plot;
    std::size_t heard = 0, before = 0;
    Clock::time_point heard_at;
    QObject::connect(&view->runner(), &app::LiveRunner::changed, [&] {
        const session::LiveSnapshot& now = view->runner().now();
        before = std::exchange(heard, now.good_cycles + now.bad_cycles + now.not_shown);
        heard_at = Clock::now();
    });
    std::size_t shown = 0;
    std::vector<double> late_ms;
    application.painted = [&] {
        // what was heard within the pause before a redraw cannot be in it
        const std::size_t now = since_ms(heard_at) < app::kAtOnce_ms ? before : heard;
        const std::vector<Clock::time_point> ended = feeder.turns_ended();
        for (; shown < std::min(now, ended.size()); ++shown)
            late_ms.push_back(since_ms(ended[shown]));
    };
    application.counts = true;
    view->findChild<QPushButton*>(QStringLiteral("live_connect"))->click();
    QTimer end;
    QObject::connect(&end, &QTimer::timeout, [&] {
        if (feeder.done)
            QCoreApplication::quit();
    });
    end.start(500);
    QApplication::exec();
    application.counts = false;
    const session::LiveSnapshot& now = view->runner().now();
    fmt::print("turns: {} sent, {} painted or passed by a newer one, {} left out; samples lost {}\n",
               feeder.turns_ended().size(), late_ms.size(), now.not_shown, now.lost);
    fmt::print("from a turn's last sample to its picture, blocks of 10 ms: {:.0f} ms (median), {:.0f} ms "
               "(99 of 100), {:.0f} ms at most\n",
               part_of(late_ms, 0.5), part_of(late_ms, 0.99), part_of(late_ms, 1));
    fmt::print("window's thread busy at a stretch: {:.1f} ms (99 of 100 events), {:.1f} ms (999 of 1000), "
               "{:.1f} ms at most, of {} events\n",
               part_of(application.busy_ms, 0.99), part_of(application.busy_ms, 0.999),
               part_of(application.busy_ms, 1), application.busy_ms.size());
    std::sort(application.longest.rbegin(), application.longest.rend());
    for (std::size_t i = 0; i < std::min<std::size_t>(8, application.longest.size()); ++i)
        fmt::print("  {:.1f} ms: event {}\n", application.longest[i].first,
                   application.longest[i].second.toStdString());
    view->findChild<QPushButton*>(QStringLiteral("live_connect"))->click();
}
