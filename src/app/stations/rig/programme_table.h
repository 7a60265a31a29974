// A rig's programme as a table: steps, ramps, holds, one row each, how often it is run.
#pragma once

#include "core/live/programme.h"

#include <QWidget>

class QLineEdit;
class QSpinBox;
class QTableWidget;

namespace bathmos::app {

class ProgrammeTable : public QWidget {
    Q_OBJECT
  public:
    explicit ProgrammeTable(QWidget* parent = nullptr);
    void show_programme(const live::Programme& programme);
    /// As it stands. Throws InputError for what is no number.
    live::Programme programme() const;
    /// The leg that the rig is at; -1: none.
    void set_leg(int leg);

  signals:
    void message(const QString& text);

  private:
    void add_row(const live::Leg& leg);
    void fill_steps();

    QLineEdit* steps_;
    QSpinBox *cycles_, *times_;
    QTableWidget* legs_;
};

} // namespace bathmos::app
