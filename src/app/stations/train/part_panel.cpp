#include "app/stations/train/part_panel.h"

#include "app/text/words.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QTableWidget>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

enum ValueColumn { kWhat, kValue, kUnitColumn, kPlusMinus, kSourceColumn, kValueColumns };
constexpr int kValueRow = 28;

QTableWidgetItem* plain_cell(const QString& text) {
    auto* item = new QTableWidgetItem(text);
    item->setFlags(item->flags() & ~Qt::ItemIsEditable);
    return item;
}

} // namespace

PartPanel::PartPanel(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    auto* page = new QVBoxLayout(this);
    page->setContentsMargins(0, 0, 0, 0);
    page->setSpacing(6);
    caption_ = new QLabel;
    caption_->setObjectName(QStringLiteral("shelf_caption"));
    caption_->setWordWrap(true);
    make_fields();
    make_values();
    page->addWidget(caption_);
    page->addWidget(details_);
    page->addWidget(values_, 1);
}

void PartPanel::make_fields() {
    details_ = new QWidget;
    auto* form = new QFormLayout(details_);
    form->setContentsMargins(0, 0, 0, 0);
    form->setVerticalSpacing(3);
    const auto field = [&](const char* name, const QString& label,
                           std::function<void(Part&, const QString&)> put) {
        auto* edit = new QLineEdit;
        edit->setObjectName(QLatin1String(name));
        edit->setAccessibleName(label);
        connect(edit, &QLineEdit::editingFinished, this, [this, edit, put] {
            if (!filling_)
                change([&](Part& part) { put(part, edit->text().trimmed()); });
        });
        form->addRow(label, edit);
        return edit;
    };
    name_ = field("part_name", tr("Name"), [](Part& p, const QString& t) { p.name = t.toStdString(); });
    serial_ = field("part_serial", tr("Serial, set"),
                    [](Part& p, const QString& t) { p.serial = t.toStdString(); });
    cost_ = field("part_cost", tr("Cost"), [](Part& p, const QString& t) {
        p.cost = t.isEmpty() ? std::nullopt : std::optional(parse_number(t).value_or(-1));
    });
    note_ = field("part_note", tr("Note"), [](Part& p, const QString& t) { p.note = t.toStdString(); });
    history_ = new QCheckBox(tr("Its past is known"));
    history_->setObjectName(QStringLiteral("part_history"));
    connect(history_, &QCheckBox::clicked, this,
            [this](bool known) { change([&](Part& part) { part.history_known = known; }); });
    form->addRow(QString(), history_);
}

void PartPanel::make_values() {
    values_ = new QTableWidget(0, kValueColumns);
    values_->setObjectName(QStringLiteral("part_values"));
    values_->setAccessibleName(tr("Values of the part"));
    values_->verticalHeader()->hide();
    values_->verticalHeader()->setDefaultSectionSize(kValueRow);
    values_->setTabKeyNavigation(false);
    connect(values_, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (!filling_)
            take_cell(item);
    });
}

void PartPanel::show_parts(std::vector<Id> ids) {
    const auto& parts = context_.document.project().parts;
    std::erase_if(ids, [&](Id id) { return !parts.contains(id); }); // those are being taken away
    ids_ = std::move(ids);
    filling_ = true;
    values_->setRowCount(0);
    details_->setVisible(ids_.size() == 1);
    values_->setVisible(ids_.size() == 1 || ids_.size() == 2);
    if (ids_.size() == 1) {
        show_one(parts.at(ids_.front()));
    } else if (ids_.size() == 2) {
        caption_->setText(tr("Two parts side by side; what differs stands in bold."));
        show_comparison(parts.at(ids_[0]), parts.at(ids_[1]));
    } else {
        caption_->setText(parts.empty()
                              ? tr("The shelf is empty. Put the train's parts on it, import a table, or "
                                   "choose a kind above and make a new part.")
                              : tr("Choose a part to see its values, two to compare them. A double click "
                                   "fits a part to the build in hand."));
    }
    filling_ = false;
}

