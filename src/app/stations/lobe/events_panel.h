// An intake and an exhaust lobe on their cam: events, overlap, what moving the cam costs and gains.
#pragma once

#include "app/stations/lobe/lobe_set.h"
#include "core/cam/cam_events.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QPushButton;
class QSlider;

namespace bathmos::app {

class NumberField;
class NumberTable;
class Refresher;

class EventsPanel : public QWidget {
    Q_OBJECT
  public:
    EventsPanel(Context context, LobeSet& set, QWidget* parent = nullptr);

  private:
    QWidget* make_choices();
    void fill_lobes();
    void take_centrelines_of_builds();
    void refresh();
    void follow_cursor();
    void draw(const PlacedLobe& intake, const PlacedLobe& exhaust, double moved_rad);
    void fill_table(const PairEvents& before, const PairEvents& after, double moved_rad);
    void keep();
    std::optional<PlacedLobe> placed(const QComboBox* box, double centreline_rad) const;

    Context context_;
    LobeSet& set_;
    Refresher* refresh_;
    QComboBox *intake_ = nullptr, *exhaust_ = nullptr, *side_ = nullptr;
    NumberField *intake_line_ = nullptr, *exhaust_line_ = nullptr, *separation_ = nullptr,
                *advance_ = nullptr, *height_ = nullptr;
    QSlider* move_ = nullptr;
    QLabel *moved_words_ = nullptr, *reading_ = nullptr;
    QPushButton* keep_ = nullptr;
    Plot* strip_ = nullptr;
    NumberTable* table_ = nullptr;
    double intake_rad_ = radians(108), exhaust_rad_ = radians(112), height_m_ = 1.27e-3;
    double nose_deg_ = 0; ///< where the nose of the lobe in hand stands on the strip
    QString builds_;      ///< what centre lines were taken from last
};

} // namespace bathmos::app
