// Readings of a sheet, a row each, typed without the mouse: Enter takes one and goes on to the next, and past
// the last cell to a new row.
#pragma once

#include "app/instruments/reading_source.h"
#include "app/text/display_units.h"
#include "core/bench/sheet_kind.h"

#include <QTableWidget>

namespace bathmos::app {

class ReadingTable : public QTableWidget {
    Q_OBJECT
  public:
    explicit ReadingTable(DisplayUnits& units, QWidget* parent = nullptr);
    /// Columns of this kind, which must have some.
    void set_kind(const bench::SheetKind& kind);
    /// Shows rows, and an empty one to go on with.
    void show_rows(const std::vector<bench::SheetRow>& rows);
    /// Enter in an empty cell takes what this shows; Ctrl+Enter a repeat into the same cell.
    void set_source(ReadingSource* source) { source_ = source; }
    /// Takes what the source shows into the cell with the cursor, and into those after it that it reads too;
    /// false where there is nothing to take.
    bool take(bool repeat);
    /// The cursor on to the next cell that is usually filled.
    void go_on();

  signals:
    void edited(const std::vector<bench::SheetRow>& rows);
    /// What is wrong with what was typed; it is not taken.
    void refused(const QString& why);
    /// The column whose instrument is in hand.
    void at_column(const QString& key);

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    void closeEditor(QWidget* editor, QAbstractItemDelegate::EndEditHint hint) override;

  private:
    void typed(int row, int column);
    bool put_values(const std::vector<InstrumentValue>& values, bool repeat);
    bool turned(const std::vector<bench::SheetRow>& rows) const;
    void remove_row();
    void paste(const QString& text);
    std::optional<bench::SheetRow> row_from(const QStringList& words) const;
    void relabel();
    void fill_row(int row, const bench::SheetRow& from);
    bool takes_typing(int row, int column) const;
    int name_columns() const { return kind_ && !kind_->named.empty() ? 1 : 0; }
    int turn_column() const;
    const bench::SheetField* field_at(int column) const;
    QString turn_word(bool back) const;

    DisplayUnits& units_;
    const bench::SheetKind* kind_ = nullptr;
    ReadingSource* source_ = nullptr;
    std::vector<bench::SheetRow> rows_;
    bool showing_ = false, stale_ = true; ///< stale: what is shown is not rows_, or in another unit
};

} // namespace bathmos::app
