// Revisions as a list to choose from: of the build in hand newest first, then those of the others. Words are
// made when they are looked at, so that thousands of revisions cost no key a moment.
#pragma once

#include "app/desk/document.h"

#include <QAbstractListModel>
#include <set>

namespace bathmos::app {

/// A revision as a line of a list.
struct RevisionRow {
    Id revision = 0, build = 0;
    int place = 0; ///< in its build, from 1
    bool operator==(const RevisionRow&) const = default;
};

/// All of a project, in the order of the list, and which of them are frozen.
struct RevisionRows {
    std::vector<RevisionRow> rows;
    std::set<Id> frozen;
};

RevisionRows revision_rows(const Document& document);

class RevisionList : public QAbstractListModel {
    Q_OBJECT
  public:
    /// `nothing`: words for a first line without a revision; "" for none.
    RevisionList(const Document& document, QString nothing, QObject* parent);

    int rowCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    /// Takes what the project has; what is new at the top is put in, else all is made anew.
    void refresh(RevisionRows now);
    /// -1 where it is not there.
    int row_of(Id revision) const;
    Id revision_at(int row) const;

  private:
    QString words_of(const RevisionRow& row) const;

    const Document& document_;
    QString nothing_;
    std::vector<RevisionRow> rows_;
    std::set<Id> frozen_;
    Id build_ = 0;
};

} // namespace bathmos::app
