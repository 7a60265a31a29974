// What would help: changes and combinations as they come from the runner, in the order asked for, and the
// choice of one.
#pragma once

#include "app/desk/context.h"
#include "core/verdict/changes.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QPushButton;

namespace bathmos::app {

class NumberTable;
class Refresher;
class VerdictRunner;

class ChangesPanel : public QWidget {
    Q_OBJECT
  public:
    ChangesPanel(Context context, VerdictRunner& runner, QWidget* parent = nullptr);
    /// The chosen change; null for none, or one that cannot be.
    const ChangeOutcome* chosen() const;
    /// Buttons and old marks, by what the runner does.
    void refresh();

  signals:
    void decide_wanted();

  private:
    void fill();
    void fill_row(int row, const ChangeOutcome& outcome, double target_rpm);
    QStringList notes_of(const ChangeOutcome& outcome) const;

    Context context_;
    VerdictRunner& runner_;
    QPushButton *try_, *decide_;
    QComboBox* order_;
    QLabel* words_;
    NumberTable* outcomes_;
    Refresher* refresher_;
    std::vector<ChangeOutcome> listed_; ///< rows of the table
};

} // namespace bathmos::app
