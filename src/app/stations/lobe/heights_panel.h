// The ladder: opening, closing and duration of the shown lobes at every height in use, area, and what the
// cards advertise.
#pragma once

#include "app/stations/lobe/lobe_set.h"

#include <QWidget>

class QLabel;

namespace bathmos::app {

class NumberField;
class NumberTable;
class Refresher;

class HeightsPanel : public QWidget {
    Q_OBJECT
  public:
    HeightsPanel(Context context, LobeSet& set, QWidget* parent = nullptr);

  private:
    void refresh();
    void add_row(const QString& what, const QStringList& cells);
    void add_ladder(const std::vector<const LoadedLobe*>& lobes, bool at_valve);
    void add_card_rows(const std::vector<const LoadedLobe*>& lobes);
    void change_fact(const QString& key, std::optional<double> value);

    Context context_;
    LobeSet& set_;
    NumberField *height_ = nullptr, *card_ = nullptr, *card_at_ = nullptr;
    QLabel* words_ = nullptr;
    NumberTable* table_ = nullptr;
    Refresher* refresh_ = nullptr;
    double own_height_m_ = 0.5e-3;
};

} // namespace bathmos::app
