// The window: rail of stations on the left, build bar on top, station in the middle, threshold strip at the
// bottom.
#pragma once

#include "app/desk/action_registry.h"
#include "app/desk/context.h"
#include "app/desk/dialogs.h"
#include "app/settings/settings.h"
#include "app/shell/build_bar.h"
#include "app/shell/find_index.h"
#include "app/shell/project_files.h"
#include "app/shell/start_guide.h"
#include "app/shell/threshold_strip.h"
#include "app/shell/tour.h"

#include <QMainWindow>

class QButtonGroup;
class QLabel;
class QMenu;
class QPushButton;
class QStackedWidget;
class QVBoxLayout;

namespace bathmos::app {

class HelpPanel;
class Station;
class LobeStation;
class DynoStation;
class RigStation;

struct WindowOptions {
    QString recovery_path;          ///< file of a project without a name; empty: in memory
    std::optional<Dialogs> dialogs; ///< the real ones when absent
    /// Opens what an earlier run left behind without a name, in a window of its own; empty: nothing was.
    std::function<void()> open_left_behind{};
    /// Where the demo is and where its copy goes; empty: beside the program, the user's data.
    QString demo{}, demo_folder{};
    QString log{};                           ///< path of the program's log; empty: there is none
    QString language = QStringLiteral("en"); ///< of pages of help
    bool remember = false; ///< place, station, units, look and recent projects come back at the next start
};

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(const WindowOptions& options = {}, QWidget* parent = nullptr);
    ~MainWindow() override;

    Document& document() { return document_; }
    SweepRunner& sweep() { return sweep_; }
    RigSession& rig() { return rig_; }
    WhatIf& what_if() { return what_if_; }
    UncertaintyRunner& uncertainty() { return uncertainty_; }
    Comparison& comparison() { return comparison_; }
    DynoSession& dyno() { return dyno_; }
    CalibrationRunner& calibration() { return calibration_; }
    Cursors& cursors() { return cursors_; }
    Theme& theme() { return theme_; }
    DisplayUnits& units() { return units_; }
    ActionRegistry& actions_by_id() { return actions_; }
    ThresholdStrip& strip() { return *strip_; }
    BuildBar& build_bar() { return *bar_; }
    StartGuide& guide() { return *guide_; }
    QString message() const;

    /// Opens a project or a train; a problem goes to the message bar and nothing changes.
    bool open_train(const QString& path);
    /// Shows the station with this object name, e.g. "station_rig".
    void show_station(const QString& name);
    void show_message(const QString& text);
    /// Files of any kind that the program reads: each goes where it belongs.
    void take_files(const QStringList& paths);
    /// Says that an earlier run left something behind, if it did.
    void tell_left_behind();
    /// Opens again what a run had open that ended by itself.
    void open_again(const QString& project);

  protected:
    void closeEvent(QCloseEvent* event) override;

  private:
    Context context() {
        return {theme_,   units_,       cursors_,    document_, sweep_,      rig_,
                what_if_, uncertainty_, comparison_, dyno_,     calibration_};
    }
    void make_layout(const WindowOptions& options);
    void make_stations();
    void add_station(int number, Station* station);
    void make_actions();
    void make_menu();
    bool settled(bool opened);
    void judge_motion();
    void note_prediction();
    void import_rig();
    void import_lobe();
    void import_pull();
    void show_link(const QString& link);
    void refresh_strip();
    void refresh_band();
    void export_results();
    void refresh_title();
    void choose_limits();
    void toggle_help();
    void show_help();
    void see_demo();
    void find();
    QVector<Findable> findables();
    void offer_recovery();
    void come_back();
    void apply_settings();
    void change_settings();
    void keep_settings();
    void toggle_look();
    void print_station();
    void fill_recent();

    Theme theme_;
    DisplayUnits units_;
    Cursors cursors_;
    Document document_;
    SweepRunner sweep_;
    RigSession rig_;
    WhatIf what_if_;
    UncertaintyRunner uncertainty_;
    Comparison comparison_{document_, sweep_, cursors_};
    DynoSession dyno_{document_};
    CalibrationRunner calibration_{document_, rig_};
    ActionRegistry actions_;
    std::function<void()> open_left_behind_;
    bool remember_ = false;
    Settings settings_;
    Look desktop_ = Look::Light; ///< the desktop's look
    QMenu* recent_ = nullptr;
    QString noted_; ///< among the recent projects
    Dialogs dialogs_;
    ProjectFiles files_{document_, dialogs_};
    StartGuide* guide_ = nullptr;
    Tour* tour_ = nullptr;
    QString demo_from_, demo_folder_, log_path_;
    BuildBar* bar_ = nullptr;
    ThresholdStrip* strip_ = nullptr;
    QStackedWidget* stack_ = nullptr;
    QVBoxLayout* rail_ = nullptr;
    QButtonGroup* rail_group_ = nullptr;
    QWidget* message_bar_ = nullptr;
    QLabel* message_ = nullptr;
    QPushButton* save_copy_ = nullptr; ///< beside a message that advises it
    HelpPanel* help_ = nullptr;
    LobeStation* lobe_station_ = nullptr;
    RigStation* rig_station_ = nullptr;
    DynoStation* dyno_station_ = nullptr;
};

} // namespace bathmos::app
