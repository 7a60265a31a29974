// Somebody who clicks at random through all stations while a rig turns: nothing crashes, hangs, grows, or
// loses the project.
//
// BATHMOS_MONKEY=seconds runs on for so long (docs/accuracy.md), from the seed in BATHMOS_MONKEY_SEED.
#include "app/stations/rig/live_view.h"
#include "app_fixture.h"
#include "io/project/store.h"
#include "process_memory.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAbstractSpinBox>
#include <QCheckBox>
#include <QComboBox>
#include <QElapsedTimer>
#include <QMenu>
#include <QPlainTextEdit>
#include <QScrollArea>
#include <QSlider>
#include <QTabBar>
#include <random>

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr int kActs = 100;
constexpr int kActs_between_looks = 25;    ///< at the rig
constexpr qint64 kSaid_every_ms = 600'000; ///< of a long run: memory

// What a hand would not do at random: leave the program.
bool forbidden(const QAction* action) {
    return action->objectName() == QStringLiteral("quit") ||
           action->objectName() == QStringLiteral("open_left_behind");
}

class Monkey {
  public:
    Monkey(MainWindow& window, unsigned seed) : window_(window), random_(seed) {
        // Questions that wait for an answer: left, as often as not with Enter.
        QObject::connect(&answer_, &QTimer::timeout, &answer_, [this] {
            if (QWidget* popup = QApplication::activePopupWidget())
                popup->close();
            if (QWidget* asking = QApplication::activeModalWidget()) {
                if (pick(2) == 0)
                    QTest::keyClick(asking, Qt::Key_Return);
                if (QApplication::activeModalWidget() == asking)
                    asking->close();
            }
        });
        answer_.start(150);
    }

    void act() {
        const std::size_t kind = pick(10);
        if (kind == 0) {
            const QList<QAction*> actions = window_.actions_by_id().all();
            QAction* action = actions[static_cast<qsizetype>(pick(static_cast<std::size_t>(actions.size())))];
            done_ = action->objectName();
            if (!forbidden(action) && action->isEnabled())
                action->trigger();
        } else if (QWidget* target = some_widget()) {
            done_ = QStringLiteral("%1 %2").arg(QLatin1String(target->metaObject()->className()),
                                                target->objectName());
            use(target);
        }
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
    }
    const QString& done() const { return done_; }

  private:
    std::size_t pick(std::size_t most) { return most ? random_() % most : 0; }

    QWidget* some_widget() {
        QList<QWidget*> out;
        for (QWidget* w : window_.findChildren<QWidget*>())
            if (w->isVisible() && w->isEnabled() && w->focusPolicy() != Qt::NoFocus)
                out << w;
        return out.isEmpty() ? nullptr
                             : out[static_cast<qsizetype>(pick(static_cast<std::size_t>(out.size())))];
    }

    void use(QWidget* w) {
        const QPoint somewhere(static_cast<int>(pick(static_cast<std::size_t>(std::max(1, w->width())))),
                               static_cast<int>(pick(static_cast<std::size_t>(std::max(1, w->height())))));
        if (auto* combo = qobject_cast<QComboBox*>(w)) {
            if (combo->count() > 0) {
                combo->setCurrentIndex(static_cast<int>(pick(static_cast<std::size_t>(combo->count()))));
                emit combo->activated(combo->currentIndex());
            }
            return;
        }
        if (qobject_cast<QLineEdit*>(w) || qobject_cast<QPlainTextEdit*>(w) ||
            qobject_cast<QAbstractSpinBox*>(w)) {
            static const char* const kTyped[] = {"1", "7.5", "0", "-3", "1e9", "abc", "42,5", ""};
            w->setFocus();
            QTest::keyClick(w, Qt::Key_A, Qt::ControlModifier);
            QTest::keyClicks(w, QLatin1String(kTyped[pick(std::size(kTyped))]));
            if (pick(2) == 0)
                QTest::keyClick(w, Qt::Key_Return);
            return;
        }
        if (pick(5) == 0) {
            static const Qt::Key kKeys[] = {Qt::Key_Up,    Qt::Key_Down,  Qt::Key_Left,
                                            Qt::Key_Right, Qt::Key_Space, Qt::Key_Delete,
                                            Qt::Key_Tab,   Qt::Key_Home,  Qt::Key_Escape};
            return QTest::keyClick(w, kKeys[pick(std::size(kKeys))]);
        }
        if (auto* area = qobject_cast<QAbstractScrollArea*>(w))
            w = area->viewport();
        QTest::mouseClick(w, Qt::LeftButton, {}, somewhere);
    }

