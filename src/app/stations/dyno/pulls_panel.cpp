#include "app/stations/dyno/pulls_panel.h"
#include "app/text/words.h"

#include <QHeaderView>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

enum PullColumn { Name, State, Peak, Break, Changed, Fuel, Boost, Notes, Columns };

QString word(const Entry& entry, const char* key) {
    const auto at = entry.words.find(key);
    return at == entry.words.end() ? QString() : QString::fromStdString(at->second);
}

} // namespace

PullsPanel::PullsPanel(Context context, QWidget* parent)
    : QWidget(parent), context_(context), list_(new QTableWidget),
      remove_(new QPushButton(tr("Take out the chosen pull"))) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    list_->setObjectName(QStringLiteral("dyno_pulls"));
    list_->setTabKeyNavigation(false); // Tab leaves it, arrows go through it
    list_->setAccessibleName(tr("Pulls of this build"));
    list_->setColumnCount(Columns);
    list_->verticalHeader()->hide();
    list_->setSelectionBehavior(QAbstractItemView::SelectRows);
    connect(list_, &QTableWidget::cellChanged, this, &PullsPanel::edit);
    layout->addWidget(list_, 1);
    remove_->setObjectName(QStringLiteral("dyno_remove"));
    remove_->setToolTip(tr("Undo brings it back; the readings stay in the file."));
    connect(remove_, &QPushButton::clicked, this, &PullsPanel::remove);
    connect(list_, &QTableWidget::itemSelectionChanged, this,
            [this] { remove_->setEnabled(!list_->selectedItems().isEmpty()); });
    layout->addWidget(remove_, 0, Qt::AlignLeft);
}

void PullsPanel::fill() {
    filling_ = true;
    list_->setHorizontalHeaderLabels(
        {tr("pull"), tr("state"), tr("peak, %1").arg(context_.units.unit_name(Quantity::Power)),
         tr("break, rev/min"), tr("also changed"), tr("fuel"), tr("boost, kPa"), tr("notes")});
    const auto& entries = context_.dyno.entries();
    list_->setRowCount(static_cast<int>(entries.size()));
    int row = 0;
    for (const auto& [id, entry] : entries)
        fill_row(row++, id, entry);
    list_->resizeColumnsToContents();
    remove_->setEnabled(!list_->selectedItems().isEmpty());
    filling_ = false;
}

void PullsPanel::fill_row(int row, Id id, const Entry& entry) {
    const auto set = [&](int column, const QString& text, bool editable) {
        auto* item = new QTableWidgetItem(text);
        item->setData(Qt::UserRole, QVariant::fromValue<qlonglong>(id));
        if (!editable)
            item->setFlags(item->flags() & ~Qt::ItemIsEditable);
        list_->setItem(row, column, item);
    };
    const ShownPull* pull = context_.dyno.find(id);
    const PowerBreak* first = pull ? pull->analysis.first_break() : nullptr;
    set(Name, QString::fromStdString(entry.name), false);
    set(State, context_.dyno.label_of(entry) + (pull ? QString() : tr(" (not shown)")), false);
    set(Peak,
        pull ? fixed(context_.units.value(Quantity::Power, pull->analysis.peak_W), 1) : QStringLiteral("–"),
        false);
    set(Break, first ? fixed(first->speed_rpm, 0) : QStringLiteral("–"), false);
    set(Changed, word(entry, "changed"), true);
    set(Fuel, word(entry, "fuel"), true);
    const auto boost = entry.numbers.find("boost_kPa");
    set(Boost, boost == entry.numbers.end() ? QString() : QString::number(boost->second), true);
    set(Notes, QString::fromStdString(entry.text), true);
}

void PullsPanel::edit(int row, int column) {
    if (filling_)
        return;
    const Id id = list_->item(row, column)->data(Qt::UserRole).toLongLong();
    Entry entry = context_.document.project().of(EntryKind::DynoPull).at(id);
    const QString text = list_->item(row, column)->text().trimmed();
    const auto put = [&](const char* key) {
        if (text.isEmpty())
            entry.words.erase(key);
        else
            entry.words[key] = text.toStdString();
    };
    if (column == Changed)
        put("changed");
    else if (column == Fuel)
        put("fuel");
    else if (column == Notes)
        entry.text = text.toStdString();
    else if (column == Boost) {
        const std::optional<double> value = parse_number(text);
        if (!value && !text.isEmpty()) {
            emit message(tr("Boost \"%1\" is no number: give kPa above ambient, or nothing.").arg(text));
            return fill();
        }
        entry.numbers.erase("boost_kPa");
        if (!text.isEmpty())
            entry.numbers["boost_kPa"] = *value;
    }
    context_.document.set_entry(EntryKind::DynoPull, id, entry,
                                tr("Pull %1 noted").arg(QString::fromStdString(entry.name)));
}

void PullsPanel::remove() {
    if (list_->selectedItems().isEmpty())
        return;
    const Id id = list_->selectedItems().first()->data(Qt::UserRole).toLongLong();
    context_.document.remove_entry(EntryKind::DynoPull, id,
                                   tr("Pull %1 taken out").arg(list_->selectedItems().first()->text()));
}

} // namespace bathmos::app
