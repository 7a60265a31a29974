// The programmes that a project keeps, by name: one is chosen, kept or taken out; undo brings it back.
#pragma once

#include "app/desk/context.h"

#include <QWidget>

class QComboBox;
class QPushButton;

namespace bathmos::app {

class ProgrammeTable;

class ProgrammeShelf : public QWidget {
    Q_OBJECT
  public:
    ProgrammeShelf(Context context, ProgrammeTable& table, QWidget* parent = nullptr);

  signals:
    void message(const QString& text);

  private:
    Id chosen() const; ///< the kept one of the name that stands there; 0: none
    void refresh();
    void load(int index);
    void keep();
    void remove();

    Context context_;
    ProgrammeTable& table_;
    QComboBox* name_;
    QPushButton *keep_, *remove_;
};

} // namespace bathmos::app
