// Station Plan: which parts to try in the hours that are booked, in which order, and what has come of it.
#pragma once

#include "app/desk/background.h"
#include "app/desk/dialogs.h"
#include "app/desk/station.h"
#include "session/plan/campaign_record.h"

class QComboBox;
class QProgressBar;
class QPushButton;
class QStackedLayout;

namespace bathmos::app {

class CampaignForm;
class PlanView;
class Refresher;

class PlanStation : public Station {
    Q_OBJECT
  public:
    PlanStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Plan"); }
    QString help() const override;
    void take_files(const QStringList& paths) override {
        for (const QString& path : paths)
            open_file(path);
    }
    void stop() override { work_.stop(); }
    /// Fewer trains drawn; for tests.
    void set_draws(std::size_t draws) { draws_ = draws; }
    /// The plan in front, null for none; for tests and pictures.
    const plan::Plan* plan() const { return plan_.get(); }
    bool planning() const { return work_.running(); }

  private:
    QWidget* make_head();
    QWidget* make_empty();
    void refresh();
    void begin();
    void open_asking();
    void open_file(const QString& path);
    void save_file();
    void save_sheets();
    void remove();
    void keep(const io::CampaignDraft& draft, const QString& what);
    void run();
    /// From a forecast that is there already.
    void plan_again();
    void show();
    const Entry* record() const;
    std::optional<io::CampaignDraft> draft() const;
    std::vector<CarriedFit> fits_there() const;
    std::string hash_of(const io::CampaignDraft& draft) const;
    void drop_what_is_of_others(const io::CampaignDraft& now);
    void say(const QString& text) { emit message(text); }

    const Dialogs& dialogs_;
    QStackedLayout* pages_;
    QComboBox* campaigns_ = nullptr;
    QPushButton *run_ = nullptr, *stop_ = nullptr, *sheets_ = nullptr, *save_ = nullptr, *remove_ = nullptr;
    QProgressBar* progress_ = nullptr;
    CampaignForm* form_ = nullptr;
    PlanView* view_ = nullptr;
    Refresher* refresher_;
    Id campaign_ = 0;
    std::size_t draws_ = plan::ForecastQuery{}.draws;
    std::shared_ptr<const session::KnownForecast> known_;
    std::shared_ptr<const plan::Plan> plan_;
    std::string planned_;                       ///< text of the campaign that plan_ is of
    std::vector<plan::Factor> planned_factors_; ///< whose combinations are forecast
    bool filling_ = false;
    Background work_;
};

} // namespace bathmos::app
