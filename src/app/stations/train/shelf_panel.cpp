#include "app/stations/train/shelf_panel.h"

#include "app/stations/train/part_panel.h"
#include "app/text/words.h"
#include "core/train/train_starter.h"
#include "io/file/safe_file.h"
#include "io/project/parts_csv.h"

#include <QComboBox>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

constexpr int kListRow = 24, kLeastRows = 5;
} // namespace

ShelfPanel::ShelfPanel(Context context, const Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), context_(context), dialogs_(dialogs), model_(context.document, context.units),
      filter_(model_) {
    setObjectName(QStringLiteral("shelf"));
    auto* page = new QVBoxLayout(this);
    page->setContentsMargins(8, 8, 8, 8);
    page->setSpacing(6);
    make_list(page);
    make_buttons(page);
    part_ = new PartPanel(context_);
    connect(part_, &PartPanel::message, this, &ShelfPanel::message);
    page->addWidget(part_, 4);
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
        kind_->addItem(phrase(kind.label), static_cast<int>(kind.kind));
    search_ = new QLineEdit;
    search_->setObjectName(QStringLiteral("shelf_search"));
    search_->setAccessibleName(tr("Search name, serial and note"));
    search_->setPlaceholderText(tr("Search"));
    search_->setClearButtonEnabled(true);
    line->addWidget(kind_);
    line->addWidget(search_, 1);
    to->addLayout(line);
    list_ = new QTableView;
    list_->setModel(&filter_);
    list_->setObjectName(QStringLiteral("shelf_list"));
    list_->setAccessibleName(tr("Parts on the shelf"));
    list_->verticalHeader()->hide();
    list_->verticalHeader()->setDefaultSectionSize(kListRow);
    list_->setTextElideMode(Qt::ElideRight);
    list_->setSelectionBehavior(QAbstractItemView::SelectRows);
    list_->setSortingEnabled(true);
    list_->sortByColumn(ShelfModel::KindColumn, Qt::AscendingOrder);
    list_->setTabKeyNavigation(false);
    list_->setMinimumHeight((kLeastRows + 1) * kListRow);
    const std::pair<int, int> widths[] = {{ShelfModel::KindColumn, 78},
                                          {ShelfModel::SerialColumn, 78},
                                          {ShelfModel::MassColumn, 62},
                                          {ShelfModel::CostColumn, 44}};
    for (const auto& [column, width] : widths)
        list_->setColumnWidth(column, width);
    list_->horizontalHeader()->setSectionResizeMode(ShelfModel::NameColumn, QHeaderView::Stretch);
    to->addWidget(list_, 3);
    connect(kind_, &QComboBox::currentIndexChanged, this, [this] {
        filter_.set_kind(kind());
        list_->setColumnHidden(ShelfModel::KindColumn, kind().has_value());
    });
    connect(search_, &QLineEdit::textChanged, this,
            [this](const QString& text) { filter_.set_search(text); });
    connect(list_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &ShelfPanel::refresh);
    connect(list_, &QTableView::doubleClicked, this,
            [this](const QModelIndex& index) { context_.document.fit_part(filter_.id(index)); });
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

void ShelfPanel::show_kind(PartKind kind) {
    kind_->setCurrentIndex(kind_->findData(static_cast<int>(kind)));
}

std::optional<PartKind> ShelfPanel::kind() const {
    const int chosen = kind_->currentData().toInt();
    return chosen < 0 ? std::nullopt : std::optional(static_cast<PartKind>(chosen));
}

std::vector<Id> ShelfPanel::selected() const {
    std::vector<Id> out;
    for (const QModelIndex& row : list_->selectionModel()->selectedRows())
        out.push_back(filter_.id(row));
    return out;
}

void ShelfPanel::refresh() {
    if (isVisible()) // filled when it is looked at
        part_->show_parts(selected());
}

void ShelfPanel::new_part() {
    const std::optional<PartKind> chosen = kind();
    if (!chosen)
        return emit message(tr("Choose a kind above first: a new part is of that kind."));
    Train from = context_.document.train();
    if (!part_from(from, *chosen) && takes(Layout::Pushrod, *chosen))
        from = starter_train();
    Part part;
    if (const auto like = part_from(from, *chosen))
        part = *like;
    part.kind = *chosen;
    part.name = tr("new %1").arg(lower_phrase(info(*chosen).label)).toStdString();
    context_.document.add_part(part);
}

void ShelfPanel::duplicate() {
    Part copy = context_.document.project().parts.at(selected().front());
    copy.name += " (2)";
    copy.serial.clear();
    context_.document.add_part(copy);
}

void ShelfPanel::export_parts() {
    const std::vector<Part> parts = filter_.parts();
    const QString path = parts.empty() ? QString() : dialogs_.save_table(QStringLiteral("shelf.csv"));
    if (path.isEmpty())
        return;
    try {
        io::write_file(path.toStdString(), io::parts_csv(parts));
        emit message(tr("%1 parts were exported to %2.").arg(parts.size()).arg(path));
    } catch (const InputError& error) {
        emit message(phrase(error.what()));
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
        emit message(tr("No part was imported. %1").arg(phrase(error.what())));
    }
}

} // namespace bathmos::app
