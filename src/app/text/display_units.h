// Metric or inch, for the whole window at once or by quantity; and numbers as text with the digits they
// deserve.
#pragma once

#include "core/motion/limits.h"
#include "core/units/units.h"

#include <QObject>
#include <QString>

namespace bathmos::app {

class DisplayUnits : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    /// The system of most quantities.
    UnitSystem system() const { return choice_.system(); }
    /// The system a quantity is shown in.
    UnitSystem system_of(Quantity quantity) const { return choice_.of(quantity); }
    const UnitChoice& choice() const { return choice_; }
    void set_choice(const UnitChoice& choice);
    /// All quantities in this system.
    void set_system(UnitSystem system) { set_choice(system); }
    /// The other system for all quantities.
    void toggle();

    Unit unit(Quantity quantity) const { return unit_of(quantity, choice_); }
    QString unit_name(Quantity quantity) const;
    /// SI value in the unit in force.
    double value(Quantity quantity, double si) const { return si / unit(quantity).to_si; }
    /// Value with unit: "42.000 mm".
    QString text(Quantity quantity, double si) const;
    /// Value alone.
    QString number(Quantity quantity, double si) const;
    /// A number that was typed or stands in a file: its own digits, six at most.
    QString typed(Quantity quantity, double si) const;

    /// Metrics: mm become in, m/s in/s, N lbf; degrees stay.
    QString metric_unit(Metric metric) const;
    double metric_value(Metric metric, double si) const;

  signals:
    void changed();

  private:
    UnitChoice choice_;
};

/// "–" for a value that does not exist.
QString number_or_dash(const std::optional<double>& value, int decimals);
/// Speed without digits it does not deserve: "7959".
QString speed_text(const std::optional<double>& rpm);
/// "nothing over a limit again from 7400 to 7900", empty where there is no such stretch.
QString free_again_text(const std::optional<FreeAgain>& free_again);

} // namespace bathmos::app
