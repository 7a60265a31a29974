// Whether the shown lobes can be cut, and run under the follower of the build in hand.
#pragma once

#include "app/stations/lobe/lobe_set.h"

#include <QWidget>

class QListWidget;

namespace bathmos::app {

class NumberTable;
class Refresher;

class CuttingPanel : public QWidget {
    Q_OBJECT
  public:
    CuttingPanel(Context context, LobeSet& set, QWidget* parent = nullptr);

  private:
    void refresh();
    void add_lobe(int column, const LoadedLobe& lobe);

    Context context_;
    LobeSet& set_;
    NumberTable* table_ = nullptr;
    QListWidget* findings_ = nullptr;
    Refresher* refresh_ = nullptr;
};

} // namespace bathmos::app
