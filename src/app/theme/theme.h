// All colours and fonts of the application, by meaning. Widgets and plots ask for roles, never for a colour.
#pragma once

#include <QColor>
#include <QFont>
#include <QObject>
#include <QPalette>

class QApplication;

namespace bathmos::app {

enum class Role {
    Paper,     ///< window background
    Panel,     ///< plots, fields
    Ink,       ///< text
    Faint,     ///< secondary text
    Rule,      ///< lines between things, grids
    Kinematic, ///< kinematic motion
    Predicted, ///< model
    Measured,  ///< rig
    Third,     ///< a further curve without a source of its own
    LimitMark, ///< limits, warnings
    StopMark,  ///< stop findings
    Count
};

enum class Look { Light, Dark };

/// Apart: further from each other for readers who see two of the three primary colours, whichever two.
enum class Colours { Usual, Apart };

/// Colour of a role in a look.
QColor color_of(Role role, Look look, Colours colours = Colours::Usual);

/// That of the desktop: dark where its windows are darker than their text.
Look look_of(const QPalette& desktop);

/// Contrast ratio of two colours (1..21), by relative luminance.
double contrast(const QColor& a, const QColor& b);

/// The look in force; one object for the application, handed down by the window.
class Theme : public QObject {
    Q_OBJECT
  public:
    explicit Theme(QObject* parent = nullptr) : QObject(parent) {}

    Look look() const { return look_; }
    QColor color(Role role) const { return color_of(role, look_, colours_); }
    /// The role's colour at 45 % strength on the panel: compared or old results.
    QColor faded(Role role) const;
    void set_look(Look look);
    Colours colours() const { return colours_; }
    void set_colours(Colours colours);

    static QFont text_font(int pixels = 13, bool strong = false);
    static QFont number_font(int pixels = 13);

    /// Loads the shipped fonts; false if they are missing from the program.
    static bool load_fonts();

  signals:
    void changed();

  private:
    void apply() const;
    Look look_ = Look::Light;
    Colours colours_ = Colours::Usual;
};

} // namespace bathmos::app
