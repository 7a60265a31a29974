// The parts of the project as rows, and the ones of them that a search leaves, sorted.
#pragma once

#include "app/desk/document.h"
#include "app/text/display_units.h"

#include <QAbstractTableModel>
#include <QSortFilterProxyModel>
#include <optional>
#include <vector>

namespace bathmos::app {

/// One row for each part, in the order of their numbers.
class ShelfModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { KindColumn, NameColumn, SerialColumn, MassColumn, CostColumn, kColumns };
    static constexpr int kSortRole = Qt::UserRole; ///< numbers by size, texts as they read

    ShelfModel(Document& document, const DisplayUnits& units, QObject* parent = nullptr);

    Id id(int row) const { return ids_.at(static_cast<std::size_t>(row)); }
    /// The part of a row; null once it is gone from the project.
    const Part* part(int row) const;

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role = Qt::DisplayRole) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role = Qt::DisplayRole) const override;

    /// Takes the project's parts anew; rows of parts that stay keep their selection.
    void follow();

  private:
    QString text(const Part& part, int column) const;
    QVariant sort_value(const Part& part, int column) const;

    Document& document_;
    const DisplayUnits& units_;
    std::vector<Id> ids_;
};

/// The rows of one kind whose name, serial or note holds a text.
class ShelfFilter : public QSortFilterProxyModel {
    Q_OBJECT
  public:
    explicit ShelfFilter(ShelfModel& model, QObject* parent = nullptr);

    void set_kind(std::optional<PartKind> kind);
    void set_search(const QString& text);
    Id id(const QModelIndex& index) const { return model_.id(mapToSource(index).row()); }
    /// The parts left, in the order of their numbers, however they are sorted.
    std::vector<Part> parts() const;

  protected:
    bool filterAcceptsRow(int row, const QModelIndex& parent) const override;

  private:
    ShelfModel& model_;
    std::optional<PartKind> kind_;
    QString search_;
};

} // namespace bathmos::app
