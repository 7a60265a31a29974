// Import of profile-gauge readings: which column is what, in which unit, with a preview of the file and of
// the lobes found in it.
#pragma once

#include "app/imports/column_dialog.h"
#include "core/project/part.h"
#include "io/lobe/gauge_file.h"

#include <QVector>
#include <vector>

class QCheckBox;
class QListWidget;

namespace bathmos::app {

/// One lobe as it was read, with its raw passes.
struct ImportedLobe {
    QString name;
    CombinedPasses combined;
    GaugedLobe raw;
};

class GaugeImportDialog : public ColumnDialog {
    Q_OBJECT
  public:
    /// Reads the head of the file. Throws InputError when it is no table.
    explicit GaugeImportDialog(const QString& path, QWidget* parent = nullptr);

    io::GaugeMapping mapping() const;
    /// The lobes under the present mapping; empty, with words in problem(), where they cannot be read.
    const std::vector<ImportedLobe>& lobes() const { return lobes_; }

  protected:
    std::string mapping_line() const override { return io::mapping_text(mapping()); }
    QString look() override;

  private:
    void show_mapping(const io::GaugeMapping& mapping);

    QComboBox *angle_, *angle_unit_, *unit_, *lobe_;
    QListWidget* rises_;
    QCheckBox *passes_, *mirrored_;
    std::vector<ImportedLobe> lobes_;
};

} // namespace bathmos::app
