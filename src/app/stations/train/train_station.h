// Station Train: the parts of one valve's train, what they add up to, and a drawing that moves.
#pragma once

#include "app/shell/station.h"

#include <QTimer>

class QComboBox;
class QLabel;
class QListWidget;
class QPushButton;
class QSlider;
class QStackedLayout;

namespace bathmos::app {

class NumberTable;
class TrainForm;
class TrainView;

class TrainStation : public Station {
    Q_OBJECT
  public:
    explicit TrainStation(Context context, QWidget* parent = nullptr);
    QString title() const override { return tr("Train"); }
    QString help() const override;
    /// Starts or ends slow motion: the crank-angle cursor goes round, and every view with it.
    void set_playing(bool on);
    bool playing() const { return clock_.isActive(); }
    void stop() override { set_playing(false); }

  private:
    QWidget* make_picture();
    QWidget* make_player(TrainView* view);
    void tick();
    QWidget* make_figures();
    void refresh();
    void show_figures(const TrainFigures& figures);
    void show_findings();

    QStackedLayout* pages_;
    NumberTable* figures_;
    QListWidget* findings_;
    QSlider* angle_;
    QLabel* angle_text_;
    QPushButton* play_ = nullptr;
    QComboBox* cycle_time_ = nullptr;
    QTimer clock_;
};

} // namespace bathmos::app
