#include "app/stations/bench/reading_table.h"

#include "app/stations/bench/reading_text.h"
#include "app/text/words.h"
#include "app/theme/theme.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QKeyEvent>
#include <QRegularExpression>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {
constexpr double kStill_m = 0.02e-3; // less is no movement of the hand
}

ReadingTable::ReadingTable(DisplayUnits& units, QWidget* parent) : QTableWidget(parent), units_(units) {
    setObjectName(QStringLiteral("bench_readings"));
    setAccessibleName(tr("Readings"));
    setToolTip(tr("Enter takes a reading and goes on; repeats stand with blanks between; Ctrl+Delete takes a "
                  "row away; blank turns the direction; Ctrl+V pastes rows"));
    setAlternatingRowColors(true);
    setTabKeyNavigation(false);
    setEditTriggers(QAbstractItemView::AnyKeyPressed | QAbstractItemView::DoubleClicked |
                    QAbstractItemView::EditKeyPressed);
    horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    horizontalHeader()->setStretchLastSection(true);
    horizontalHeader()->setHighlightSections(false);
    verticalHeader()->setDefaultSectionSize(24);
    connect(this, &QTableWidget::cellChanged, this, &ReadingTable::typed);
    connect(this, &QTableWidget::currentCellChanged, this, [this](int, int column) {
        if (const bench::SheetField* field = field_at(column))
            emit at_column(words(field->key));
    });
    connect(&units_, &DisplayUnits::changed, this, [this] {
        if (kind_) {
            relabel();
            show_rows(rows_);
        }
    });
}

int ReadingTable::turn_column() const {
    return kind_ && !kind_->usual.empty() ? columnCount() - 1 : -1;
}

const bench::SheetField* ReadingTable::field_at(int column) const {
    const int at = column - name_columns();
    return kind_ && at >= 0 && at < static_cast<int>(kind_->columns.size())
               ? &kind_->columns[static_cast<std::size_t>(at)]
               : nullptr;
}

QString ReadingTable::turn_word(bool back) const {
    return phrase(back ? kind_->back : kind_->usual);
}

bool ReadingTable::takes_typing(int row, int column) const {
    const bench::SheetField* field = field_at(column);
    if (column < name_columns() || (field && !field->optional))
        return true;
    const int above = row - 1; // who filled it once goes on filling it
    const auto at = static_cast<std::size_t>(column - name_columns());
    return field && above >= 0 && above < static_cast<int>(rows_.size()) &&
           at < rows_[static_cast<std::size_t>(above)].cells.size() &&
           !rows_[static_cast<std::size_t>(above)].cells[at].empty();
}

void ReadingTable::set_kind(const bench::SheetKind& kind) {
    kind_ = &kind;
    setColumnCount(name_columns() + static_cast<int>(kind.columns.size()) + (kind.usual.empty() ? 0 : 1));
    relabel();
}

void ReadingTable::relabel() {
    stale_ = true;
    QStringList headings;
    if (name_columns() > 0)
        headings << phrase(kind_->named);
    for (const bench::SheetField& column : kind_->columns) {
        const QString unit = units_.unit_name(column.quantity);
        headings << (unit.isEmpty() ? phrase(column.label)
                                    : QStringLiteral("%1, %2").arg(phrase(column.label), unit));
    }
    if (!kind_->usual.empty())
        headings << tr("going");
    setHorizontalHeaderLabels(headings);
}

void ReadingTable::fill_row(int row, const bench::SheetRow& from) {
    const auto put = [&](int column, const QString& text, bool editable) {
        auto* made = new QTableWidgetItem(text);
        made->setFont(Theme::number_font(12));
        if (!editable)
            made->setFlags(made->flags() & ~Qt::ItemIsEditable);
        setItem(row, column, made);
    };
    if (name_columns() > 0)
        put(0, words(from.name), true);
    for (int c = 0; c < static_cast<int>(kind_->columns.size()); ++c) {
        const auto at = static_cast<std::size_t>(c);
        put(name_columns() + c,
            at < from.cells.size() ? readings_text(units_, kind_->columns[at].quantity, from.cells[at])
                                   : QString(),
            true);
    }
    if (turn_column() >= 0)
        put(turn_column(), turn_word(from.back), false);
}

