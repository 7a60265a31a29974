// A read-only table of numbers that can be copied with Ctrl+C, numbers aligned.
#pragma once

#include <QTableWidget>

namespace bathmos::app {

class NumberTable : public QTableWidget {
    Q_OBJECT
  public:
    NumberTable(const QString& name, QWidget* parent = nullptr);
    void set_headings(const QStringList& headings);
    void set_cell(int row, int column, const QString& text, bool number = true);
    /// To be asked after set_headings: long text of the last column wraps within what is seen, and rows
    /// follow its height.
    void wrap_last_column();
    QString cell(int row, int column) const;
    /// Selected cells, or the whole table with its headings, tab-separated.
    QString as_text() const;

  protected:
    void keyPressEvent(QKeyEvent* event) override;
};

} // namespace bathmos::app
