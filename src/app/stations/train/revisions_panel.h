// The revisions of the build in hand as a tree, and what the one in hand changes against another.
#pragma once

#include "app/desk/context.h"
#include "app/desk/dialogs.h"

#include <QWidget>

class QLabel;
class QTreeWidget;

namespace bathmos::app {

class NumberTable;

class RevisionsPanel : public QWidget {
    Q_OBJECT
  public:
    RevisionsPanel(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);

  protected:
    void showEvent(QShowEvent* event) override {
        QWidget::showEvent(event);
        refresh();
    }

  private:
    Id chosen() const;
    Id other() const;
    void refresh();
    void fill_tree();
    void show_differences();
    void rename(bool reason);

    Context context_;
    const Dialogs& dialogs_;
    QTreeWidget* tree_;
    QLabel* caption_;
    NumberTable* table_;
};

} // namespace bathmos::app