void ReadingTable::show_rows(const std::vector<bench::SheetRow>& rows) {
    if (!stale_ && rows == rows_) // the same again must not take the next reading from under the hand
        return;
    stale_ = false;
    const int row = currentRow(), column = currentColumn();
    showing_ = true;
    rows_ = rows;
    setRowCount(static_cast<int>(rows.size()) + 1);
    for (std::size_t i = 0; i < rows.size(); ++i)
        fill_row(static_cast<int>(i), rows[i]);
    bench::SheetRow next;
    next.back = !rows.empty() && rows.back().back;
    fill_row(static_cast<int>(rows.size()), next);
    showing_ = false;
    if (row >= 0)
        setCurrentCell(std::min(row, rowCount() - 1), std::max(0, column));
}

void ReadingTable::typed(int row, int column) {
    if (showing_ || !kind_)
        return;
    std::vector<bench::SheetRow> next = rows_;
    if (row >= static_cast<int>(next.size())) {
        next.emplace_back();
        next.back().back = !rows_.empty() && rows_.back().back;
    }
    bench::SheetRow& here = next[static_cast<std::size_t>(row)];
    here.cells.resize(kind_->columns.size());
    const QString text = item(row, column)->text().trimmed();
    if (column < name_columns()) {
        here.name = text.toStdString();
    } else if (const bench::SheetField* field = field_at(column)) {
        const auto read = parse_readings(units_, field->quantity, text);
        if (!read) {
            stale_ = true;
            show_rows(rows_);
            return emit refused(
                tr("\"%1\" was not taken: type a number, or repeats with blanks between.").arg(text));
        }
        here.cells[static_cast<std::size_t>(column - name_columns())] = *read;
    }
    if (next == rows_)
        return;
    stale_ = true; // as the number is written by the screen, not as it was typed
    show_rows(next);
    emit edited(rows_);
}

void ReadingTable::go_on() {
    int row = currentRow(), column = currentColumn();
    do {
        if (++column >= columnCount()) {
            column = 0;
            row = std::min(row + 1, rowCount() - 1);
        }
    } while (!takes_typing(row, column));
    setCurrentCell(row, column);
}

// Where the instrument has turned about since the first two readings: up after down, or the other way.
bool ReadingTable::turned(const std::vector<bench::SheetRow>& rows) const {
    const std::size_t n = rows.size();
    if (n < 3)
        return n > 1 && rows[n - 2].back;
    const auto first_of = [&](std::size_t i) {
        return rows[i].cells.empty() || rows[i].cells[0].empty() ? std::optional<double>()
                                                                 : rows[i].cells[0].front();
    };
    const auto a = first_of(0), b = first_of(1), before = first_of(n - 2), now = first_of(n - 1);
    if (!a || !b || !before || !now || std::abs(*now - *before) < kStill_m)
        return rows[n - 2].back;
    return (*b - *a) * (*now - *before) < 0;
}

bool ReadingTable::put_values(const std::vector<InstrumentValue>& values, bool repeat) {
    std::vector<bench::SheetRow> next = rows_;
    const int row = std::max(0, currentRow());
    if (row >= static_cast<int>(next.size())) {
        next.emplace_back();
        next.back().back = !rows_.empty() && rows_.back().back;
    }
    bench::SheetRow& here = next[static_cast<std::size_t>(row)];
    here.cells.resize(kind_->columns.size());
    std::vector<InstrumentValue> left = values; // each goes into one column
    bool any = false;
    for (int column = std::max(currentColumn(), name_columns());
         const bench::SheetField* field = field_at(column); ++column) {
        const InstrumentValue* value = value_for(left, field->key, field->quantity);
        std::vector<double>& cell = here.cells[static_cast<std::size_t>(column - name_columns())];
        if (!value || (!cell.empty() && !repeat))
            continue;
        cell.push_back(value->si);
        left.erase(left.begin() + (value - left.data()));
        any = true;
    }
    if (!any)
        return false;
    if (!kind_->usual.empty() && row + 1 == static_cast<int>(next.size()))
        here.back = turned(next);
    stale_ = true;
    show_rows(next);
    emit edited(rows_);
    return true;
}

