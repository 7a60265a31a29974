// A list of rows of numbers as text, one row a line: lobe readings, load tables, ratio tables, coil
// diameters.
#pragma once

#include <QPlainTextEdit>
#include <QVector>
#include <functional>
#include <vector>

namespace bathmos::app {

class ListEdit : public QPlainTextEdit {
    Q_OBJECT
  public:
    /// `columns`: numbers in each line, for the user's reading, e.g. {"angle", "lift"}.
    ListEdit(const QString& key, const QStringList& columns, QWidget* parent = nullptr);

    void show_rows(const std::vector<std::vector<double>>& columns);
    QString problem() const { return problem_; }

  signals:
    /// One list a column; all lines were numbers.
    void edited(const std::vector<std::vector<double>>& columns);

  private:
    void typed();
    QStringList columns_;
    QString problem_;
    bool showing_ = false;
};

} // namespace bathmos::app
