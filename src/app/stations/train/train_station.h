// Station Train: the parts of one valve's train, what they add up to, and a drawing that moves.
#pragma once

#include "app/desk/dialogs.h"
#include "app/desk/station.h"
#include "core/project/part.h"

#include <QTimer>

class QComboBox;
class QLabel;
class QPushButton;
class QSlider;
class QStackedLayout;
class QTabWidget;

namespace bathmos::app {

class ChecksPanel;
class NumberTable;
class ShelfPanel;
class TrainForm;
class TrainView;

class TrainStation : public Station {
    Q_OBJECT
  public:
    TrainStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Train"); }
    QString help() const override;
    QString subject() const override;
    void navigate(const QString& location) override;

    /// Starts or ends slow motion: the crank-angle cursor goes round, and every view with it.
    void set_playing(bool on);
    bool playing() const { return clock_.isActive(); }
    void stop() override { set_playing(false); }

  private:
    QWidget* make_tabs();
    void take_part(PartKind kind);
    QWidget* make_picture();
    QWidget* make_player(TrainView* view);
    void tick();
    QWidget* make_figures();
    void refresh();
    struct Row {
        QString what, value, unit;
        bool strong;
    };
    std::vector<Row> rows_of(const TrainFigures& figures) const;
    void add_clearances(std::vector<Row>& rows) const;
    void show_figures(const TrainFigures& figures);

    const Dialogs& dialogs_;
    QStackedLayout* pages_;
    NumberTable* figures_;
    QTabWidget* tabs_ = nullptr;
    TrainForm* form_ = nullptr;
    ShelfPanel* shelf_ = nullptr;
    QWidget* revisions_ = nullptr;
    ChecksPanel* checks_ = nullptr;
    QSlider* angle_;
    QLabel* angle_text_;
    QPushButton* play_ = nullptr;
    QComboBox* cycle_time_ = nullptr;
    QTimer clock_;
};

} // namespace bathmos::app