void PartPanel::show_one(const Part& part) {
    QStringList users;
    for (const Id build : context_.document.project().users_of(ids_.front()))
        users << QString::fromStdString(context_.document.project().builds.at(build).name);
    caption_->setText(users.isEmpty() ? tr("In no build at present.")
                                      : tr("In: %1. A change here reaches a build when it is fitted again.")
                                            .arg(users.join(QStringLiteral(", "))));
    const std::pair<QLineEdit*, QString> fields[] = {
        {name_, QString::fromStdString(part.name)},
        {serial_, QString::fromStdString(part.serial)},
        {cost_, part.cost ? QString::number(*part.cost) : QString()},
        {note_, QString::fromStdString(part.note)}};
    for (const auto& [edit, text] : fields)
        if (edit->text() != text)
            edit->setText(text);
    history_->setChecked(part.history_known);
    show_values(part);
}

void PartPanel::show_values(const Part& part) {
    values_->setColumnCount(kValueColumns);
    values_->setHorizontalHeaderLabels({tr("What"), tr("Value"), tr("Unit"), tr("±"), tr("Source")});
    for (const PartValue& value : values_of(part))
        if (!find_fact(part.kind, value.key))
            add_value_row(value);
    for (const PartFact& fact : part_facts())
        if (fact.kind == part.kind)
            add_fact_row(part, fact);
    values_->horizontalHeader()->setSectionResizeMode(kWhat, QHeaderView::Stretch);
    const std::pair<int, int> widths[] = {
        {kValue, 72}, {kUnitColumn, 40}, {kPlusMinus, 40}, {kSourceColumn, 96}};
    for (const auto& [column, width] : widths)
        values_->setColumnWidth(column, width);
}

void PartPanel::add_value_row(const PartValue& value) {
    const int row = values_->rowCount();
    values_->insertRow(row);
    auto* what = plain_cell(phrase(value.label));
    what->setData(Qt::UserRole, QString::fromStdString(value.key));
    values_->setItem(row, kWhat, what);
    const double unit = context_.units.unit(value.quantity).to_si;
    values_->setItem(row, kValue, new QTableWidgetItem(digits(value.value / unit, 6)));
    values_->setItem(row, kUnitColumn, plain_cell(context_.units.unit_name(value.quantity)));
    values_->setItem(
        row, kPlusMinus,
        new QTableWidgetItem(value.tolerance ? digits(value.tolerance->plus_minus / unit, 4) : QString()));
    auto* source = new QComboBox;
    source->setAccessibleName(tr("Source of %1").arg(what->text()));
    source->addItem(tr("not said"), -1);
    for (const Source one :
         {Source::Sheet, Source::Scale, Source::Gauge, Source::Tester, Source::Estimate, Source::Fitted})
        source->addItem(one == Source::Sheet      ? tr("maker's sheet")
                        : one == Source::Estimate ? tr("estimate")
                        : one == Source::Fitted   ? tr("fitted to a run")
                                                  : tr("own bench, %1").arg(phrase(source_name(one))),
                        static_cast<int>(one));
    source->setCurrentIndex(value.tolerance ? source->findData(static_cast<int>(value.tolerance->source))
                                            : 0);
    connect(source, &QComboBox::activated, this, [this, key = value.key, source] {
        const int chosen = source->currentData().toInt();
        change([&](Part& part) {
            if (chosen < 0)
                part.piece.tolerances.erase(key);
            else
                part.piece.tolerances[key].source = static_cast<Source>(chosen);
        });
    });
    values_->setCellWidget(row, kSourceColumn, source);
}

void PartPanel::add_fact_row(const Part& part, const PartFact& fact) {
    const int row = values_->rowCount();
    values_->insertRow(row);
    auto* what = plain_cell(phrase(fact.label));
    what->setData(Qt::UserRole, words(fact.key));
    what->setToolTip(phrase(fact.help));
    values_->setItem(row, kWhat, what);
    values_->setItem(row, kPlusMinus, plain_cell({}));
    values_->setItem(row, kSourceColumn, plain_cell({}));
    if (fact.choices.empty()) {
        const auto number = part.facts.number(fact.key);
        const double unit = context_.units.unit(fact.quantity).to_si;
        values_->setItem(row, kValue, new QTableWidgetItem(number ? digits(*number / unit, 6) : QString()));
        values_->setItem(row, kUnitColumn, plain_cell(context_.units.unit_name(fact.quantity)));
        return;
    }
    auto* choice = new QComboBox;
    choice->setObjectName(QStringLiteral("fact_") + words(fact.key));
    choice->setAccessibleName(phrase(fact.label));
    choice->addItem(tr("not known"), QString());
    for (const std::string_view word : fact.choices)
        choice->addItem(words(word), words(word));
    choice->setCurrentIndex(choice->findData(QString::fromStdString(part.facts.word(fact.key))));
    connect(choice, &QComboBox::activated, this, [this, key = std::string(fact.key), choice] {
        const std::string word = choice->currentData().toString().toStdString();
        change([&](Part& changed) {
            if (word.empty())
                changed.facts.words.erase(key);
            else
                changed.facts.words[key] = word;
        });
    });
    values_->setCellWidget(row, kValue, choice);
    values_->setItem(row, kUnitColumn, plain_cell({}));
}

