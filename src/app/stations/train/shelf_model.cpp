#include "app/stations/train/shelf_model.h"

#include "app/text/words.h"

#include <algorithm>

namespace bathmos::app {

namespace {
// What a list shows of a part: its mass, or a shim's thickness.
std::optional<PartValue> main_value(const Part& part) {
    const std::vector<PartValue> all = values_of(part);
    for (const PartValue& value : all)
        if (value.quantity == Quantity::Mass || value.key == "thickness_mm" || value.key == "height_mm")
            return value;
    return all.empty() ? std::nullopt : std::optional(all.front());
}
} // namespace

ShelfModel::ShelfModel(Document& document, const DisplayUnits& units, QObject* parent)
    : QAbstractTableModel(parent), document_(document), units_(units) {
    connect(&document_, &Document::records_changed, this, &ShelfModel::follow);
    connect(&units_, &DisplayUnits::changed, this, &ShelfModel::follow);
    follow();
}

const Part* ShelfModel::part(int row) const {
    const auto& parts = document_.project().parts;
    const auto found = parts.find(id(row));
    return found == parts.end() ? nullptr : &found->second;
}

int ShelfModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(ids_.size());
}

int ShelfModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : kColumns;
}

QString ShelfModel::text(const Part& part, int column) const {
    switch (column) {
    case KindColumn:
        return phrase(info(part.kind).label);
    case NameColumn:
        return (part.history_known ? QString() : QStringLiteral("▲ ")) + QString::fromStdString(part.name);
    case SerialColumn:
        return QString::fromStdString(part.serial);
    case MassColumn: {
        const auto value = main_value(part);
        return value ? units_.text(value->quantity, value->value) : QString();
    }
    default:
        return part.cost ? QString::number(*part.cost) : QString();
    }
}

QVariant ShelfModel::sort_value(const Part& part, int column) const {
    if (column == MassColumn) {
        const auto value = main_value(part);
        return value ? value->value : 0.0;
    }
    if (column == CostColumn)
        return part.cost.value_or(0);
    return column == NameColumn ? QString::fromStdString(part.name) : text(part, column);
}

QVariant ShelfModel::data(const QModelIndex& index, int role) const {
    const Part* shown = index.isValid() ? part(index.row()) : nullptr;
    if (!shown)
        return {};
    const int column = index.column();
    switch (role) {
    case Qt::DisplayRole:
        return text(*shown, column);
    case Qt::ToolTipRole:
        return column == NameColumn ? text(*shown, column) : QVariant(); // long ones are cut
    case kSortRole:
        return sort_value(*shown, column);
    case Qt::TextAlignmentRole:
        return column == MassColumn || column == CostColumn ? QVariant(Qt::AlignRight | Qt::AlignVCenter)
                                                            : QVariant();
    default:
        return {};
    }
}

QVariant ShelfModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole)
        return {};
    const QString names[] = {tr("Kind"), tr("Name"), tr("Serial, set"), tr("Mass"), tr("Cost")};
    return names[section];
}

void ShelfModel::follow() {
    const auto& parts = document_.project().parts;
    for (int row = rowCount() - 1; row >= 0; --row)
        if (!parts.contains(id(row))) {
            beginRemoveRows({}, row, row);
            ids_.erase(ids_.begin() + row);
            endRemoveRows();
        }
    for (const auto& [id, part] : parts) {
        const auto place = std::lower_bound(ids_.begin(), ids_.end(), id);
        if (place != ids_.end() && *place == id)
            continue;
        const int row = static_cast<int>(place - ids_.begin());
        beginInsertRows({}, row, row);
        ids_.insert(place, id);
        endInsertRows();
    }
    if (!ids_.empty())
        emit dataChanged(index(0, 0), index(rowCount() - 1, kColumns - 1));
}

ShelfFilter::ShelfFilter(ShelfModel& model, QObject* parent) : QSortFilterProxyModel(parent), model_(model) {
    setSourceModel(&model);
    setSortRole(ShelfModel::kSortRole);
    setSortCaseSensitivity(Qt::CaseInsensitive);
}

void ShelfFilter::set_kind(std::optional<PartKind> kind) {
    kind_ = kind;
    invalidateFilter();
}

void ShelfFilter::set_search(const QString& text) {
    search_ = text;
    invalidateFilter();
}

std::vector<Part> ShelfFilter::parts() const {
    std::vector<Part> out;
    for (int row = 0; row < model_.rowCount(); ++row)
        if (filterAcceptsRow(row, {}))
            out.push_back(*model_.part(row));
    return out;
}

bool ShelfFilter::filterAcceptsRow(int row, const QModelIndex&) const {
    const Part* part = model_.part(row);
    if (!part || (kind_ && part->kind != *kind_))
        return false;
    const QString all = QString::fromStdString(part->name + '\n' + part->serial + '\n' + part->note);
    return all.contains(search_, Qt::CaseInsensitive);
}

} // namespace bathmos::app
