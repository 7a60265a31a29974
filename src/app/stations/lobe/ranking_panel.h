// Which of the shown lobes is harder on the train in hand, by the dynamic model.
#pragma once

#include "app/desk/background.h"
#include "app/stations/lobe/lobe_set.h"
#include "core/cam/lobe_ranking.h"

#include <QWidget>

class QLabel;
class QProgressBar;
class QPushButton;

namespace bathmos::app {

class NumberTable;

class RankingPanel : public QWidget {
    Q_OBJECT
  public:
    RankingPanel(Context context, LobeSet& set, QWidget* parent = nullptr);

    void start();
    void stop();
    const std::vector<RankedLobe>& standings() const { return standings_; }

  private:
    void show_state();
    void show_result();
    bool old() const;
    std::vector<Lobe> asked() const;

    Context context_;
    LobeSet& set_;
    QPushButton *run_ = nullptr, *stop_ = nullptr;
    QProgressBar* progress_ = nullptr;
    QLabel* words_ = nullptr;
    NumberTable* table_ = nullptr;
    Plot* force_ = nullptr;
    std::vector<RankedLobe> standings_;
    std::vector<Lobe> ranked_;
    Train train_; ///< that they were ranked in
    double speed_rpm_ = 0;
    QString failure_;
    Background work_;
};

} // namespace bathmos::app
