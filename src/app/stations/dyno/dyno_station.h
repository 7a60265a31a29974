// Station Dyno: pulls over each other by state, break and roughness on the curve, other channels below, what
// else could explain a loss, and the difference between two states.
#pragma once

#include "app/desk/dialogs.h"
#include "app/desk/dyno_session.h"
#include "app/desk/station.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QStackedLayout;

namespace bathmos::app {

class Plot;
class PullTables;
class PullsPanel;
class Refresher;

class DynoStation : public Station {
    Q_OBJECT
  public:
    DynoStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Dyno"); }
    QString help() const override;

    /// Opens the import dialogue for a file.
    void import_file(const QString& path);
    void take_files(const QStringList& paths) override {
        for (const QString& path : paths)
            import_file(path);
    }
    /// "power", "rough", "channel/blower", "difference", "states".
    void navigate(const QString& location) override;

  private:
    QWidget* make_head();
    QWidget* make_plots();
    void refresh();
    void fill_choices();
    void fill_words();
    void draw_power();
    void draw_below();
    void draw_channel();
    void draw_roughness();
    void draw_difference();
    double shown_power(double si) const;
    double channel_value(PullChannel channel, double si) const;
    QString channel_unit(PullChannel channel) const;

    const Dialogs& dialogs_;
    QStackedLayout* pages_;
    QComboBox *state_ = nullptr, *against_ = nullptr, *quantity_ = nullptr, *below_choice_ = nullptr;
    QCheckBox* correct_ = nullptr;
    QLabel *words_ = nullptr, *correction_ = nullptr;
    Plot *power_ = nullptr, *below_ = nullptr;
    PullTables* tables_ = nullptr;
    PullsPanel* pulls_ = nullptr;
    Refresher* refresher_ = nullptr;
    int now_readings_ = 0, now_trend_ = 0, before_trend_ = 0;
    int below_now_ = 0, below_before_ = 0, below_low_ = 0, below_high_ = 0;
    bool filling_ = false;
};

} // namespace bathmos::app
