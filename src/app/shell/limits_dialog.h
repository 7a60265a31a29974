// The limits that a project is judged by: a set by name or one's own, the lift at which duration is checked,
// and why.
#pragma once

#include "app/text/display_units.h"
#include "core/project/limit_sets.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QDialogButtonBox;
class QDoubleSpinBox;
class QGridLayout;
class QLabel;
class QLineEdit;

namespace bathmos::app {

class LimitsDialog : public QDialog {
    Q_OBJECT
  public:
    /// `project` holds the sets that were in force before, newest last.
    LimitsDialog(const LimitSet& now, const Project& project, const DisplayUnits& units,
                 QWidget* parent = nullptr);

    /// As it stands in the dialogue, in file units; its name is one's own where a number was changed.
    LimitSet chosen() const;
    QString reason() const;

  private:
    /// One metric that may have a limit; numbers in the units of the screen.
    struct Row {
        Limit usual;
        QCheckBox* counts;
        QDoubleSpinBox* above;
        QDoubleSpinBox* below; ///< null where there is none
    };
    void add_row(QGridLayout* grid, int row, const Limit& usual);
    QDoubleSpinBox* number_box(const QString& name, const QString& label, Metric metric, double low);
    double on_screen(Metric metric, double in_file_unit) const;
    double in_file(Metric metric, double on_screen) const;
    void show_set(const LimitSet& set);
    LimitSet values() const;
    void check();
    static QString history(const Project& project);

    const DisplayUnits& units_;
    LimitSet now_;
    std::vector<Row> rows_;
    QComboBox* name_;
    QDoubleSpinBox* check_lift_;
    QLineEdit* reason_;
    QLabel *note_, *verdict_;
    QDialogButtonBox* buttons_;
    bool filling_ = false;
};

} // namespace bathmos::app
