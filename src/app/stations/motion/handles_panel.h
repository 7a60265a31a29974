// What if: the usual changes as numbers whose names can be dragged, and what they would do to the limit
// speed.
#pragma once

#include "app/desk/context.h"

class QLabel;
class QPushButton;

namespace bathmos::app {

class NumberField;

class HandlesPanel : public QWidget {
    Q_OBJECT
  public:
    explicit HandlesPanel(Context context, QWidget* parent = nullptr);
    /// "7959 → 8010 rev/min, duration change (coarse)".
    QString answer() const;

  private:
    void refresh();
    void tell();
    bool drag(std::size_t handle, double si);

    Context context_;
    QLabel* answer_;
    QPushButton* forget_ = nullptr;
    std::vector<NumberField*> fields_; ///< one a handle
};

} // namespace bathmos::app
