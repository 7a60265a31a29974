// Import of profile-gauge readings: which column is what, in which unit, with a preview of the file and of
// the lobes found in it.
#pragma once

#include "core/project/part.h"
#include "io/lobe/gauge_file.h"

#include <QDialog>
#include <QVector>
#include <vector>

class QCheckBox;
class QComboBox;
class QDialogButtonBox;
class QLabel;
class QListWidget;

namespace bathmos::app {

/// One lobe as it was read, with its raw passes.
struct ImportedLobe {
    QString name;
    CombinedPasses combined;
    GaugedLobe raw;
};

class GaugeImportDialog : public QDialog {
    Q_OBJECT
  public:
    /// Reads the head of the file. Throws InputError when it is no table.
    explicit GaugeImportDialog(const QString& path, QWidget* parent = nullptr);

    io::GaugeMapping mapping() const;
    /// The lobes under the present mapping; empty, with words in problem(), where they cannot be read.
    const std::vector<ImportedLobe>& lobes() const { return lobes_; }
    QString problem() const { return problem_; }
    /// Remembers the mapping for files with the same columns.
    void remember() const;

  private:
    void show_mapping(const io::GaugeMapping& mapping);
    void check();

    QString path_;
    io::TableShape shape_;
    QComboBox *angle_, *angle_unit_, *unit_, *lobe_;
    QListWidget* rises_;
    QCheckBox *passes_, *mirrored_;
    QLabel* verdict_;
    QDialogButtonBox* buttons_ = nullptr;
    std::vector<ImportedLobe> lobes_;
    QString problem_;
    bool filling_ = false;
};

} // namespace bathmos::app
