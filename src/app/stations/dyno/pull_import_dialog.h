// Import of dyno pulls: which column is what and in which unit, the rows and the pulls found, and what the
// pulls belong to.
#pragma once

#include "app/imports/column_dialog.h"
#include "core/project/project.h"
#include "io/dyno/pull_file.h"
#include "session/project/keeping.h"

#include <array>

class QCheckBox;
class QLineEdit;

namespace bathmos::app {

class PullImportDialog : public ColumnDialog {
    Q_OBJECT
  public:
    /// Throws InputError if the file's head cannot be read.
    PullImportDialog(const QString& path, const Project& project, Id revision, QWidget* parent = nullptr);

    /// The pulls as the mapping stands.
    const std::vector<Pull>& pulls() const { return pulls_; }
    /// What is said of the pulls: revision, notes, what else was changed.
    session::PullNote note() const;

  protected:
    std::string mapping_line() const override { return io::pull_mapping_text(mapping()); }
    QString look() override;

  private:
    QWidget* make_mapping();
    QWidget* make_belonging(const Project& project, Id revision);
    io::PullMapping mapping() const;

    std::vector<Pull> pulls_;
    std::array<QComboBox*, kPullChannels> column_{}, unit_{};
    QComboBox *number_ = nullptr, *revision_ = nullptr;
    QCheckBox* corrected_ = nullptr;
    QLineEdit *changed_ = nullptr, *fuel_ = nullptr, *boost_ = nullptr, *notes_ = nullptr;
};

} // namespace bathmos::app