    MainWindow& window_;
    std::mt19937 random_;
    QTimer answer_;
    QString done_;
};

// The stand-in rig beside the hands: started through its buttons, and anew where a hand has stopped it.
class RigBeside {
  public:
    explicit RigBeside(Fixture& f) : f_(f) {}

    void look() {
        if (!view_) {
            f_.window->show_station(QStringLiteral("station_rig"));
            view_ = f_.window->findChild<LiveView*>();
        }
        const LiveRunner& runner = view_->runner();
        if (!runner.on()) {
            seen_ += std::exchange(last_, 0);
            click("live_standin");
            return;
        }
        const session::LiveSnapshot now = runner.now();
        last_ = now.samples;
        if (now.programme || now.pieces != 1)
            return;
        f_.find<QCheckBox>("live_caution")->setChecked(true);
        f_.find<QLineEdit>("live_steps")->setText(QStringLiteral("1500:6500:250"));
        click("live_make_steps");
        click("live_start");
    }
    std::uint64_t samples() const { return seen_ + last_; }

  private:
    // In sight, as a hand needs it: what is not seen is not drawn anew, nor let go.
    void click(const char* name) {
        f_.window->show_station(QStringLiteral("station_rig"));
        f_.window->findChild<Station*>(QStringLiteral("station_rig"))->navigate(QStringLiteral("live"));
        QTest::qWait(100);
        f_.find<QPushButton>(name)->click();
    }

    Fixture& f_;
    LiveView* view_ = nullptr;
    std::uint64_t seen_ = 0, last_ = 0;
};

} // namespace

class TestMonkey : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void random_hands_break_nothing_data() {
        QTest::addColumn<unsigned>("seed");
        const unsigned first = qEnvironmentVariable("BATHMOS_MONKEY_SEED", "1").toUInt();
        const unsigned count = qEnvironmentVariableIsSet("BATHMOS_MONKEY") ? 1 : 2;
        for (unsigned seed = first; seed < first + count; ++seed)
            QTest::newRow(qPrintable(QStringLiteral("seed %1").arg(seed))) << seed;
    }
    void random_hands_break_nothing() {
        QFETCH(unsigned, seed);
        const QString project = Fixture::folder().filePath(QStringLiteral("monkey-%1.bathmos").arg(seed));
        io::import_project(source_file("demo/project"), project.toStdString());
        qint64 slowest = 0, acts = 0;
        QString slow;
        {
            Fixture f;
            QVERIFY(f.window->open_train(project));
            f.window->sweep().set_range({6000, 8000, 1000});
            Monkey monkey(*f.window, seed);
            RigBeside rig(f);
            const qint64 most_ms = 1000 * qEnvironmentVariable("BATHMOS_MONKEY", "0").toLongLong();
            QElapsedTimer whole, one;
            whole.start();
            qint64 said_ms = 0;
            for (; most_ms > 0 ? whole.elapsed() < most_ms : acts < kActs; ++acts) {
                one.start();
                monkey.act();
                if (one.elapsed() > slowest) {
                    slowest = one.elapsed();
                    slow = monkey.done();
                }
                if (acts % kActs_between_looks == 0)
                    rig.look();
                if (whole.elapsed() > said_ms + kSaid_every_ms) {
                    said_ms = whole.elapsed();
                    qInfo("%lld min: %lld acts, %.0f MB, %llu samples of the rig", said_ms / 60'000, acts,
                          memory_MB(), static_cast<unsigned long long>(rig.samples()));
                }
            }
            f.trigger("stop");
            QVERIFY(most_ms == 0 || rig.samples() > 0);
        }
        qInfo("%lld acts, the slowest took %lld ms: %s", acts, slowest, qPrintable(slow));
        const io::Store store = io::Store::open(project.toStdString()); // it opens, and all of it is there
        QVERIFY(store.read_only_why().empty());
        QVERIFY(store.project().revisions.size() >= 4);
    }
};

QTEST_MAIN(TestMonkey)
#include "tst_monkey.moc"
