// From what you have: a new train in the words of a bench. What is not known stays empty and is assumed.
#pragma once

#include "app/desk/context.h"
#include "app/desk/dialogs.h"
#include "app/start/start_estimate.h"

#include <QDialog>
#include <map>
#include <vector>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace bathmos::app {

class KnownNumber;
class LayoutChoice;
class LobeForm;
class NumberTable;

class StartDialog : public QDialog {
    Q_OBJECT
  public:
    StartDialog(Theme& theme, DisplayUnits& units, const Dialogs& dialogs, QWidget* parent = nullptr);

    const KnownTrain& known() const { return known_; }
    /// Fills the page, as it was left.
    void show_known(const KnownTrain& known);
    /// The train as it stands, null while its numbers make none.
    const StartedTrain* started() const { return started_ ? &*started_ : nullptr; }
    StartEstimate& estimate() { return estimate_; }

  signals:
    void known_changed();
    void made(const StartedTrain& started);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QWidget* make_form();
    QWidget* make_result();
    QWidget* make_head();
    void rebuild_numbers();
    void order_tab_stops();
    void read_page();
    void judge();
    void show_assumed();
    void show_problem(const QString& problem, const std::string& key);
    void show_estimate();
    void fill_table();
    void paint_sketch();
    void accept_train();

    Theme& theme_;
    DisplayUnits& units_;
    const Dialogs& dialogs_;
    KnownTrain known_;
    std::optional<StartedTrain> started_;
    std::optional<RigidMotion> rigid_; ///< of it
    StartEstimate estimate_;
    bool filling_ = false;

    QLineEdit* name_ = nullptr;
    LayoutChoice* layout_ = nullptr;
    QCheckBox *exhaust_ = nullptr, *hydraulic_ = nullptr;
    QComboBox *metal_ = nullptr, *nested_ = nullptr, *follower_ = nullptr;
    LobeForm* lobe_ = nullptr;
    std::map<std::string, QVBoxLayout*> groups_;
    std::vector<KnownNumber*> numbers_;
    QLabel *sketch_ = nullptr, *limit_ = nullptr, *worth_ = nullptr, *words_ = nullptr;
    NumberTable* table_ = nullptr;
    QPushButton* make_ = nullptr;
};

} // namespace bathmos::app
