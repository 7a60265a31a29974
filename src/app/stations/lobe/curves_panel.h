// Cam lift, velocity, acceleration and jerk of the shown lobes over each other, and where one asks more, in
// words.
#pragma once

#include "app/stations/lobe/lobe_set.h"
#include "core/cam/lobe_compare.h"

#include <QWidget>
#include <array>

class QCheckBox;
class QComboBox;
class QLabel;
class QListWidget;

namespace bathmos::app {

class NumberField;
class NumberTable;
class Refresher;

class CurvesPanel : public QWidget {
    Q_OBJECT
  public:
    CurvesPanel(Context context, LobeSet& set, QWidget* parent = nullptr);

    /// What is drawn, for export: names, motions and shifts.
    struct Drawn {
        std::vector<std::string> names;
        std::vector<LobeMotion> motions;
        std::vector<double> shift_rad;
    };
    Drawn drawn() const;
    const Plot& plot(int order) const { return *plots_[static_cast<std::size_t>(order)]; }

  private:
    QWidget* make_choices();
    QWidget* make_plots();
    QWidget* make_words();
    void refresh();
    void draw(const Drawn& drawn);
    void compare(const Drawn& drawn);
    void go_to_flag(int row);

    Context context_;
    LobeSet& set_;
    QComboBox *align_ = nullptr, *side_ = nullptr;
    NumberField* height_ = nullptr;
    QCheckBox* bands_ = nullptr;
    std::array<Plot*, 4> plots_{};
    QLabel* verdict_ = nullptr;
    QListWidget* list_ = nullptr;
    NumberTable* figures_ = nullptr;
    Refresher* refresh_ = nullptr;
    double height_m_ = 1.27e-3;
    std::vector<double> flag_crank_deg_;
};

} // namespace bathmos::app
