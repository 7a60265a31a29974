#include "app/stations/train/shelf_panel.h"

#include "app/text/words.h"
#include "core/train/train_fields.h"
#include "core/train/train_starter.h"
#include "core/uncertainty/uncertain_inputs.h"
#include "io/file/safe_file.h"
#include "io/project/parts_csv.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

namespace bathmos::app {

namespace {

enum ListColumn { kKindColumn, kNameColumn, kSerialColumn, kMassColumn, kCostColumn, kListColumns };
enum ValueColumn { kWhat, kValue, kUnit, kPlusMinus, kSourceColumn, kValueColumns };

// Sorts numbers by size.
class NumberItem : public QTableWidgetItem {
  public:
    NumberItem(const QString& text, double number) : QTableWidgetItem(text) {
        setData(Qt::UserRole + 1, number);
    }
    bool operator<(const QTableWidgetItem& other) const override {
        return data(Qt::UserRole + 1).toDouble() < other.data(Qt::UserRole + 1).toDouble();
    }
};

// What a list shows of a part: its mass, or a shim's thickness.
std::optional<PartValue> main_value(const Part& part) {
    for (const PartValue& value : values_of(part))
        if (value.quantity == Quantity::Mass || value.key == "thickness_mm" || value.key == "height_mm")
            return value;
    const std::vector<PartValue> all = values_of(part);
    return all.empty() ? std::nullopt : std::optional(all.front());
}

constexpr int kListRow = 24;

QTableWidgetItem* fixed(const QString& text);
QTableWidgetItem* named(const QString& text) {
    auto* item = fixed(text);
    item->setToolTip(text); // long names are cut in the list
    return item;
}

QTableWidgetItem* fixed(const QString& text) {
    auto* item = new QTableWidgetItem(text);
    item->setFlags(item->flags() & ~Qt::ItemIsEditable);
    return item;
}

} // namespace

ShelfPanel::ShelfPanel(Context context, const Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), context_(context), dialogs_(dialogs) {
    setObjectName(QStringLiteral("shelf"));
    auto* page = new QVBoxLayout(this);
    page->setContentsMargins(8, 8, 8, 8);
    page->setSpacing(6);
    make_list(page);
    make_buttons(page);
    make_part(page);
    connect(&context_.document, &Document::records_changed, this, &ShelfPanel::refresh);
    connect(&context_.units, &DisplayUnits::changed, this, &ShelfPanel::refresh);
    refresh();
}

void ShelfPanel::make_list(QVBoxLayout* to) {
    auto* line = new QHBoxLayout;
    kind_ = new QComboBox;
    kind_->setObjectName(QStringLiteral("shelf_kind"));
    kind_->setAccessibleName(tr("Kind of part"));
    kind_->addItem(tr("All parts"), -1);
    for (const PartKindInfo& kind : part_kinds())
        kind_->addItem(words(kind.label), static_cast<int>(kind.kind));
    search_ = new QLineEdit;
    search_->setObjectName(QStringLiteral("shelf_search"));
    search_->setAccessibleName(tr("Search name, serial and note"));
    search_->setPlaceholderText(tr("Search"));
    search_->setClearButtonEnabled(true);
    line->addWidget(kind_);
    line->addWidget(search_, 1);
    to->addLayout(line);
    list_ = new QTableWidget(0, kListColumns);
    list_->setObjectName(QStringLiteral("shelf_list"));
    list_->setAccessibleName(tr("Parts on the shelf"));
    list_->setHorizontalHeaderLabels({tr("Kind"), tr("Name"), tr("Serial, set"), tr("Mass"), tr("Cost")});
    list_->verticalHeader()->hide();
    list_->verticalHeader()->setDefaultSectionSize(kListRow);
    list_->setTextElideMode(Qt::ElideRight);
    list_->horizontalHeader()->setSectionResizeMode(kNameColumn, QHeaderView::Stretch);
    list_->setSelectionBehavior(QAbstractItemView::SelectRows);
    list_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    list_->setSortingEnabled(true);
    list_->sortByColumn(kKindColumn, Qt::AscendingOrder);
    list_->setTabKeyNavigation(false);
    to->addWidget(list_, 3);
    connect(kind_, &QComboBox::currentIndexChanged, this, [this] { fill_list(); });
    connect(search_, &QLineEdit::textChanged, this, [this] { fill_list(); });
    connect(list_, &QTableWidget::itemSelectionChanged, this, [this] {
        if (!filling_)
            show_part();
    });
    connect(list_, &QTableWidget::itemDoubleClicked, this, [this] {
        if (const auto ids = selected(); ids.size() == 1)
            context_.document.fit_part(ids.front());
    });
}

void ShelfPanel::make_buttons(QVBoxLayout* to) {
    auto* grid = new QGridLayout;
    grid->setSpacing(4);
    int place = 0;
    const auto add = [&](const char* name, const QString& text, const QString& tip, auto run) {
        auto* button = new QPushButton(text);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        connect(button, &QPushButton::clicked, this, run);
        grid->addWidget(button, place / 4, place % 4);
        ++place;
    };
    const auto one = [this](auto run) {
        return [this, run] {
            const auto ids = selected();
            if (ids.size() != 1)
                return emit message(tr("Choose one part in the list first."));
            run(ids.front());
        };
    };
    add("shelf_fit", tr("Fit to build"), tr("Puts it into the build in hand: a new revision"),
        one([this](Id id) { context_.document.fit_part(id); }));
    add("shelf_new", tr("New"), tr("A new part of the kind chosen above"), [this] { new_part(); });
    add("shelf_duplicate", tr("Duplicate"), tr("The same values under a new name"),
        one([this](Id) { duplicate(); }));
    add("shelf_remove", tr("Take off"), tr("Takes it off the shelf, unless a revision carries it"),
        one([this](Id id) { context_.document.remove_part(id); }));
    add("shelf_from_train", tr("From train"), tr("Puts the parts of the train in hand on the shelf"),
        [this] { context_.document.shelve_parts(); });
    add("shelf_import", tr("Import…"), tr("Parts from a table (CSV)"), [this] { import_parts(); });
    add("shelf_export", tr("Export…"), tr("The parts in the list as a table (CSV)"),
        [this] { export_parts(); });
    to->addLayout(grid);
}

void ShelfPanel::make_part(QVBoxLayout* to) {
    caption_ = new QLabel;
    caption_->setObjectName(QStringLiteral("shelf_caption"));
    caption_->setWordWrap(true);
    to->addWidget(caption_);
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
        bool good = false;
        const double cost = t.toDouble(&good);
        p.cost = t.isEmpty() ? std::nullopt : std::optional(good ? cost : -1.0);
    });
    note_ = field("part_note", tr("Note"), [](Part& p, const QString& t) { p.note = t.toStdString(); });
    history_ = new QCheckBox(tr("Its past is known"));
    history_->setObjectName(QStringLiteral("part_history"));
    connect(history_, &QCheckBox::clicked, this,
            [this](bool known) { change([&](Part& part) { part.history_known = known; }); });
    form->addRow(QString(), history_);
    to->addWidget(details_);
    values_ = new QTableWidget(0, kValueColumns);
    values_->setObjectName(QStringLiteral("part_values"));
    values_->setAccessibleName(tr("Values of the part"));
    values_->verticalHeader()->hide();
    values_->verticalHeader()->setDefaultSectionSize(kListRow + 4);
    values_->setTabKeyNavigation(false);
    to->addWidget(values_, 4);
    connect(values_, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (!filling_)
            take_cell(item);
    });
}

