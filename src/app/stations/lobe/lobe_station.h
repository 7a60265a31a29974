// Station Lobe: what lobes ask, beside each other; import, smoothing, heights, cutting, events, a new one,
// ranking.
#pragma once

#include "app/desk/dialogs.h"
#include "app/desk/station.h"
#include "app/stations/lobe/lobe_set.h"

class QLabel;
class QListWidget;
class QListWidgetItem;
class QPushButton;
class QStackedLayout;
class QTabWidget;

namespace bathmos::app {

class CurvesPanel;
class DesignPanel;
class RankingPanel;

class LobeStation : public Station {
    Q_OBJECT
  public:
    LobeStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Lobe"); }
    QString help() const override;
    void stop() override;

    /// Opens the import dialogue for a file.
    void import_file(const QString& path);
    void take_files(const QStringList& paths) override {
        for (const QString& path : paths)
            import_file(path);
    }
    LobeSet& lobes() { return *set_; }

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    QWidget* make_list();
    void fill_list();
    QString asked_back(const std::vector<GaugedPart>& lobes) const;
    void export_curves();
    void export_table();
    void export_page();
    void fit_chosen();

    const Dialogs& dialogs_;
    LobeSet* set_;
    QStackedLayout* pages_;
    QListWidget* list_ = nullptr;
    QLabel* trouble_ = nullptr;
    QPushButton* fit_ = nullptr;
    QTabWidget* tabs_ = nullptr;
    CurvesPanel* curves_ = nullptr;
    DesignPanel* design_ = nullptr;
    RankingPanel* ranking_ = nullptr;
    bool filling_ = false;
};

} // namespace bathmos::app
