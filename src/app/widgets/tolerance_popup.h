// How well one number is known: its source and tolerance, over the field that it belongs to.
#pragma once

#include "app/text/display_units.h"
#include "core/train/tolerance.h"

#include <QFrame>

class QComboBox;

namespace bathmos::app {

/// "?" assumed, "≈" estimated as in every train, "▭" sheet, "●" measured, "◇" fitted.
QString source_sign(const UncertainInput& input);
/// "assumed ± 27 g", and the rule where there is one.
QString source_words(const DisplayUnits& units, Quantity quantity, const UncertainInput& input);

/// A box with all sources, in their order.
QComboBox* source_box(const QString& name, const QString& spoken);

class TolerancePopup : public QFrame {
    Q_OBJECT
  public:
    TolerancePopup(DisplayUnits& units, Quantity quantity, const UncertainInput& input, QWidget* parent);

  signals:
    void chosen(const Tolerance& tolerance);

  private:
    Tolerance tolerance_;
};

} // namespace bathmos::app
