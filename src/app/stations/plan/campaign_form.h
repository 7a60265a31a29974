// What a campaign is made of: factors with their levels from the shelf, hours to change each, what comes with
// what, days and hours booked. Every edit goes out at once.
#pragma once

#include "app/desk/context.h"
#include "session/plan/campaign_record.h"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QLineEdit;
class QListWidget;
class QPushButton;
class QTableWidget;

namespace bathmos::app {

class CampaignForm : public QWidget {
    Q_OBJECT
  public:
    explicit CampaignForm(Context context, QWidget* parent = nullptr);
    /// `fits`: what runs of the build have taught; empty where none was calibrated.
    void show_campaign(const io::CampaignDraft& draft, const std::vector<CarriedFit>& fits);
    const io::CampaignDraft& campaign() const { return draft_; }

  signals:
    void edited(const io::CampaignDraft& draft, const QString& what);
    void message(const QString& text);

  private:
    QWidget* make_hours();
    QLineEdit* field(const char* name, const QString& label, const QString& help, QWidget* row);
    void fill();
    void fill_levels();
    void change(const QString& what, const std::function<void(io::CampaignDraft&)>& edit);
    void cell_changed(int row, int column);
    void hours_typed(QLineEdit* edit);
    std::size_t factor() const;

    Context context_;
    io::CampaignDraft draft_;
    QTableWidget* factors_;
    QListWidget* levels_;
    QComboBox* kinds_;
    QPushButton *add_, *remove_, *leave_out_;
    QCheckBox* use_fit_;
    QLineEdit *days_ = nullptr, *setup_ = nullptr, *run_ = nullptr, *every_ = nullptr;
    bool filling_ = false;
};

} // namespace bathmos::app