void ShelfPanel::show_kind(PartKind kind) {
    kind_->setCurrentIndex(kind_->findData(static_cast<int>(kind)));
}

bool ShelfPanel::passes(const Part& part) const {
    const int kind = kind_->currentData().toInt();
    if (kind >= 0 && kind != static_cast<int>(part.kind))
        return false;
    const QString all = QString::fromStdString(part.name + '\n' + part.serial + '\n' + part.note);
    return all.contains(search_->text(), Qt::CaseInsensitive);
}

std::vector<Id> ShelfPanel::selected() const {
    std::vector<Id> out;
    for (const QModelIndex& row : list_->selectionModel()->selectedRows())
        out.push_back(list_->item(row.row(), kKindColumn)->data(Qt::UserRole).toLongLong());
    return out;
}

void ShelfPanel::refresh() {
    if (!isVisible()) // filled when it is looked at
        return;
    fill_list();
}

void ShelfPanel::fill_list() {
    const std::vector<Id> before = selected();
    filling_ = true;
    list_->setSortingEnabled(false);
    list_->setRowCount(0);
    for (const auto& [id, part] : context_.document.project().parts) {
        if (!passes(part))
            continue;
        const int row = list_->rowCount();
        list_->insertRow(row);
        const auto value = main_value(part);
        auto* kind = fixed(words(info(part.kind).label));
        kind->setData(Qt::UserRole, QVariant::fromValue<qlonglong>(id));
        const QString unknown = part.history_known ? QString() : QStringLiteral("▲ ");
        list_->setItem(row, kKindColumn, kind);
        list_->setItem(row, kNameColumn, named(unknown + QString::fromStdString(part.name)));
        list_->setItem(row, kSerialColumn, fixed(QString::fromStdString(part.serial)));
        list_->setItem(row, kMassColumn,
                       new NumberItem(value ? context_.units.text(value->quantity, value->value) : QString(),
                                      value ? value->value : 0));
        list_->setItem(
            row, kCostColumn,
            new NumberItem(part.cost ? QString::number(*part.cost) : QString(), part.cost.value_or(0)));
        for (const int column : {kMassColumn, kCostColumn})
            list_->item(row, column)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    }
    list_->setSortingEnabled(true);
    const std::pair<int, int> widths[] = {
        {kKindColumn, 78}, {kSerialColumn, 78}, {kMassColumn, 62}, {kCostColumn, 44}};
    for (const auto& [column, width] : widths)
        list_->setColumnWidth(column, width);
    list_->setColumnHidden(kKindColumn, kind_->currentData().toInt() >= 0);
    for (int row = 0; row < list_->rowCount(); ++row)
        if (std::find(before.begin(), before.end(),
                      list_->item(row, kKindColumn)->data(Qt::UserRole).toLongLong()) != before.end())
            list_->selectionModel()->select(list_->model()->index(row, 0),
                                            QItemSelectionModel::Select | QItemSelectionModel::Rows);
    filling_ = false;
    show_part();
}

