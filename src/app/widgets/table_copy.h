// Any table or list of the window to the clipboard.
#pragma once

#include <QObject>

class QAbstractItemView;

namespace bathmos::app {

/// The selected cells, or where one cell or none is selected the whole table with its headings;
/// tab-separated, hidden columns and rows left out, in the order of the screen.
QString table_text(const QAbstractItemView& table);

/// Hears Ctrl+C in every table and tree within a window.
class TableCopy : public QObject {
    Q_OBJECT
  public:
    explicit TableCopy(QObject* parent);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
};

} // namespace bathmos::app
