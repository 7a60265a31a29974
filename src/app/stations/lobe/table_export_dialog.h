// In which step and unit a lobe is written as a table.
#pragma once

#include "io/lobe/gauge_file.h"

#include <QDialog>

class QComboBox;
class QDoubleSpinBox;

namespace bathmos::app {

class TableExportDialog : public QDialog {
    Q_OBJECT
  public:
    explicit TableExportDialog(const QString& lobe, QWidget* parent = nullptr);
    std::string text_of(const LobeCurve& curve) const;

  private:
    QComboBox *angle_unit_, *unit_;
    QDoubleSpinBox* step_;
};

} // namespace bathmos::app
