// Station Motion: the valve at the cursor's speed, forces and coils, each metric over speed, and a map of
// both.
#pragma once

#include "app/desk/station.h"
#include "core/motion/metrics.h"

class QLabel;
class QStackedLayout;
class QTabWidget;

namespace bathmos::app {

class HoldPanel;
class SpringNeedPanel;
class MapPlot;
class NumberTable;
class Plot;
class Refresher;

class MotionStation : public Station {
    Q_OBJECT
  public:
    explicit MotionStation(Context context, QWidget* parent = nullptr);
    QString title() const override { return tr("Motion"); }
    QString help() const override;
    QString subject() const override;
    Metric selected_metric() const;
    void stop() override;

  private:
    QWidget* make_cycle_plots();
    QWidget* make_speed_plots();
    void refresh_cycle();
    void show_lift(const Motion& motion, bool old);
    void show_trial();
    void show_compared();
    void show_coils(const Motion& motion, bool old);
    void refresh_speeds();
    void choose_limiting_metric();
    void fill_metric_table();
    void show_metric();
    void fill_map();
    QString old_note() const;

    QStackedLayout* pages_;
    QLabel* empty_ = nullptr;
    QLabel* shown_ = nullptr;
    Plot *lift_ = nullptr, *forces_ = nullptr, *coils_ = nullptr, *metric_ = nullptr;
    MapPlot* map_ = nullptr;
    QTabWidget* tabs_ = nullptr;
    HoldPanel* hold_ = nullptr;
    SpringNeedPanel* springs_ = nullptr;
    NumberTable* table_ = nullptr;
    Refresher *cycle_refresh_ = nullptr, *speed_refresh_ = nullptr;
    bool metric_chosen_ = false;
    int kinematic_ = 0, predicted_ = 0, trial_ = 0, compared_ = 0, cam_ = 0, tip_ = 0, seat_ = 0, spring_ = 0,
        value_ = 0, old_value_ = 0;
};

} // namespace bathmos::app
