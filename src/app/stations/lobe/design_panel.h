// A new lobe from goals: what it would ask, which limits bind, what it trades, and how it stands in the train
// beside the chosen one.
#pragma once

#include "app/desk/background.h"
#include "app/stations/lobe/lobe_set.h"
#include "core/cam/lobe_design.h"
#include "core/cam/lobe_ranking.h"

#include <QWidget>

class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace bathmos::app {

class NumberField;
class NumberTable;

class DesignPanel : public QWidget {
    Q_OBJECT
  public:
    DesignPanel(Context context, LobeSet& set, QWidget* parent = nullptr);

    void stop();
    const std::optional<LobeDesign>& design() const { return design_; }

  private:
    struct Goal {
        NumberField* field;
        double LobeGoals::*number;
    };
    QWidget* make_goals();
    void add_goal(QFormLayout* to, const QString& key, const QString& label, const QString& help,
                  Quantity quantity, double LobeGoals::*number);
    void show_goals();
    void take_from_chosen();
    void shape();
    void rank();
    void shelve();
    void show_result();
    Lobe as_lobe() const;

    Context context_;
    LobeSet& set_;
    LobeGoals goals_;
    std::vector<Goal> fields_;
    QComboBox* aim_ = nullptr;
    QLineEdit* name_ = nullptr;
    QPushButton *shape_ = nullptr, *stop_ = nullptr, *rank_ = nullptr, *shelve_ = nullptr;
    QLabel* words_ = nullptr;
    NumberTable *limits_ = nullptr, *standing_ = nullptr;
    Plot *curve_ = nullptr, *trade_plot_ = nullptr;
    std::optional<LobeDesign> design_;
    LobeGoals made_from_;
    std::vector<TradePoint> trade_;
    Background work_;
};

} // namespace bathmos::app
