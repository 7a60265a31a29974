#include "app/stations/bench/sheet_form.h"

#include "app/instruments/instrument_bar.h"
#include "app/stations/bench/reading_table.h"
#include "app/stations/bench/reading_text.h"
#include "app/stations/bench/sheet_drawing.h"
#include "app/text/words.h"

#include <QEvent>
#include <QFormLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

constexpr int kFieldWidth = 150, kDrawingHeight = 156;

QLabel* wrapped(const char* name) {
    auto* out = new QLabel;
    out->setObjectName(QLatin1String(name));
    out->setWordWrap(true);
    return out;
}

} // namespace

SheetForm::SheetForm(Context context, QWidget* parent)
    : QWidget(parent), context_(context), title_(wrapped("bench_title")), purpose_(wrapped("bench_purpose")),
      how_(wrapped("bench_how")), caution_(wrapped("bench_caution")), fields_box_(new QWidget),
      instrument_(new InstrumentBar(context.units)), readings_(new ReadingTable(context.units)),
      drawing_(new SheetDrawing(context.theme)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    title_->setFont(Theme::text_font(15, true));
    layout->addWidget(title_);
    layout->addWidget(purpose_);
    drawing_->setFixedHeight(kDrawingHeight);
    layout->addWidget(drawing_);
    how_->setMinimumHeight(2 * how_->fontMetrics().lineSpacing());
    layout->addWidget(how_);
    auto* scroll = new QScrollArea;
    scroll->setAccessibleName(tr("The sheet"));
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setWidget(fields_box_);
    layout->addWidget(scroll, 2);
    layout->addWidget(instrument_);
    layout->addWidget(readings_, 3);
    layout->addWidget(caution_);
    connect(readings_, &ReadingTable::edited, this, [this](const std::vector<bench::SheetRow>& rows) {
        draft_.rows = rows;
        emit edited(draft_);
    });
    connect(readings_, &ReadingTable::refused, this, &SheetForm::message);
    readings_->set_source(instrument_);
    connect(instrument_, &InstrumentBar::message, this, &SheetForm::message);
    connect(instrument_, &InstrumentBar::sent_by_itself, this, &SheetForm::take_by_itself);
    connect(readings_, &ReadingTable::at_column, this, [this](const QString& key) {
        for (const bench::SheetField& column : kind_->columns)
            if (words(column.key) == key)
                point_at(key, phrase(column.how));
    });
    connect(&context_.units, &DisplayUnits::changed, this, [this] {
        if (kind_)
            rebuild(*kind_);
    });
}

void SheetForm::point_at(const QString& key, const QString& how) {
    how_->setText(how);
    drawing_->point_at(key);
}

QLineEdit* SheetForm::add_line(const QString& key, const QString& label, const QString& how, bool optional) {
    auto* edit = new QLineEdit;
    edit->setObjectName(QStringLiteral("bench_") + key);
    edit->setAccessibleName(label);
    edit->setToolTip(how);
    edit->setFont(Theme::number_font(12));
    edit->setFixedWidth(kFieldWidth);
    edit->setProperty("sheet_key", key);
    edit->setProperty("sheet_how", how);
    if (optional)
        edit->setPlaceholderText(tr("if known"));
    edit->installEventFilter(this);
    auto* name = new QLabel(label);
    name->setBuddy(edit);
    fields_->addRow(name, edit);
    connect(edit, &QLineEdit::returnPressed, edit, [this, edit] {
        if (!edit->text().isEmpty() || !instrument_->there() || take_into(edit, false))
            focusNextPrevChild(true);
    });
    return edit;
}

