#include "app/widgets/number_table.h"

#include "app/theme/theme.h"
#include "app/widgets/table_copy.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QKeyEvent>

namespace bathmos::app {

NumberTable::NumberTable(const QString& name, QWidget* parent) : QTableWidget(parent) {
    setObjectName(name);
    setAccessibleName(name);
    setEditTriggers(QAbstractItemView::NoEditTriggers);
    setTabKeyNavigation(false);
    setShowGrid(false);
    setAlternatingRowColors(true);
    verticalHeader()->hide();
    verticalHeader()->setDefaultSectionSize(22);
    horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    horizontalHeader()->setHighlightSections(false);
    setToolTip(tr("Ctrl+C copies the selected cells, or the whole table"));
}

void NumberTable::set_headings(const QStringList& headings) {
    setColumnCount(static_cast<int>(headings.size()));
    setHorizontalHeaderLabels(headings);
}

void NumberTable::set_cell(int row, int column, const QString& text, bool number) {
    const Qt::Alignment side = (number ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter;
    if (QTableWidgetItem* there = item(row, column);
        there && there->textAlignment() == static_cast<int>(side)) {
        if (there->text() != text) // each change measures the whole column anew
            there->setText(text);
        return;
    }
    auto* made = new QTableWidgetItem(text);
    made->setFont(number ? Theme::number_font(12) : Theme::text_font(12));
    made->setTextAlignment(side);
    setItem(row, column, made);
}

void NumberTable::wrap_last_column() {
    setWordWrap(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOn); // one that comes and goes would change the width
    horizontalHeader()->setStretchLastSection(false);  // that would keep a long heading's width
    horizontalHeader()->setSectionResizeMode(columnCount() - 1, QHeaderView::Stretch);
    verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    connect(horizontalHeader(), &QHeaderView::sectionResized, this, &QTableWidget::resizeRowsToContents);
}

QString NumberTable::cell(int row, int column) const {
    const QTableWidgetItem* found = item(row, column);
    return found ? found->text() : QString();
}

QString NumberTable::as_text() const {
    return table_text(*this);
}

void NumberTable::keyPressEvent(QKeyEvent* event) {
    if (event->matches(QKeySequence::Copy))
        QApplication::clipboard()->setText(as_text());
    else
        QTableWidget::keyPressEvent(event);
}

} // namespace bathmos::app
