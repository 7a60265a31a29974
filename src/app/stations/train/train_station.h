// Station Train: the parts of one valve's train, what they add up to, and a drawing that moves.
#pragma once

#include "app/shell/station.h"

class QLabel;
class QListWidget;
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

  private:
    QWidget* make_picture();
    QWidget* make_figures();
    void refresh();
    void show_figures(const TrainFigures& figures);
    void show_findings();

    QStackedLayout* pages_;
    NumberTable* figures_;
    QListWidget* findings_;
    QSlider* angle_;
    QLabel* angle_text_;
};

} // namespace bathmos::app
