#include "app/shell/revision_list.h"

#include "app/text/words.h"

#include <algorithm>
#include <map>

namespace bathmos::app {

RevisionRows revision_rows(const Document& document) {
    std::map<Id, std::vector<Id>> of_build; // numbers grow
    for (const auto& [id, revision] : document.project().revisions)
        of_build[revision.build].push_back(id);
    RevisionRows out{{}, document.project().frozen_revisions()};
    out.rows.reserve(document.project().revisions.size() + 1);
    const auto add = [&](Id build) {
        const std::vector<Id>& all = of_build[build];
        for (std::size_t i = all.size(); i-- > 0;)
            out.rows.push_back({all[i], build, static_cast<int>(i + 1)});
    };
    add(document.build());
    for (const auto& [id, build] : document.project().builds)
        if (id != document.build())
            add(id);
    return out;
}

RevisionList::RevisionList(const Document& document, QString nothing, QObject* parent)
    : QAbstractListModel(parent), document_(document), nothing_(std::move(nothing)) {
    refresh(revision_rows(document_));
}

void RevisionList::refresh(RevisionRows now) {
    std::vector<RevisionRow> next = std::move(now.rows);
    if (!nothing_.isEmpty())
        next.emplace(next.begin());
    frozen_ = std::move(now.frozen);
    const std::size_t first = nothing_.isEmpty() ? 0 : 1;
    const std::size_t more = next.size() >= rows_.size() ? next.size() - rows_.size() : 0;
    const bool grown = build_ == document_.build() && more > 0 && rows_.size() >= first &&
                       std::equal(rows_.begin() + static_cast<std::ptrdiff_t>(first), rows_.end(),
                                  next.begin() + static_cast<std::ptrdiff_t>(first + more));
    if (grown) {
        beginInsertRows({}, static_cast<int>(first), static_cast<int>(first + more - 1));
        rows_ = std::move(next);
        endInsertRows();
    } else if (next != rows_ || build_ != document_.build()) {
        beginResetModel();
        rows_ = std::move(next);
        build_ = document_.build();
        endResetModel();
    }
    if (!rows_.empty())
        emit dataChanged(index(0), index(static_cast<int>(rows_.size()) - 1));
}

int RevisionList::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}

QString RevisionList::words_of(const RevisionRow& row) const {
    if (row.revision == 0)
        return nothing_;
    const Project& p = document_.project();
    const auto at = p.revisions.find(row.revision);
    if (at == p.revisions.end())
        return {};
    QString label = words(Project::label_at(static_cast<std::size_t>(row.place), at->second));
    if (const auto build = p.builds.find(row.build);
        row.build != document_.build() && build != p.builds.end())
        label = words(build->second.name) + QLatin1Char(' ') + label;
    return (frozen_.contains(row.revision) ? QStringLiteral("▣ ") : QString()) + label;
}

QVariant RevisionList::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount())
        return {};
    const RevisionRow& row = rows_[static_cast<std::size_t>(index.row())];
    if (role == Qt::DisplayRole)
        return words_of(row);
    if (role == Qt::UserRole)
        return QVariant::fromValue<qlonglong>(row.revision);
    const auto at = document_.project().revisions.find(row.revision);
    if (role == Qt::ToolTipRole && at != document_.project().revisions.end())
        return words(at->second.reason);
    return {};
}

int RevisionList::row_of(Id revision) const {
    const auto at = std::find_if(rows_.begin(), rows_.end(),
                                 [&](const RevisionRow& row) { return row.revision == revision; });
    return at == rows_.end() ? -1 : static_cast<int>(at - rows_.begin());
}

Id RevisionList::revision_at(int row) const {
    return row < 0 || row >= rowCount() ? 0 : rows_[static_cast<std::size_t>(row)].revision;
}

} // namespace bathmos::app
