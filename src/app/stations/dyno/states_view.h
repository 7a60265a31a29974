// All states of a build beside each other: breaks, what is missing past them, gains over the state compared
// with, where curves cross, and with which state a break comes and goes.
#pragma once

#include "app/desk/context.h"
#include "session/dyno/states_told.h"

#include <QWidget>

class QLabel;

namespace bathmos::app {

class NumberTable;

class StatesView : public QWidget {
    Q_OBJECT
  public:
    explicit StatesView(Context context, QWidget* parent = nullptr);
    void fill();

  private:
    void fill_words();
    void fill_row(int row, const session::DynoState& state, const session::StateTold& told);

    Context context_;
    QLabel* words_;
    NumberTable* table_;
};

} // namespace bathmos::app
