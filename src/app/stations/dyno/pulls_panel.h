// All pulls of the build in hand, shown or not: what they belong to, what was noted, and taking one out.
#pragma once

#include "app/desk/context.h"

#include <QWidget>

class QPushButton;
class QTableWidget;

namespace bathmos::app {

class PullsPanel : public QWidget {
    Q_OBJECT
  public:
    explicit PullsPanel(Context context, QWidget* parent = nullptr);
    void fill();

  signals:
    void message(const QString& text);

  private:
    void fill_row(int row, Id id, const Entry& entry);
    void edit(int row, int column);
    void remove();

    Context context_;
    QTableWidget* list_;
    QPushButton* remove_;
    bool filling_ = false;
};

} // namespace bathmos::app
