// The one dialogue in which columns of a file are mapped: what a column is and in which unit, a preview of
// the file's first rows, what was found or what is missing, and a memory of how files of a source were
// mapped. Gauge, rig and dyno add what is theirs.
#pragma once

#include "io/text/delimited.h"

#include <QDialog>
#include <optional>

class QBoxLayout;
class QComboBox;
class QLabel;
class QPushButton;

namespace bathmos::app {

class ColumnDialog : public QDialog {
    Q_OBJECT
  public:
    /// "" or what is wrong or missing, in words.
    QString problem() const { return problem_; }
    /// Remembers the mapping for files with the same columns.
    void remember() const;

  protected:
    /// `source` begins the names of all parts: "gauge". Reads the head of the file; throws InputError when it
    /// is no table. `texts`: so many fields of a row may be words.
    ColumnDialog(const QString& path, const QString& source, const QString& title, QWidget* parent,
                 std::size_t texts = 0);

    const QString& path() const { return path_; }
    const io::TableShape& shape() const { return shape_; }
    QStringList columns() const;
    /// A choice among the file's columns, "not in this file" first; looked at by chosen().
    QComboBox* column_choice(const QString& name, const QString& label,
                             const std::optional<std::size_t>& now);
    QComboBox* choice(const QString& name, const QString& label, const QStringList& items, int now);
    static std::optional<std::size_t> chosen(const QComboBox* box);
    static void choose(QComboBox* box, const std::optional<std::size_t>& column);
    /// What was remembered for files with these columns, as the source's own text; "" for nothing.
    std::string remembered_mapping() const;
    /// Adds preview, words and buttons below what stands in `layout`, and looks for the first time.
    void finish(QBoxLayout* layout, const QString& accept);
    /// Looks again; to be called by everything that changes the mapping.
    void check();

    /// The mapping as it stands, as one line of text.
    virtual std::string mapping_line() const = 0;
    /// Reads with the mapping as it stands: words about what was found. Throws InputError for what is wrong
    /// or missing.
    virtual QString look() = 0;

  private:
    QWidget* make_preview() const;
    QString key() const;

    QString path_, source_, problem_;
    io::TableShape shape_;
    QLabel* words_ = nullptr;
    QPushButton* accept_ = nullptr;
};

} // namespace bathmos::app