void SheetForm::rebuild(const bench::SheetKind& kind) {
    kind_ = &kind;
    title_->setText(phrase(kind.label));
    purpose_->setText(phrase(kind.purpose));
    caution_->setText(kind.caution.empty()
                          ? QString()
                          : tr("▲ %1 Makers' instructions, local rules and a competent person come first.")
                                .arg(phrase(kind.caution)));
    caution_->setVisible(!kind.caution.empty());
    drawing_->set_kind(words(kind.key));
    how_->clear();
    edits_.clear();
    names_ = nullptr;
    qDeleteAll(fields_box_->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
    delete fields_box_->layout();
    fields_ = new QFormLayout(fields_box_);
    fields_->setContentsMargins(0, 0, 0, 0);
    fields_->setVerticalSpacing(3);
    for (const bench::SheetField& field : kind.fields) {
        const QString unit = context_.units.unit_name(field.quantity);
        QLineEdit* edit = add_line(words(field.key),
                                   unit.isEmpty() ? phrase(field.label)
                                                  : QStringLiteral("%1, %2").arg(phrase(field.label), unit),
                                   phrase(field.how), field.optional);
        edits_[std::string(field.key)] = edit;
        connect(edit, &QLineEdit::editingFinished, this, [this, edit, &field] { typed(edit, field); });
    }
    if (kind.key == "spring_set") {
        names_ = add_line(
            QStringLiteral("valves"), tr("Valves"),
            tr("Names with commas between, those of one cylinder side by side: 1a, 1b, 2a, 2b."), true);
        connect(names_, &QLineEdit::editingFinished, this, [this] {
            if (const std::string names = names_->text().toStdString(); names != draft_.names) {
                draft_.names = names;
                emit edited(draft_);
            }
        });
    }
    readings_->setVisible(!kind.columns.empty());
    if (!kind.columns.empty())
        readings_->set_kind(kind);
    fill_fields();
}

void SheetForm::show_sheet(const bench::SheetDraft& draft) {
    const bench::SheetKind* kind = bench::find_sheet_kind(draft.kind);
    draft_ = draft;
    offer_standin();
    if (kind && kind != kind_)
        return rebuild(*kind);
    fill_fields();
}

void SheetForm::fill_fields() {
    for (const bench::SheetField& field : kind_->fields) {
        QLineEdit* edit = edits_.at(std::string(field.key));
        const auto at = draft_.fields.find(std::string(field.key));
        if (!edit->hasFocus() || !edit->isModified())
            edit->setText(at == draft_.fields.end()
                              ? QString()
                              : readings_text(context_.units, field.quantity, at->second));
    }
    if (names_ && !names_->hasFocus())
        names_->setText(words(draft_.names));
    if (!kind_->columns.empty())
        readings_->show_rows(draft_.rows);
}

void SheetForm::typed(QLineEdit* edit, const bench::SheetField& field) {
    const auto read = parse_readings(context_.units, field.quantity, edit->text());
    const std::string key(field.key);
    const auto at = draft_.fields.find(key);
    const std::vector<double> before = at == draft_.fields.end() ? std::vector<double>() : at->second;
    if (!read) {
        emit message(tr("%1: \"%2\" was not taken; type a number, or repeats with blanks between.")
                         .arg(phrase(field.label), edit->text()));
        edit->setText(readings_text(context_.units, field.quantity, before));
        return;
    }
    edit->setModified(false);
    // what was only looked at keeps all its digits
    if (edit->text() == readings_text(context_.units, field.quantity, before))
        return;
    if (read->empty())
        draft_.fields.erase(key);
    else
        draft_.fields[key] = *read;
    emit edited(draft_);
}

void SheetForm::go_to_first_gap() {
    if (!kind_)
        return;
    for (const bench::SheetField& field : kind_->fields)
        if (!field.optional && !draft_.fields.contains(std::string(field.key)))
            return edits_.at(std::string(field.key))->setFocus();
    if (kind_->columns.empty())
        return;
    readings_->setFocus();
    readings_->setCurrentCell(static_cast<int>(draft_.rows.size()), 0);
}

// What the device shows, into a field of the same quantity; true where the hand may go on.
bool SheetForm::take_into(QLineEdit* edit, bool repeat) {
    const std::string key = edit->property("sheet_key").toString().toStdString();
    const auto field = std::ranges::find(kind_->fields, key, &bench::SheetField::key);
    if (field == kind_->fields.end())
        return true;
    const std::vector<InstrumentValue> values = instrument_->read_now();
    if (values.empty())
        return false; // why was told
    const InstrumentValue* value = value_for(values, key, field->quantity);
    if (!value)
        return true; // it reads something else: the field stays empty
    std::vector<double>& kept = draft_.fields[key];
    if (!repeat)
        kept.clear();
    kept.push_back(value->si);
    edit->setText(readings_text(context_.units, field->quantity, kept));
    edit->setModified(false);
    instrument_->was_taken();
    emit edited(draft_);
    return true;
}

// A device with a button of its own: its line goes where the cursor is, and the cursor goes on.
void SheetForm::take_by_itself() {
    auto* edit = qobject_cast<QLineEdit*>(focusWidget());
    if (edit && edit->text().isEmpty() && edit->property("sheet_key").isValid()) {
        if (take_into(edit, false))
            focusNextPrevChild(true);
    } else if (readings_->isVisible() && readings_->take(false)) {
        readings_->go_on();
    }
}

void SheetForm::offer_standin() {
    QList<double> heights_mm;
    for (const char* key : {"seat_height_mm", "open_height_mm"})
        if (const auto at = draft_.fields.find(key); at != draft_.fields.end() && !at->second.empty())
            heights_mm << at->second.front() / unit_of(Quantity::Length).to_si;
    instrument_->set_standin(standin_for(draft_.kind, heights_mm));
}

bool SheetForm::eventFilter(QObject* watched, QEvent* event) {
    if (auto* key = event->type() == QEvent::KeyPress ? static_cast<QKeyEvent*>(event) : nullptr;
        key && (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) &&
        (key->modifiers() & Qt::ControlModifier) && instrument_->there()) {
        take_into(static_cast<QLineEdit*>(watched), true);
        return true;
    }
    if (event->type() == QEvent::FocusIn)
        point_at(watched->property("sheet_key").toString(), watched->property("sheet_how").toString());
    return QWidget::eventFilter(watched, event);
}

} // namespace bathmos::app
