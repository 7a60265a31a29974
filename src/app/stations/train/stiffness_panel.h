// Where a train gives way, link by link, and what the limit gains with each a tenth stiffer: under the
// budget.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "core/whatif/stiffness_gain.h"

class QLabel;
class QPushButton;

namespace bathmos::app {

class NumberTable;

class StiffnessPanel : public QWidget {
    Q_OBJECT
  public:
    explicit StiffnessPanel(Context context, QWidget* parent = nullptr);

  private:
    void run();
    void show_result();
    QString words_now() const;

    Context context_;
    QPushButton* run_;
    QLabel* words_;
    NumberTable* table_;
    std::optional<StiffnessBudget> budget_;
    quint64 revision_ = 0; ///< that it was asked of
    QString state_;
    Background work_;
};

} // namespace bathmos::app
