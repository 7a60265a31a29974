// Import of a rig trace: which column is what, in which unit.
#pragma once

#include "app/desk/rig_session.h"
#include "app/imports/column_dialog.h"

class QCheckBox;
class QFormLayout;

namespace bathmos::app {

class RigImportDialog : public ColumnDialog {
    Q_OBJECT
  public:
    /// Reads the head of the file. Throws InputError when it is no table.
    explicit RigImportDialog(const QString& path, QWidget* parent = nullptr);

    RigImport wanted() const;
    /// "" or what is still missing, in words.
    QString missing() const { return problem(); }

  protected:
    std::string mapping_line() const override;
    QString look() override;

  private:
    void add_mapping(QFormLayout* form);

    QComboBox *basis_, *lift_, *lift_unit_, *rpm_, *cycle_, *angle_, *angle_unit_, *time_, *index_, *oil_;
    QCheckBox* reversed_;
};

} // namespace bathmos::app
