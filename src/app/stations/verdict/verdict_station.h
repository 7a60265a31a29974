// Station Verdict: the answer in one sentence, causes with their evidence, what would help, the next test,
// and the decision.
#pragma once

#include "app/desk/dialogs.h"
#include "app/desk/station.h"

class QLabel;
class QListWidget;
class QProgressBar;
class QPushButton;
class QStackedLayout;
class QTabWidget;

namespace bathmos::app {

class ChangesPanel;
class NumberTable;
class Refresher;
class VerdictRunner;

class VerdictStation : public Station {
    Q_OBJECT
  public:
    VerdictStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Verdict"); }
    QString help() const override;
    QString subject() const override;
    void stop() override;

  signals:
    void link_wanted(const QString& link); ///< "dyno/channel/blower"

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    QWidget* make_answer();
    QWidget* make_causes();
    QWidget* make_tabs();
    void refresh();
    void fill_causes();
    void fill_evidence();
    void fill_next();
    void fill_decisions();
    void record(bool with_change);
    void follow_evidence(int row);

    const Dialogs& dialogs_;
    VerdictRunner* runner_;
    QStackedLayout* pages_;
    QLabel *question_ = nullptr, *answer_ = nullptr, *valve_ = nullptr, *status_ = nullptr;
    QProgressBar* progress_ = nullptr;
    QPushButton *weigh_ = nullptr, *stop_ = nullptr, *record_ = nullptr;
    NumberTable *causes_ = nullptr, *evidence_ = nullptr, *next_ = nullptr, *decisions_ = nullptr;
    QListWidget* missing_ = nullptr;
    QTabWidget* tabs_ = nullptr;
    Refresher* refresher_ = nullptr;
    ChangesPanel* changes_ = nullptr;
};

} // namespace bathmos::app
