// How far the limit may be off: percentiles, what drives them, and the tolerance of each number.
#pragma once

#include "app/desk/context.h"

class QComboBox;
class QCheckBox;
class QLabel;

namespace bathmos::app {

class NumberField;
class NumberTable;
class Refresher;

class UncertaintyPanel : public QWidget {
    Q_OBJECT
  public:
    explicit UncertaintyPanel(Context context, QWidget* parent = nullptr);
    /// Its wrapping words take no room from the plots above: every tab is as high.
    bool hasHeightForWidth() const override { return false; }

  private:
    void refresh();
    void fill_table();
    void show_chosen();
    void set_tolerance(const Tolerance& tolerance);
    QString headline() const;

    Context context_;
    QLabel* headline_;
    QCheckBox* automatic_;
    NumberTable* table_;
    QWidget* chosen_ = nullptr; ///< holds the field for the chosen number, whose unit differs by row
    NumberField* plus_minus_ = nullptr;
    QComboBox* source_;
    Refresher* redraw_;
    std::vector<UncertainInput> inputs_; ///< row by row
};

} // namespace bathmos::app