bool ReadingTable::take(bool repeat) {
    if (!source_ || !kind_)
        return false;
    const std::vector<InstrumentValue> values = source_->read_now();
    if (values.empty())
        return false; // why was told
    if (!put_values(values, repeat)) {
        emit refused(tr("Nothing was taken: the device does not read what this cell holds."));
        return false;
    }
    source_->was_taken();
    return true;
}

void ReadingTable::remove_row() {
    const int row = currentRow();
    if (row < 0 || row >= static_cast<int>(rows_.size()))
        return;
    std::vector<bench::SheetRow> next = rows_;
    next.erase(next.begin() + row);
    show_rows(next);
    emit edited(rows_);
}

// One line of a table that was copied elsewhere: its cells in the order of the columns, a direction by its
// word. Empty where one of them is no number.
std::optional<bench::SheetRow> ReadingTable::row_from(const QStringList& cells) const {
    bench::SheetRow out;
    out.cells.resize(kind_->columns.size());
    int column = 0;
    for (const QString& cell : cells) {
        if (!kind_->usual.empty() && (cell == turn_word(false) || cell == turn_word(true))) {
            out.back = cell == turn_word(true);
            continue;
        }
        if (column < name_columns()) {
            out.name = cell.toStdString();
        } else if (const bench::SheetField* field = field_at(column)) {
            const auto read = parse_readings(units_, field->quantity, cell);
            if (!read)
                return std::nullopt;
            out.cells[static_cast<std::size_t>(column - name_columns())] = *read;
        }
        ++column;
    }
    return out;
}

// Rows go in where the cursor is; a line that is no reading leaves all as it was.
void ReadingTable::paste(const QString& text) {
    static const QRegularExpression gap(QStringLiteral("[ ;]+"));
    std::vector<bench::SheetRow> fresh;
    const QStringList lines = text.split(QLatin1Char('\n'));
    for (int i = 0; i < lines.size(); ++i) {
        const QString line = lines[i].trimmed();
        if (line.isEmpty())
            continue;
        const auto row =
            row_from(line.contains(QLatin1Char('\t')) ? line.split(QLatin1Char('\t')) : line.split(gap));
        if (!row)
            return emit refused(
                tr("Nothing was pasted: line %1, \"%2\", is no reading; copy the columns as they stand "
                   "here, without their headings.")
                    .arg(i + 1)
                    .arg(line.left(40)));
        fresh.push_back(*row);
    }
    std::vector<bench::SheetRow> next = rows_;
    next.insert(next.begin() + std::clamp(currentRow(), 0, static_cast<int>(next.size())), fresh.begin(),
                fresh.end());
    show_rows(next);
    emit edited(rows_);
}

void ReadingTable::closeEditor(QWidget* editor, QAbstractItemDelegate::EndEditHint hint) {
    QTableWidget::closeEditor(editor, QAbstractItemDelegate::NoHint);
    if (hint == QAbstractItemDelegate::SubmitModelCache)
        go_on();
}

void ReadingTable::keyPressEvent(QKeyEvent* event) {
    const bool turn = currentColumn() == turn_column() && currentRow() < static_cast<int>(rows_.size());
    if (event->matches(QKeySequence::Paste) && kind_)
        return paste(QApplication::clipboard()->text());
    if (event->key() == Qt::Key_Delete && event->modifiers() == Qt::ControlModifier)
        return remove_row();
    if (event->key() == Qt::Key_Space && turn && currentRow() >= 0) {
        std::vector<bench::SheetRow> next = rows_;
        bench::SheetRow& here = next[static_cast<std::size_t>(currentRow())];
        here.back = !here.back;
        show_rows(next);
        return emit edited(rows_);
    }
    const bool enter =
        (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && state() != EditingState;
    const auto modifiers = event->modifiers() & ~Qt::KeypadModifier;
    if (enter && modifiers == Qt::ControlModifier && source_ && source_->there()) {
        take(true);
        return;
    }
    if (enter && modifiers == Qt::NoModifier) {
        const QTableWidgetItem* here = currentItem();
        const bool empty = field_at(currentColumn()) && (!here || here->text().isEmpty());
        if (!empty || !source_ || !source_->there())
            return go_on();
        if (take(false))
            go_on();
        return;
    }
    QTableWidget::keyPressEvent(event);
}

} // namespace bathmos::app
