#include "app/shell/main_window.h"
#include "app/text/words.h"

#include "app/desk/station.h"
#include "app/help/help_beside.h"
#include "app/help/help_panel.h"
#include "app/shell/claims.h"
#include "app/shell/file_drop.h"
#include "app/shell/limits_dialog.h"
#include "app/shell/log_file.h"
#include "app/shell/window_memory.h"
#include "app/stations/bench/bench_station.h"
#include "app/stations/dyno/dyno_station.h"
#include "app/stations/lobe/lobe_station.h"
#include "app/stations/log/log_station.h"
#include "app/stations/motion/motion_station.h"
#include "app/stations/plan/plan_station.h"
#include "app/stations/rig/rig_station.h"
#include "app/stations/train/train_station.h"
#include "app/stations/verdict/verdict_station.h"
#include "app/widgets/table_copy.h"
#include "io/file/safe_file.h"
#include "io/result/result_h5.h"
#include "io/result/result_text.h"
#include "session/results/predictions.h"

#include <QApplication>
#include <QButtonGroup>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenuBar>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {
constexpr int kRailWidth = 84, kHelpWidth = 320;
constexpr double kIdle_rpm = 1000;
constexpr int kLeastStation = 420;

// A station takes the room that there is, whatever its words would like: else the strip below it would give
// way, by more or less after one order of events than after another.
class Stations : public QStackedWidget {
  public:
    Stations() { setMinimumHeight(kLeastStation); }
    bool hasHeightForWidth() const override { return false; }
};

} // namespace

MainWindow::MainWindow(const WindowOptions& options, QWidget* parent)
    : QMainWindow(parent), document_(options.recovery_path), sweep_(document_), rig_(document_),
      what_if_(document_, sweep_, cursors_), uncertainty_(document_, sweep_) {
    dialogs_ = options.dialogs ? *options.dialogs : real_dialogs(this);
    static const Look desktop = look_of(QGuiApplication::palette()); // before it is ours
    desktop_ = options.remember ? desktop : Look::Light;
    theme_.set_look(desktop_);
    resize(1280, 800);
    make_layout(options);
    make_stations();
    make_actions();
    make_menu();
    const auto strip = [this] { refresh_strip(); };
    connect(&document_, &Document::changed, this, strip);
    connect(&sweep_, &SweepRunner::motions_changed, this, strip);
    connect(&rig_, &RigSession::changed, this, strip);
    connect(&dyno_, &DynoSession::changed, this, strip);
    connect(&what_if_, &WhatIf::changed, this, strip);
    connect(&uncertainty_, &UncertaintyRunner::changed, this, [this] { refresh_band(); });
    connect(&document_, &Document::changed, this, [this] { refresh_band(); });
    connect(&document_, &Document::range_changed, this, strip);
    connect(&document_, &Document::limits_changed, this, strip);
    connect(&document_, &Document::limits_changed, this, [this] { refresh_band(); });
    connect(bar_, &BuildBar::limits_wanted, this, [this] { choose_limits(); });
    connect(&document_, &Document::file_changed, this, &MainWindow::refresh_title);
    connect(&document_, &Document::changed, this, &MainWindow::refresh_title);
    connect(&document_, &Document::refused, this, &MainWindow::show_message);
    connect(&document_, &Document::copy_advised, this, [this] { save_copy_->show(); });
    connect(&files_, &ProjectFiles::message, this, &MainWindow::show_message);
    connect(&files_, &ProjectFiles::opened, this, [this] { settled(true); });
    connect(&document_, &Document::records_changed, this, strip);
    connect(strip_, &ThresholdStrip::link_wanted, this, &MainWindow::show_link);
    connect(&document_, &Document::judged, this, strip);
    connect(&cursors_, &Cursors::speed_changed, this, [this] { judge_motion(); });
    connect(&sweep_, &SweepRunner::motions_changed, this, [this] { judge_motion(); });
    connect(&sweep_, &SweepRunner::finished, this, [this] { note_prediction(); });
    connect(&uncertainty_, &UncertaintyRunner::changed, this, [this] { note_prediction(); });
    refresh_strip();
    refresh_title();
    offer_recovery();
    open_left_behind_ = options.open_left_behind;
    actions_.find(QStringLiteral("open_left_behind"))->setVisible(static_cast<bool>(open_left_behind_));
    new TableCopy(this);
    new FileDrop(this, [this](const QStringList& paths) { take_files(paths); });
    log_path_ = options.log;
    demo_from_ = options.demo;
    demo_folder_ =
        options.demo_folder.isEmpty()
            ? QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/demo")
            : options.demo_folder;
    remember_ = options.remember;
    guide_ = new StartGuide(theme_, units_, dialogs_, files_, remember_, this);
    connect(guide_, &StartGuide::made, this, [this] {
        settled(true);
        show_station(QStringLiteral("station_train"));
    });
    if (remember_)
        come_back();
    connect(&document_, &Document::file_changed, this, [this] {
        if (remember_ && !document_.draft() && document_.path() != noted_)
            note_recent(noted_ = document_.path());
    });
    strip_->setFocus(); // the speed cursor answers to the arrows from the start
}

