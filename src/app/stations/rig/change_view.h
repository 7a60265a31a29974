// Two revisions fitted together: what the change really did, and the numbers that are each one's own.
#pragma once

#include "app/desk/context.h"

#include <QWidget>

class QLabel;

namespace bathmos::app {

class NumberTable;

class ChangeView : public QWidget {
    Q_OBJECT
  public:
    explicit ChangeView(Context context, QWidget* parent = nullptr);
    void refresh();

  private:
    QString sentence() const;
    QString revision_of(std::size_t train) const;
    void fill();

    Context context_;
    QLabel* sentence_ = nullptr;
    NumberTable* numbers_ = nullptr;
};

} // namespace bathmos::app
