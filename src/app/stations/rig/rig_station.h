// Station Rig: kinematic, predicted and measured motion on one plot, metrics of model and rig over speed, the
// onset.
#pragma once

#include "app/desk/station.h"
#include "core/motion/metrics.h"

class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QStackedLayout;
class QTabWidget;

namespace bathmos::app {

class LiveView;
class RunsView;
class NumberTable;
class Plot;
class Refresher;

class RigStation : public Station {
    Q_OBJECT
  public:
    explicit RigStation(Context context, QWidget* parent = nullptr);
    QString title() const override { return tr("Rig"); }
    QString help() const override;
    QString subject() const override;

    /// Opens the import dialogue for a file; an HDF5 file needs none.
    void import_file(const QString& path);
    void take_files(const QStringList& paths) override {
        for (const QString& path : paths)
            import_file(path);
    }
    void stop() override;
    /// Shows a metric over speed, by its column's name.
    void navigate(const QString& location) override;

  private:
    QWidget* make_head();
    QWidget* make_cycle();
    QWidget* make_speeds();
    void refresh();
    void refresh_cycle();
    void show_metric();
    void fill_summary();
    void fill_steps();
    Metric chosen_metric() const;

    QStackedLayout* pages_;
    QTabWidget* tabs_ = nullptr;
    LiveView* live_ = nullptr;
    RunsView* runs_ = nullptr;
    bool live_wanted_ = false;
    QLabel *shown_ = nullptr, *failure_ = nullptr;
    QProgressBar* progress_ = nullptr;
    QPushButton* stop_ = nullptr;
    QComboBox* choice_ = nullptr;
    Plot *lift_ = nullptr, *difference_ = nullptr, *metric_ = nullptr;
    NumberTable *summary_ = nullptr, *steps_ = nullptr;
    Refresher *cycle_refresh_ = nullptr, *all_refresh_ = nullptr;
    int kinematic_ = 0, predicted_ = 0, measured_ = 0, predicted_less_ = 0, measured_less_ = 0,
        model_metric_ = 0, rig_metric_ = 0;
};

} // namespace bathmos::app