// Views go before what they show: as members, document and results would else be gone first.
MainWindow::~MainWindow() {
    document_.disconnect();
    delete takeCentralWidget();
}

void MainWindow::make_layout(const WindowOptions& options) {
    auto* page = new QWidget;
    auto* across = new QHBoxLayout(page);
    across->setContentsMargins(0, 0, 0, 0);
    across->setSpacing(0);
    auto* rail = new QWidget;
    rail->setObjectName(QStringLiteral("rail"));
    rail_ = new QVBoxLayout(rail);
    rail_->setContentsMargins(6, 10, 6, 6);
    rail_->addStretch();
    rail_group_ = new QButtonGroup(this);
    across->addWidget(rail);
    auto* middle = new QVBoxLayout;
    middle->setSpacing(0);
    across->addLayout(middle, 1);
    bar_ = new BuildBar(context());
    middle->addWidget(bar_);
    message_bar_ = new QWidget;
    message_bar_->setObjectName(QStringLiteral("message_bar"));
    auto* words = new QHBoxLayout(message_bar_);
    words->setContentsMargins(12, 4, 12, 4);
    message_ = new QLabel;
    message_->setObjectName(QStringLiteral("message"));
    message_->setWordWrap(true);
    message_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    auto* close = new QPushButton(tr("Close message"));
    connect(close, &QPushButton::clicked, message_bar_, &QWidget::hide);
    save_copy_ = new QPushButton(tr("Save a copy"));
    save_copy_->setObjectName(QStringLiteral("message_save_copy"));
    save_copy_->hide();
    connect(save_copy_, &QPushButton::clicked, this, [this] { files_.save_copy(); });
    words->addWidget(message_, 1);
    words->addWidget(save_copy_);
    words->addWidget(close);
    message_bar_->hide();
    middle->addWidget(message_bar_);
    stack_ = new Stations;
    help_ = new HelpPanel(theme_);
    help_->set_language(options.language);
    help_->setFixedWidth(kHelpWidth);
    help_->hide();
    middle->addWidget(new HelpBeside(stack_, help_), 1);
    strip_ = new ThresholdStrip(theme_, cursors_);
    middle->addWidget(strip_);
    auto* room =
        new QScrollArea; // where the screen is smaller than the page needs, all of it is still reached
    room->setObjectName(QStringLiteral("page_room"));
    room->setFrameShape(QFrame::NoFrame);
    room->setFocusPolicy(Qt::NoFocus);
    room->setWidgetResizable(true);
    room->setWidget(page);
    setCentralWidget(room);
}

void MainWindow::make_stations() {
    rig_station_ = new RigStation(context());
    add_station(1, new TrainStation(context(), dialogs_));
    lobe_station_ = new LobeStation(context(), dialogs_);
    add_station(2, lobe_station_);
    add_station(3, new BenchStation(context(), dialogs_));
    add_station(4, new MotionStation(context()));
    add_station(5, new PlanStation(context(), dialogs_));
    add_station(6, rig_station_);
    dyno_station_ = new DynoStation(context(), dialogs_);
    add_station(7, dyno_station_);
    auto* verdict = new VerdictStation(context(), dialogs_);
    add_station(8, verdict);
    connect(verdict, &VerdictStation::link_wanted, this, &MainWindow::show_link);
    auto* log = new LogStation(context(), dialogs_);
    add_station(9, log);
    connect(log, &LogStation::link_wanted, this, &MainWindow::show_link);
    rail_group_->buttons().first()->setChecked(true);
}

