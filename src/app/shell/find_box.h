// One box to find an action, a word or a piece of help by a few letters, and go there.
#pragma once

#include "app/shell/find_index.h"

#include <QDialog>

class QLineEdit;
class QListWidget;

namespace bathmos::app {

class FindBox : public QDialog {
    Q_OBJECT
  public:
    FindBox(const QVector<Findable>& among, QWidget* parent);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void look();
    void go();

    QVector<Findable> among_, found_;
    QLineEdit* query_;
    QListWidget* list_;
};

} // namespace bathmos::app
