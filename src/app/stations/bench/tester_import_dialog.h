// Import of a spring tester's files: which column is what, in which unit, whether it is a height or how far
// the spring was pressed; with the springs found.
#pragma once

#include "app/imports/column_dialog.h"
#include "io/sheet/tester_file.h"

class QLineEdit;

namespace bathmos::app {

class TesterImportDialog : public ColumnDialog {
    Q_OBJECT
  public:
    /// Reads the head of the file. Throws InputError when it is no table.
    explicit TesterImportDialog(const QString& path, QWidget* parent = nullptr);

    io::TesterMapping mapping() const;
    /// The springs under the present mapping; empty, with words in problem(), where they cannot be read.
    const std::vector<io::TestedSpring>& springs() const { return springs_; }
    const io::TableShape& columns_of_file() const { return shape(); }

  protected:
    std::string mapping_line() const override { return io::tester_mapping_text(mapping()); }
    QString look() override;

  private:
    QComboBox *height_, *height_unit_, *load_, *load_unit_, *spring_;
    QLineEdit* free_length_;
    std::vector<io::TestedSpring> springs_;
};

} // namespace bathmos::app