// Stations keep the number of their place in the work, so that keys stay the same when more arrive.
void MainWindow::add_station(int number, Station* station) {
    stack_->addWidget(station);
    auto* button = new QToolButton;
    button->setObjectName(QStringLiteral("rail_") + station->objectName());
    button->setText(station->title());
    button->setAccessibleName(station->title());
    button->setCheckable(true);
    button->setAutoRaise(true);
    button->setFixedHeight(40);
    button->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    button->setMinimumWidth(
        std::max(kRailWidth - 12, button->fontMetrics().horizontalAdvance(button->text()) + 10));
    rail_->insertWidget(rail_->count() - 1, button);
    rail_group_->addButton(button);
    const QString name = station->objectName();
    QAction* action = actions_.add(QStringLiteral("go_") + name, tr("Go to %1").arg(station->title()),
                                   QKeySequence(Qt::CTRL | static_cast<Qt::Key>(Qt::Key_0 + number)),
                                   [this, name] { show_station(name); });
    button->setToolTip(action->toolTip());
    connect(button, &QToolButton::clicked, action, &QAction::trigger);
    connect(station, &Station::message, this, &MainWindow::show_message);
    connect(station, &Station::wants, &actions_, &ActionRegistry::run);
}

void MainWindow::make_actions() {
    const auto add = [this](const char* id, const QString& text, const QKeySequence& keys,
                            std::function<void()> run) {
        addAction(actions_.add(QLatin1String(id), text, keys, std::move(run)));
    };
    add("new_train", tr("New train from what you have…"), QKeySequence::New, [this] { guide_->open(); });
    add("open_train", tr("Open project or train…"), QKeySequence::Open,
        [this] { settled(files_.open_asking()); });
    add("open_left_behind", tr("Open what was left behind"), {}, [this] {
        if (open_left_behind_)
            open_left_behind_();
    });
    add("keep_project", tr("Keep project as…"), QKeySequence::Save, [this] { files_.keep(); });
    add("log_note", tr("Add to the log…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N),
        [this] { show_link(QStringLiteral("log/note")); });
    add("between", tr("Last good, first bad"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_B),
        [this] { show_link(QStringLiteral("log/between")); });
    add("tell_others", tr("Report or pack for others"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_R),
        [this] { show_link(QStringLiteral("log/tell")); });
    add("save_copy", tr("Save a copy…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
        [this] { files_.save_copy(); });
    add("export_train", tr("Export train file…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_E),
        [this] { files_.export_train(); });
    add("export_folder", tr("Export project as a folder…"), {}, [this] { files_.export_folder(); });
    add("import_folder", tr("Import a project folder…"), {}, [this] { files_.import_folder(); });
    add("rescue", tr("Rescue a damaged project…"), {}, [this] { files_.rescue(); });
    add("import_rig", tr("Import rig trace…"), QKeySequence(Qt::CTRL | Qt::Key_I), [this] { import_rig(); });
    add("import_lobe", tr("Import lobe profile…"), QKeySequence(Qt::CTRL | Qt::Key_J),
        [this] { import_lobe(); });
    add("import_pull", tr("Import dyno pulls…"), QKeySequence(Qt::CTRL | Qt::Key_D),
        [this] { import_pull(); });
    add("export_results", tr("Export results…"), QKeySequence(Qt::CTRL | Qt::Key_E),
        [this] { export_results(); });
    add("quit", tr("Quit"), QKeySequence(Qt::CTRL | Qt::Key_Q), [this] { close(); });
    add("undo", tr("Undo"), QKeySequence(Qt::CTRL | Qt::Key_Z), [this] { document_.undo(); });
    add("redo", tr("Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), [this] { document_.redo(); });
    add("limits", tr("Limits in force…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_L),
        [this] { choose_limits(); });
    add("units", tr("Metric or inch"), QKeySequence(Qt::CTRL | Qt::Key_U), [this] { units_.toggle(); });
    add("look", tr("Light or dark"), QKeySequence(Qt::CTRL | Qt::Key_L), [this] { toggle_look(); });
    add("settings", tr("Settings, keys…"), QKeySequence(Qt::CTRL | Qt::Key_Comma),
        [this] { change_settings(); });
    add("print", tr("Print this station…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_P),
        [this] { print_station(); });
    add("strip", tr("Go to the threshold strip"), QKeySequence(Qt::CTRL | Qt::Key_T),
        [this] { strip_->setFocus(Qt::ShortcutFocusReason); });
    add("stop", tr("Stop what is running"), QKeySequence(Qt::CTRL | Qt::Key_Period), [this] {
        sweep_.stop();
        rig_.stop();
        what_if_.leave();
        uncertainty_.stop();
        calibration_.stop();
        comparison_.stop();
        files_.stop();
        for (int i = 0; i < stack_->count(); ++i)
            static_cast<Station*>(stack_->widget(i))->stop();
    });
    add("demo", tr("See the demo's story"), {}, [this] { see_demo(); });
    add("log_file", tr("Where the program's own log is"), {}, [this] {
        show_message(log_path_.isEmpty()
                         ? tr("This run keeps no log.")
                         : tr("%1 says what the program did, for whoever mends it. Nothing of an "
                              "engine stands in it: no names, paths or numbers.")
                               .arg(log_path_));
    });
    add("find", tr("Find an action, a word, help…"), QKeySequence(Qt::CTRL | Qt::Key_K), [this] { find(); });
    add("help", tr("Help for this station"), QKeySequence(Qt::Key_F1), [this] { toggle_help(); });
    add("physics", tr("Equations and sources"), QKeySequence(Qt::SHIFT | Qt::Key_F1),
        [this] { help_->show_page(QStringLiteral("physics")); });
    add("explain", tr("What is this? The chosen metric, finding or cause"),
        QKeySequence(Qt::CTRL | Qt::Key_F1),
        [this] { help_->show_entry(static_cast<Station*>(stack_->currentWidget())->subject()); });
    add("glossary", tr("Words"), {}, [this] { help_->show_page(QStringLiteral("glossary")); });
    const auto name_undo = [this] {
        const QString undo = document_.undo_text(), redo = document_.redo_text();
        actions_.find(QStringLiteral("undo"))
            ->setText(undo.isEmpty() ? tr("Undo") : tr("Undo: %1").arg(undo));
        actions_.find(QStringLiteral("redo"))
            ->setText(redo.isEmpty() ? tr("Redo") : tr("Redo: %1").arg(redo));
    };
    connect(&document_, &Document::file_changed, this, name_undo);
    for (QAction* action : actions_.all()) {
        addAction(action);
        connect(action, &QAction::triggered, this, [id = action->objectName()] { log_event("action", id); });
    }
}

void MainWindow::make_menu() {
    const auto fill = [this](QMenu* menu, std::initializer_list<const char*> ids) {
        for (const char* id : ids)
            menu->addAction(actions_.find(QLatin1String(id)));
    };
    QMenu* file = menuBar()->addMenu(tr("&File"));
    fill(file, {"new_train", "open_train", "open_left_behind", "keep_project", "save_copy", "import_rig",
                "import_lobe", "import_pull", "export_results", "export_train", "export_folder",
                "tell_others", "import_folder", "rescue", "print", "quit"});
    recent_ = new QMenu(tr("Open last"), file);
    recent_->menuAction()->setObjectName(QStringLiteral("open_recent"));
    file->insertMenu(actions_.find(QStringLiteral("keep_project")), recent_);
    connect(recent_, &QMenu::aboutToShow, this, &MainWindow::fill_recent);
    fill(menuBar()->addMenu(tr("&Edit")), {"undo", "redo", "log_note", "limits", "settings"});
    fill(menuBar()->addMenu(tr("&View")),
         {"go_station_train", "go_station_lobe", "go_station_bench", "go_station_motion", "go_station_plan",
          "go_station_rig", "go_station_dyno", "go_station_verdict", "go_station_log", "between", "strip",
          "units", "look", "stop"});
    fill(menuBar()->addMenu(tr("&Help")),
         {"demo", "find", "help", "explain", "physics", "glossary", "log_file"});
}

bool MainWindow::open_train(const QString& path) {
    return settled(files_.open(path));
}

// After another project was opened, or not.
bool MainWindow::settled(bool opened) {
    if (!opened)
        return false;
    if (document_.read_only_why().isEmpty())
        message_bar_->hide();
    return true;
}

void MainWindow::show_station(const QString& name) {
    for (int i = 0; i < stack_->count(); ++i) {
        if (stack_->widget(i)->objectName() != name)
            continue;
        stack_->setCurrentIndex(i);
        rail_group_->buttons()[i]->setChecked(true);
        // Qt keeps the stop for Tab with the button that last had the keyboard: it belongs to the station
        // shown.
        for (QAbstractButton* button : rail_group_->buttons())
            button->setFocusPolicy(button->isChecked() ? Qt::TabFocus : Qt::NoFocus);
        show_help();
    }
}

void MainWindow::show_message(const QString& text) {
    message_->setText(text);
    message_->setAccessibleName(text);
    save_copy_->hide();
    message_bar_->show();
}

QString MainWindow::message() const {
    return message_bar_->isHidden() ? QString() : message_->text();
}

void MainWindow::toggle_help() {
    show_help();
    help_->setVisible(help_->isHidden());
}

void MainWindow::show_help() {
    help_->show_help(static_cast<Station*>(stack_->currentWidget())->help());
}

void MainWindow::refresh_title() {
    const QString name = document_.has_train() ? QString::fromStdString(document_.train().name) : QString();
    setWindowTitle(name.isEmpty() ? tr("Bathmos") : tr("%1 – Bathmos").arg(name));
}

void MainWindow::choose_limits() {
    if (!document_.has_train())
        return show_message(tr("Open a project or a train first: limits belong to a project."));
    LimitsDialog dialog(document_.session().limit_set(), document_.project(), units_, this);
    if (dialog.exec() == QDialog::Accepted)
        document_.set_limits(dialog.chosen(), dialog.reason());
}

// A view by its link, as the verdict's evidence names it: "dyno/channel/blower", "rig/metric/bounce_mm".
void MainWindow::show_link(const QString& link) {
    show_station(QStringLiteral("station_") + link.section(QLatin1Char('/'), 0, 0));
    static_cast<Station*>(stack_->currentWidget())->navigate(link.section(QLatin1Char('/'), 1));
}

void MainWindow::refresh_strip() {
    const StripClaims claims = claims_of(context());
    strip_->set_reach(kIdle_rpm, 1.03 * claims.high_rpm);
    strip_->set_marks(claims.marks);
    strip_->set_agreement(claims.agreement);
}

void MainWindow::refresh_band() {
    strip_->set_band(band_of(context()));
    refresh_strip();
}

void MainWindow::export_results() {
    if (sweep_.current().motions.empty())
        return show_message(tr("Nothing is computed yet, so there is nothing to export."));
    const QString path = dialogs_.save_results(QStringLiteral("results.h5"));
    if (path.isEmpty())
        return;
    std::vector<std::shared_ptr<const Motion>> motions;
    for (const auto& [rpm, motion] : sweep_.current().motions)
        motions.push_back(motion);
    try {
        if (path.endsWith(QStringLiteral(".h5")))
            io::write_motions_h5(path.toStdString(), motions, sweep_.current().rigid_m,
                                 document_.train().name, document_.limits().name);
        else
            io::write_file(path.toStdString(),
                           io::motion_table(motions, sweep_.current().rigid_m, cursors_.speed_rpm()));
    } catch (const InputError& error) {
        show_message(tr("The results were not exported. %1").arg(phrase(error.what())));
    }
}

void MainWindow::offer_recovery() {
    if (!document_.reopen_draft())
        return;
    show_message(
        tr("The project \"%1\" had no name yet when the program ended. It is open again with every edit: "
           "keep it under a name, or open another one.")
            .arg(QString::fromStdString(document_.train().name)));
}

void MainWindow::tell_left_behind() {
    if (!open_left_behind_)
        return;
    const QString told = message_bar_->isHidden() ? QString() : message() + QLatin1Char(' ');
    show_message(told + tr("A project without a name was left behind by an earlier run: File, Open what was "
                           "left behind. Nothing of it is lost meanwhile."));
}

void MainWindow::fill_recent() {
    recent_->clear();
    for (const QString& path : recent_projects())
        recent_->addAction(QFileInfo(path).fileName() + QStringLiteral("  ") + QFileInfo(path).path(), this,
                           [this, path] { open_train(path); });
    if (recent_->isEmpty())
        recent_->addAction(tr("none yet"))->setEnabled(false);
}

// Clearances and bind margin are judged with the motion at the speed cursor, where it is computed.
void MainWindow::judge_motion() {
    const auto& motions = sweep_.current().motions;
    const auto at = motions.lower_bound(cursors_.speed_rpm() - sweep_.range().step_rpm / 2);
    const bool near = at != motions.end() && at->first <= cursors_.speed_rpm() + sweep_.range().step_rpm / 2;
    document_.judge_motion(near ? at->second : nullptr);
}

// What was computed for the revision in hand goes into the record.
void MainWindow::note_prediction() {
    bool old = false;
    const SweepSummary* summary = sweep_.summary(&old);
    if (!summary || old || sweep_.state() != SweepRunner::State::Done || !document_.has_train())
        return;
    const LimitUncertainty* uncertainty = uncertainty_.old() ? nullptr : uncertainty_.uncertainty();
    document_.note_prediction(session::prediction_of(document_.session().sweep_inputs(), document_.shown(),
                                                     *summary, uncertainty, document_.stops()));
}

} // namespace bathmos::app
