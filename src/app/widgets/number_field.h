// One number with its unit: typed in the unit in force, handed on in SI, refused in words when out of range.
#pragma once

#include "app/text/display_units.h"
#include "app/text/words.h"

#include <QLabel>
#include <QLineEdit>
#include <functional>

class QToolButton;

namespace bathmos::app {

/// The name of a number; dragged sideways it changes the number.
class DragName : public QLabel {
    Q_OBJECT
  public:
    using QLabel::QLabel;
    void set_pullable(bool on);

  signals:
    void pull_began();
    void dragged(int pixels); ///< from where the hand took hold
    void let_go();
    void pull_left(); ///< Escape, or the other button

  protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    bool pullable_ = false, held_ = false;
    int from_ = 0;
};

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
    /// Lets the name be dragged: `step_si` each few pixels, or with 0 a small share of the value; Up and Down
    /// in the field change by as much.
    void set_pullable(double step_si = 0);
    DragName* name() const { return name_; }
    /// Narrower, for rows of several.
    void set_compact();
    QString problem() const { return problem_; }
    /// A sign before the number for how it is known, `told` in words; a click on it, or Alt+Down in the
    /// field, asks for more.
    void show_source(const QString& sign, const QString& told);
    QString source_sign() const;

  signals:
    void edited(double si);  ///< a valid number was typed
    void dragged(double si); ///< the name is being dragged; nothing is decided
    void let_go(double si);  ///< the pull ended here
    void pull_left();        ///< the pull was given up
    void source_asked();     ///< how well the number is known

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void typed(const QString& text);
    double step() const;
    bool acceptable(double si) const;
    void pull_to(double si);
    void relabel();

    DisplayUnits& units_;
    Quantity quantity_;
    QString help_, problem_;
    Complaint complaint_;
    QLineEdit* edit_;
    QLabel* unit_;
    DragName* name_;
    QToolButton* sign_ = nullptr;
    double si_ = 0, pulled_from_ = 0, step_si_ = 0;
    bool compact_ = false;
};

} // namespace bathmos::app
