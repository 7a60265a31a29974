// Import of a rig trace: which column is what, in which unit, with a preview of the file's first rows.
#pragma once

#include "app/desk/rig_session.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QDialogButtonBox;
class QFormLayout;
class QLabel;

namespace bathmos::app {

class RigImportDialog : public QDialog {
    Q_OBJECT
  public:
    /// Reads the head of the file. Throws InputError when it is no table.
    explicit RigImportDialog(const QString& path, QWidget* parent = nullptr);

    RigImport wanted() const;
    /// "" or what is still missing, in words.
    QString missing() const;

  private:
    QComboBox* column_choice(const QString& name, const std::optional<std::size_t>& guess);
    void add_mapping(QFormLayout* form);
    void check();

    QString path_;
    io::TableShape shape_;
    QComboBox *basis_, *lift_, *lift_unit_, *rpm_, *cycle_, *angle_, *angle_unit_, *time_, *index_;
    QCheckBox* reversed_;
    QLabel* verdict_;
    QDialogButtonBox* buttons_ = nullptr;
};

} // namespace bathmos::app
