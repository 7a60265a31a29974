// A plan as it stands: time table, runs in order, all combinations, what is left out and why, what came.
#pragma once

#include "app/desk/context.h"
#include "session/plan/campaign_record.h"

#include <QWidget>
#include <memory>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTabWidget;

namespace bathmos::app {

class NumberTable;
class PlanChart;

class PlanView : public QWidget {
    Q_OBJECT
  public:
    explicit PlanView(Context context, QWidget* parent = nullptr);
    /// `plan` null: not planned yet. `old`: the campaign was changed since.
    void show_plan(const io::CampaignDraft& draft, std::shared_ptr<const session::KnownForecast> known,
                   std::shared_ptr<const plan::Plan> plan, bool old);

  signals:
    void came(const plan::MeasuredRun& run); ///< what a run gave
    void taken_back();                       ///< the last of them
    void message(const QString& text);

  private:
    QWidget* make_results();
    void fill_words(bool old);
    void fill_runs();
    void fill_all();
    void fill_left_out();
    void fill_results();
    void take();
    QString name_of(const plan::Combination& levels) const;
    QString band(const plan::Expected& expected) const;

    Context context_;
    io::CampaignDraft draft_;
    std::shared_ptr<const session::KnownForecast> known_;
    std::shared_ptr<const plan::Plan> plan_;
    QLabel* words_;
    PlanChart* chart_;
    QTabWidget* tabs_;
    NumberTable *runs_, *all_, *left_out_, *results_ = nullptr;
    QComboBox* which_ = nullptr;
    QLineEdit *limit_ = nullptr, *sd_ = nullptr;
    QPushButton *take_ = nullptr, *back_ = nullptr;
};

} // namespace bathmos::app
