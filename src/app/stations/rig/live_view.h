// The tab Live of the station Rig: a running rig over what was asked and predicted, turn by turn.
#pragma once

#include "app/desk/context.h"
#include "app/stations/rig/live_runner.h"

#include <QElapsedTimer>
#include <QWidget>

class QCheckBox;
class QComboBox;
class QLineEdit;
class QListWidget;
class QPushButton;
class QTableWidgetItem;

namespace bathmos::app {

class LiveDevices;
class MapPlot;
class NumberTable;
class Plot;
class ProgrammeTable;
class Refresher;
class StillLabel;

class LiveView : public QWidget {
    Q_OBJECT
  public:
    explicit LiveView(Context context, QWidget* parent = nullptr);
    bool hasHeightForWidth() const override { return false; }
    /// Asks the rig to come down, where one is listened to.
    void stop();
    const LiveRunner& runner() const { return runner_; }

  signals:
    void message(const QString& text);

  private:
    QWidget* make_left();
    QWidget* make_plots();
    QWidget* make_right();
    void connect_or_not();
    void start_programme();
    void keep_run();
    void refresh();
    void refresh_words();
    void refresh_lift();
    void refresh_metric();
    void refresh_orders();
    void refresh_notes();
    void follow_caution();
    void show_rules();
    void rule_typed(QTableWidgetItem* item);
    std::vector<live::StopLimit> stops() const;
    Metric chosen_metric() const;

    Context context_;
    LiveRunner runner_;
    QLineEdit* address_ = nullptr;
    QPushButton *connect_ = nullptr, *standin_ = nullptr, *start_ = nullptr, *stop_ = nullptr,
                *keep_ = nullptr;
    QCheckBox *caution_ = nullptr, *follow_ = nullptr;
    LiveDevices* devices_ = nullptr;
    ProgrammeTable* programme_ = nullptr;
    StillLabel *state_ = nullptr, *words_ = nullptr;
    Plot *lift_ = nullptr, *metric_ = nullptr;
    MapPlot* orders_ = nullptr;
    QComboBox* choice_ = nullptr;
    NumberTable* rules_ = nullptr;
    std::vector<live::StopLimit> limits_ = live::usual_stop_limits(); ///< SI, in the order of the rows
    QListWidget* notes_ = nullptr;
    Refresher *refresher_ = nullptr, *words_refresher_ = nullptr, *rest_refresher_ = nullptr;
    int asked_ = 0, predicted_ = 0, measured_ = 0, metric_predicted_ = 0, metric_measured_ = 0,
        metric_now_ = 0;
    double last_note_s_ = -1;
    const RigRun* drawn_run_ = nullptr;
    QElapsedTimer orders_drawn_;
};

} // namespace bathmos::app
