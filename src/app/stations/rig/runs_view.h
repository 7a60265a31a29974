// The tab Runs of the station Rig: the runs of this build over each other, with what was gained and whether
// that may be claimed, what differs beside the change, what crept, what stepping one number did.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "app/plot/series.h"
#include "core/rig/height_losses.h"
#include "session/rig/run_set.h"

#include <QWidget>
#include <set>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace bathmos::app {

class NumberTable;
class Plot;
class Refresher;

class RunsView : public QWidget {
    Q_OBJECT
  public:
    explicit RunsView(Context context, QWidget* parent = nullptr);
    bool hasHeightForWidth() const override { return false; }
    void stop() { work_.stop(); }
    /// Reduced and shown; for tests and pictures.
    const std::vector<session::ReducedRun>& runs() const { return runs_; }
    bool working() const { return work_.running(); }

  signals:
    void message(const QString& text);

  private:
    QWidget* make_list();
    QWidget* make_plots();
    QWidget* make_words();
    void refresh();
    void fill_list();
    void reduce();
    void show_all();
    void show_metric();
    void show_lift();
    void fill_gains();
    void fill_response();
    void show_note();
    void note();
    void hide_or_show();
    Id current() const;
    QString name_of(Id run) const;
    /// What is drawn over speed: a metric, or the duration lost at a height.
    struct OverSpeed {
        std::optional<Metric> metric;
        std::size_t height = 0; ///< of heights_m_
    };
    OverSpeed chosen() const;
    MetricSeries series_of(const RigRun& run, const OverSpeed& what) const;
    void fill_choices();
    QStringList useful_words() const;

    Context context_;
    QListWidget* list_ = nullptr;
    QCheckBox* hidden_ = nullptr;
    QLineEdit* note_ = nullptr;
    QPushButton* hide_ = nullptr;
    QComboBox *choice_ = nullptr, *stepped_ = nullptr;
    Plot *metric_ = nullptr, *lift_ = nullptr;
    NumberTable *gains_ = nullptr, *holds_ = nullptr;
    QLabel *told_ = nullptr, *response_ = nullptr;
    std::vector<int> metric_curves_, lift_curves_;
    std::vector<double> heights_m_; ///< that the durations of the runs shown are compared at
    Refresher* refresher_ = nullptr;
    std::set<Id> chosen_, asked_;
    std::string asked_limits_; ///< hash of the limits that runs_ were judged by
    std::vector<session::ReducedRun> runs_;
    bool filling_ = false, begun_ = false;
    Background work_;
};

} // namespace bathmos::app
