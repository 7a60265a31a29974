// How old the parts are, which are due and when, and what drifts.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "session/log/part_ages.h"

#include <QWidget>
#include <memory>

class QLabel;

namespace bathmos::app {

class NumberTable;
class Refresher;

class LifeView : public QWidget {
    Q_OBJECT
  public:
    explicit LifeView(Context context, QWidget* parent = nullptr);
    /// Ages as the records stand now, once they are looked at; wires follow when the model has told.
    void refresh();
    void stop();
    bool counting() const { return work_.running(); } ///< the model is being asked for the wires
    /// For tests: days since 1970-01-01 in place of now.
    void set_today(double day) { today_ = day; }

  private:
    void count_wires();
    void fill();
    void fill_words();
    double today() const;

    Context context_;
    QLabel *words_, *trends_;
    NumberTable* table_;
    Refresher* refresher_;
    session::PartAges ages_;
    std::shared_ptr<const session::FatigueByRevision> fatigue_;
    std::string counted_; ///< what fatigue_ is of
    bool stopped_ = false;
    QString trouble_; ///< why the model could not be asked
    std::optional<double> today_;
    Background work_;
};

} // namespace bathmos::app
