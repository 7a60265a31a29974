// One number with its unit: typed in the unit in force, handed on in SI, refused in words when out of range.
#pragma once

#include "app/shell/display_units.h"

#include <QLabel>
#include <QLineEdit>
#include <functional>

namespace bathmos::app {

/// Text to number: decimal point or comma. Empty if it is no number.
std::optional<double> parse_number(const QString& text);

class NumberField : public QWidget {
    Q_OBJECT
  public:
    using Complaint = std::function<std::string(double file_value)>;

    NumberField(DisplayUnits& units, Quantity quantity, const QString& key, const QString& label,
                const QString& help, Complaint complaint, QWidget* parent = nullptr);

    /// Shows a value unless the user is typing here.
    void show_value(double si);
    void show_problem(const QString& problem);
    QLineEdit* edit() const { return edit_; }
    QString problem() const { return problem_; }

  signals:
    void edited(double si); ///< a valid number was typed

  private:
    void typed(const QString& text);
    void relabel();

    DisplayUnits& units_;
    Quantity quantity_;
    QString help_, problem_;
    Complaint complaint_;
    QLineEdit* edit_;
    QLabel* unit_;
    double si_ = 0;
};

} // namespace bathmos::app
