#include "app/widgets/table_copy.h"

#include <QAbstractItemView>
#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QKeyEvent>
#include <QListView>
#include <QTableView>
#include <QTreeView>

namespace bathmos::app {

namespace {

const QHeaderView* header_of(const QAbstractItemView& view) {
    if (const auto* table = qobject_cast<const QTableView*>(&view))
        return table->horizontalHeader();
    const auto* tree = qobject_cast<const QTreeView*>(&view);
    return tree && !tree->isHeaderHidden() ? tree->header() : nullptr;
}

// All rows that are shown, children behind their parents.
void gather_rows(const QAbstractItemView& view, const QModelIndex& parent, QModelIndexList& out) {
    const auto* table = qobject_cast<const QTableView*>(&view);
    const auto* tree = qobject_cast<const QTreeView*>(&view);
    for (int row = 0; row < view.model()->rowCount(parent); ++row) {
        const QModelIndex first = view.model()->index(row, 0, parent);
        if ((table && table->isRowHidden(row)) || (tree && tree->isRowHidden(row, parent)))
            continue;
        out << first;
        if (tree)
            gather_rows(view, first, out);
    }
}

QString line_of(const QStringList& cells) {
    return cells.join(QLatin1Char('\t')).replace(QLatin1Char('\n'), QLatin1Char(' ')) + QLatin1Char('\n');
}

} // namespace

QString table_text(const QAbstractItemView& view) {
    if (!view.model())
        return {};
    const QHeaderView* header = header_of(view);
    QList<int> columns;
    for (int place = 0; place < view.model()->columnCount(); ++place)
        if (const int column = header ? header->logicalIndex(place) : place;
            !header || !header->isSectionHidden(column))
            columns << column;
    const QModelIndexList selected =
        view.selectionModel() ? view.selectionModel()->selectedIndexes() : QModelIndexList();
    const bool whole = selected.size() <= 1;
    QModelIndexList rows;
    gather_rows(view, {}, rows);
    QString out;
    if (whole && header) {
        QStringList heads;
        for (const int column : columns)
            heads << view.model()->headerData(column, Qt::Horizontal).toString();
        out += line_of(heads);
    }
    for (const QModelIndex& row : rows) {
        QStringList cells;
        for (const int column : columns)
            if (const QModelIndex cell = row.siblingAtColumn(column); whole || selected.contains(cell))
                cells << cell.data().toString();
        if (!cells.isEmpty())
            out += line_of(cells);
    }
    return out;
}

TableCopy::TableCopy(QObject* parent) : QObject(parent) {
    qApp->installEventFilter(this);
}

bool TableCopy::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() != QEvent::KeyPress || !static_cast<QKeyEvent*>(event)->matches(QKeySequence::Copy))
        return false;
    const auto* view = qobject_cast<const QAbstractItemView*>(watched);
    if (!view) // who edits a cell is in its field, which copies by itself
        return false;
    QApplication::clipboard()->setText(table_text(*view));
    return true;
}

} // namespace bathmos::app