void ShelfPanel::show_part() {
    const std::vector<Id> ids = selected();
    const auto& parts = context_.document.project().parts;
    filling_ = true;
    values_->setRowCount(0);
    details_->setVisible(ids.size() == 1);
    values_->setVisible(ids.size() == 1 || ids.size() == 2);
    if (ids.size() == 1) {
        const Part& part = parts.at(ids.front());
        QStringList users;
        for (const Id build : context_.document.project().users_of(ids.front()))
            users << QString::fromStdString(context_.document.project().builds.at(build).name);
        caption_->setText(users.isEmpty()
                              ? tr("In no build at present.")
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
    } else if (ids.size() == 2) {
        caption_->setText(tr("Two parts side by side; what differs stands in bold."));
        show_comparison(parts.at(ids[0]), parts.at(ids[1]));
    } else {
        caption_->setText(parts.empty()
                              ? tr("The shelf is empty. Put the train's parts on it, import a table, or "
                                   "choose a kind above and make a new part.")
                              : tr("Choose a part to see its values, two to compare them. A double click "
                                   "fits a part to the build in hand."));
    }
    filling_ = false;
}

void ShelfPanel::show_values(const Part& part) {
    values_->setColumnCount(kValueColumns);
    values_->setHorizontalHeaderLabels({tr("What"), tr("Value"), tr("Unit"), tr("±"), tr("Source")});
    for (const PartValue& value : values_of(part))
        if (!find_fact(part.kind, value.key))
            add_value_row(value);
    for (const PartFact& fact : part_facts())
        if (fact.kind == part.kind)
            add_fact_row(part, fact);
    values_->horizontalHeader()->setSectionResizeMode(kWhat, QHeaderView::Stretch);
    const std::pair<int, int> widths[] = {{kValue, 72}, {kUnit, 40}, {kPlusMinus, 40}, {kSourceColumn, 96}};
    for (const auto& [column, width] : widths)
        values_->setColumnWidth(column, width);
}

void ShelfPanel::add_value_row(const PartValue& value) {
    const int row = values_->rowCount();
    values_->insertRow(row);
    auto* what = fixed(QString::fromStdString(value.label));
    what->setData(Qt::UserRole, QString::fromStdString(value.key));
    values_->setItem(row, kWhat, what);
    const double unit = unit_of(value.quantity, context_.units.system()).to_si;
    values_->setItem(row, kValue, new QTableWidgetItem(QString::number(value.value / unit, 'g', 6)));
    values_->setItem(row, kUnit, fixed(context_.units.unit_name(value.quantity)));
    values_->setItem(row, kPlusMinus,
                     new QTableWidgetItem(value.tolerance
                                              ? QString::number(value.tolerance->plus_minus / unit, 'g', 4)
                                              : QString()));
    auto* source = new QComboBox;
    source->setAccessibleName(tr("Source of %1").arg(what->text()));
    source->addItem(tr("not said"), -1);
    for (const Source one : {Source::Sheet, Source::Scale, Source::Gauge, Source::Tester, Source::Estimate})
        source->addItem(one == Source::Sheet      ? tr("maker's sheet")
                        : one == Source::Estimate ? tr("estimate")
                                                  : tr("own bench, %1").arg(words(source_name(one))),
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

void ShelfPanel::add_fact_row(const Part& part, const PartFact& fact) {
    const int row = values_->rowCount();
    values_->insertRow(row);
    auto* what = fixed(words(fact.label));
    what->setData(Qt::UserRole, words(fact.key));
    what->setToolTip(words(fact.help));
    values_->setItem(row, kWhat, what);
    values_->setItem(row, kPlusMinus, fixed({}));
    values_->setItem(row, kSourceColumn, fixed({}));
    if (fact.choices.empty()) {
        const auto number = part.facts.number(fact.key);
        const double unit = unit_of(fact.quantity, context_.units.system()).to_si;
        values_->setItem(row, kValue,
                         new QTableWidgetItem(number ? QString::number(*number / unit, 'g', 6) : QString()));
        values_->setItem(row, kUnit, fixed(context_.units.unit_name(fact.quantity)));
        return;
    }
    auto* choice = new QComboBox;
    choice->setObjectName(QStringLiteral("fact_") + words(fact.key));
    choice->setAccessibleName(words(fact.label));
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
    values_->setItem(row, kUnit, fixed({}));
}

void ShelfPanel::show_comparison(const Part& a, const Part& b) {
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
        const double unit = unit_of(any.quantity, context_.units.system()).to_si;
        const auto number = [&](const std::optional<PartValue>& value) {
            return fixed(value ? QString::number(value->value / unit, 'g', 6) : QStringLiteral("–"));
        };
        values_->setItem(row, 0, fixed(QString::fromStdString(any.label)));
        values_->setItem(row, 1, number(pair.first));
        values_->setItem(row, 2, number(pair.second));
        values_->setItem(row, 3, fixed(context_.units.unit_name(any.quantity)));
        if (values_->item(row, 1)->text() != values_->item(row, 2)->text())
            for (int column = 0; column < 3; ++column)
                values_->item(row, column)->setFont(Theme::text_font(12, true));
    }
    values_->resizeColumnsToContents();
    values_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
}

// A number typed into a row: value or plus-minus; an empty one takes a fact or a tolerance away.
void ShelfPanel::take_cell(QTableWidgetItem* item) {
    if (item->column() != kValue && item->column() != kPlusMinus)
        return;
    const std::string key = values_->item(item->row(), kWhat)->data(Qt::UserRole).toString().toStdString();
    const QString text = item->text().trimmed();
    bool good = false;
    const double number = QString(text).replace(QLatin1Char(','), QLatin1Char('.')).toDouble(&good);
    if (!good && !text.isEmpty()) {
        emit message(tr("\"%1\" is no number; nothing was changed.").arg(text));
        return show_part();
    }
    const bool plus_minus = item->column() == kPlusMinus;
    change([&](Part& part) {
        if (const PartFact* fact = find_fact(part.kind, key)) {
            if (text.isEmpty())
                part.facts.numbers.erase(key);
            else
                part.facts.numbers[key] = number * unit_of(fact->quantity, context_.units.system()).to_si;
            return;
        }
        const Quantity quantity = quantity_of_value(part.piece, key);
        const double si = number * unit_of(quantity, context_.units.system()).to_si;
        if (plus_minus && text.isEmpty())
            part.piece.tolerances.erase(key);
        else if (plus_minus)
            part.piece.tolerances[key].plus_minus = si;
        else if (!text.isEmpty())
            set_value(part.piece, key, si);
    });
}

void ShelfPanel::change(const std::function<void(Part&)>& apply) {
    const auto ids = selected();
    if (ids.size() != 1)
        return;
    Part part = context_.document.project().parts.at(ids.front());
    apply(part);
    if (const auto problems = check_part(part); !problems.empty()) {
        emit message(
            tr("The part was not changed. %1").arg(QString::fromStdString(problems.front().sentence())));
        return show_part();
    }
    context_.document.set_part(ids.front(), part);
}

void ShelfPanel::new_part() {
    const int chosen = kind_->currentData().toInt();
    if (chosen < 0)
        return emit message(tr("Choose a kind above first: a new part is of that kind."));
    const auto kind = static_cast<PartKind>(chosen);
    Train from = context_.document.train();
    if (!part_from(from, kind) && takes(Layout::Pushrod, kind))
        from = starter_train();
    Part part;
    if (const auto like = part_from(from, kind))
        part = *like;
    part.kind = kind;
    part.name = tr("new %1").arg(words(info(kind).label).toLower()).toStdString();
    context_.document.add_part(part);
}

void ShelfPanel::duplicate() {
    Part copy = context_.document.project().parts.at(selected().front());
    copy.name += " (2)";
    copy.serial.clear();
    context_.document.add_part(copy);
}

void ShelfPanel::export_parts() {
    std::vector<Part> parts;
    for (const auto& [id, part] : context_.document.project().parts)
        if (passes(part))
            parts.push_back(part);
    const QString path = parts.empty() ? QString() : dialogs_.save_table(QStringLiteral("shelf.csv"));
    if (path.isEmpty())
        return;
    try {
        io::write_file(path.toStdString(), io::parts_csv(parts));
        emit message(tr("%1 parts were exported to %2.").arg(parts.size()).arg(path));
    } catch (const InputError& error) {
        emit message(QString::fromStdString(error.what()));
    }
}

void ShelfPanel::import_parts() {
    const QString path = dialogs_.open_table();
    if (path.isEmpty())
        return;
    try {
        const auto parts = io::parse_parts_csv(io::read_file(path.toStdString()), path.toStdString());
        context_.document.add_parts(parts);
        emit message(tr("%1 parts were put on the shelf.").arg(parts.size()));
    } catch (const InputError& error) {
        emit message(tr("No part was imported. %1").arg(QString::fromStdString(error.what())));
    }
}

} // namespace bathmos::app