void PartPanel::show_comparison(const Part& a, const Part& b) {
    values_->setColumnCount(4);
    values_->setHorizontalHeaderLabels(
        {tr("What"), QString::fromStdString(a.name), QString::fromStdString(b.name), tr("Unit")});
    std::map<std::string, std::pair<std::optional<PartValue>, std::optional<PartValue>>> rows;
    for (const PartValue& value : values_of(a))
        rows[value.key].first = value;
    for (const PartValue& value : values_of(b))
        rows[value.key].second = value;
    for (const auto& [key, pair] : rows) {
        const PartValue& any = pair.first ? *pair.first : *pair.second;
        const int row = values_->rowCount();
        values_->insertRow(row);
        const double unit = context_.units.unit(any.quantity).to_si;
        const auto number = [&](const std::optional<PartValue>& value) {
            return plain_cell(value ? digits(value->value / unit, 6) : QStringLiteral("–"));
        };
        values_->setItem(row, 0, plain_cell(phrase(any.label)));
        values_->setItem(row, 1, number(pair.first));
        values_->setItem(row, 2, number(pair.second));
        values_->setItem(row, 3, plain_cell(context_.units.unit_name(any.quantity)));
        if (values_->item(row, 1)->text() != values_->item(row, 2)->text())
            for (int column = 0; column < 3; ++column)
                values_->item(row, column)->setFont(Theme::text_font(12, true));
    }
    values_->resizeColumnsToContents();
    values_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
}

// A number typed into a row: value or plus-minus; an empty one takes a fact or a tolerance away.
void PartPanel::take_cell(QTableWidgetItem* item) {
    if (item->column() != kValue && item->column() != kPlusMinus)
        return;
    const std::string key = values_->item(item->row(), kWhat)->data(Qt::UserRole).toString().toStdString();
    const QString text = item->text().trimmed();
    const double number = parse_number(text).value_or(0);
    if (!parse_number(text) && !text.isEmpty()) {
        emit message(tr("\"%1\" is no number; nothing was changed.").arg(text));
        return show_parts(ids_);
    }
    const bool plus_minus = item->column() == kPlusMinus;
    change([&](Part& part) {
        if (const PartFact* fact = find_fact(part.kind, key)) {
            if (text.isEmpty())
                part.facts.numbers.erase(key);
            else
                part.facts.numbers[key] = number * context_.units.unit(fact->quantity).to_si;
            return;
        }
        const Quantity quantity = quantity_of_value(part.piece, key);
        const double si = number * context_.units.unit(quantity).to_si;
        if (plus_minus && text.isEmpty())
            part.piece.tolerances.erase(key);
        else if (plus_minus)
            part.piece.tolerances[key].plus_minus = si;
        else if (!text.isEmpty())
            set_value(part.piece, key, si);
    });
}

void PartPanel::change(const std::function<void(Part&)>& apply) {
    const auto& parts = context_.document.project().parts;
    if (ids_.size() != 1 || !parts.contains(ids_.front())) // gone, while the panel was not looked at
        return;
    Part part = parts.at(ids_.front());
    apply(part);
    if (const auto problems = check_part(part); !problems.empty()) {
        emit message(tr("The part was not changed. %1").arg(phrase(problems.front().sentence())));
        return show_parts(ids_);
    }
    context_.document.set_part(ids_.front(), part);
}

} // namespace bathmos::app
