// Station Verdict: the answer in one sentence, causes with their evidence, what would help, the next test,
// and the decision.
#pragma once

#include "app/shell/dialogs.h"
#include "app/shell/station.h"
#include "core/verdict/changes.h"

class QComboBox;
class QLabel;
class QListWidget;
class QProgressBar;
class QPushButton;
class QStackedLayout;
class QTabWidget;

namespace bathmos::app {

class NumberTable;
class Refresher;
class VerdictRunner;

class VerdictStation : public Station {
    Q_OBJECT
  public:
    VerdictStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Verdict"); }
    QString help() const override;
    void stop() override;

  signals:
    void link_wanted(const QString& link); ///< "dyno/channel/blower"

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    QWidget* make_answer();
    QWidget* make_causes();
    QWidget* make_tabs();
    QWidget* make_help_tab();
    void refresh();
    void fill_causes();
    void fill_evidence();
    void fill_next();
    void fill_outcomes();
    void fill_decisions();
    std::vector<ChangeOutcome> sorted_outcomes() const;
    const ChangeOutcome* chosen_outcome() const;
    void record(bool with_change);
    void follow_evidence(int row);

    const Dialogs& dialogs_;
    VerdictRunner* runner_;
    QStackedLayout* pages_;
    QLabel *question_ = nullptr, *answer_ = nullptr, *status_ = nullptr, *help_words_ = nullptr;
    QProgressBar* progress_ = nullptr;
    QPushButton *weigh_ = nullptr, *stop_ = nullptr, *try_ = nullptr, *decide_ = nullptr, *record_ = nullptr;
    NumberTable *causes_ = nullptr, *evidence_ = nullptr, *next_ = nullptr, *outcomes_ = nullptr,
                *decisions_ = nullptr;
    QListWidget* missing_ = nullptr;
    QComboBox* order_ = nullptr;
    QTabWidget* tabs_ = nullptr;
    Refresher *refresher_ = nullptr, *outcome_refresher_ = nullptr;
    std::vector<ChangeOutcome> listed_; ///< rows of the table
};

} // namespace bathmos::app
