// Calibrate: which numbers may move, what the run makes of them, how well the fitted train follows, and what
// is taken over as a new revision.
#pragma once

#include "app/desk/context.h"

#include <QWidget>
#include <set>

class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QTabWidget;

namespace bathmos::app {

class ChangeView;
class DeparturesView;
class MapPlot;
class NumberTable;
class Plot;
class Refresher;

class CalibrationView : public QWidget {
    Q_OBJECT
  public:
    explicit CalibrationView(Context context, QWidget* parent = nullptr);

  signals:
    void message(const QString& text);

  private:
    QWidget* make_other();
    QWidget* make_numbers();
    QWidget* make_pictures();
    void refresh();
    void refresh_speed();
    void fill_other();
    void fill_numbers();
    void fill_causes();
    void fill_untold();
    void fill_residuals();
    void fill_map();
    void press_calibrate();
    void press_accept();
    QString headline() const;
    QString accept_words(const std::set<std::string>& keys) const;
    std::set<std::string> checked(int column) const;

    Context context_;
    QLabel *headline_ = nullptr, *caution_ = nullptr;
    QProgressBar* progress_ = nullptr;
    QPushButton *calibrate_ = nullptr, *accept_ = nullptr;
    NumberTable *numbers_ = nullptr, *causes_ = nullptr, *untold_ = nullptr;
    QTabWidget* pictures_ = nullptr;
    Plot *difference_ = nullptr, *residual_ = nullptr;
    MapPlot* map_ = nullptr;
    DeparturesView* departures_ = nullptr;
    ChangeView* change_ = nullptr;
    QComboBox* other_ = nullptr;
    Refresher *all_ = nullptr, *speed_ = nullptr;
    int before_ = 0, after_ = 0, before_rms_ = 0, after_rms_ = 0, held_out_rms_ = 0;
    bool told_change_ = false;    ///< the change has been shown once
    std::set<std::string> fixed_; ///< keys of numbers that the person holds
};

} // namespace bathmos::app
