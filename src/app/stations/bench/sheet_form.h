// A bench sheet as it is filled in: what is asked once, the readings, where the instrument goes, and the
// caution.
#pragma once

#include "app/desk/context.h"
#include "core/bench/sheet_kind.h"

#include <QWidget>

class QFormLayout;
class QLabel;
class QLineEdit;

namespace bathmos::app {

class InstrumentBar;
class ReadingTable;
class SheetDrawing;

class SheetForm : public QWidget {
    Q_OBJECT
  public:
    explicit SheetForm(Context context, QWidget* parent = nullptr);
    /// Shows a sheet; fields that are being typed in stay as they are.
    void show_sheet(const bench::SheetDraft& draft);
    const bench::SheetDraft& sheet() const { return draft_; }
    /// The cursor into the first field, or the first reading, that is empty.
    void go_to_first_gap();

  signals:
    void edited(const bench::SheetDraft& draft);
    void message(const QString& text);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void rebuild(const bench::SheetKind& kind);
    QLineEdit* add_line(const QString& key, const QString& label, const QString& how, bool optional);
    void fill_fields();
    void typed(QLineEdit* edit, const bench::SheetField& field);
    void point_at(const QString& key, const QString& how);
    bool take_into(QLineEdit* edit, bool repeat);
    void take_by_itself();
    void offer_standin();

    Context context_;
    bench::SheetDraft draft_;
    const bench::SheetKind* kind_ = nullptr;
    QLabel *title_, *purpose_, *how_, *caution_;
    QWidget* fields_box_;
    QFormLayout* fields_ = nullptr;
    InstrumentBar* instrument_;
    ReadingTable* readings_;
    SheetDrawing* drawing_;
    std::map<std::string, QLineEdit*> edits_;
    QLineEdit* names_ = nullptr;
};

} // namespace bathmos::app
