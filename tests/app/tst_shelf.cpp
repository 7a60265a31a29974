// The shelf's rows: what they say, how they sort and filter, and that views are told of every change.
#include "app/stations/train/shelf_model.h"
#include "app_fixture.h"
#include "core/train/train_starter.h"

#include <QAbstractItemModelTester>

using namespace bathmos;
using namespace bathmos::test;

namespace {

struct Shelf : ProjectFixture {
    explicit Shelf(const QString& name)
        : ProjectFixture(name), model(document(), window->units()), filter(model),
          tester(&filter, QAbstractItemModelTester::FailureReportingMode::QtTest) {}
    QStringList column(ShelfModel::Column which) {
        QStringList out;
        for (int row = 0; row < filter.rowCount(); ++row)
            out << filter.index(row, which).data().toString();
        return out;
    }
    std::vector<double> sorted_by(ShelfModel::Column which, Qt::SortOrder order) {
        filter.sort(which, order);
        std::vector<double> out;
        for (int row = 0; row < filter.rowCount(); ++row)
            out.push_back(filter.index(row, which).data(ShelfModel::kSortRole).toDouble());
        return out;
    }
    Id add(const char* name, double mass_g, std::optional<double> cost = {}) {
        Part part = document().project().parts.at(id_of("Retainer T, 10 degree"));
        part.name = name;
        part.serial = "test";
        part.cost = cost;
        part.piece.retainer_mass_kg = mass_g * 1e-3;
        document().add_part(part);
        return id_of(name);
    }
    ShelfModel model;
    ShelfFilter filter;
    QAbstractItemModelTester tester; ///< asks that rows, indexes and signals agree
};

} // namespace

class TestShelf : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void every_part_is_a_row_with_its_own_words() {
        Shelf f("shelf-rows");
        const auto& parts = f.document().project().parts;
        QCOMPARE(f.model.rowCount(), static_cast<int>(parts.size()));
        for (int row = 0; row < f.model.rowCount(); ++row) {
            const Part& part = parts.at(f.model.id(row));
            const QString name = f.model.index(row, ShelfModel::NameColumn).data().toString();
            QVERIFY(name.endsWith(QString::fromStdString(part.name)));
            QCOMPARE(name.startsWith(QStringLiteral("▲")), !part.history_known); // its past is not known
            QCOMPARE(f.model.index(row, ShelfModel::NameColumn).data(Qt::ToolTipRole).toString(), name);
            QCOMPARE(f.model.index(row, ShelfModel::SerialColumn).data().toString(),
                     QString::fromStdString(part.serial));
        }
        QCOMPARE(f.model.headerData(ShelfModel::MassColumn, Qt::Horizontal).toString(),
                 QStringLiteral("Mass"));
    }

    void masses_and_costs_sort_by_size_not_by_their_digits() {
        Shelf f("shelf-sort");
        f.filter.set_kind(PartKind::Retainer);
        f.add("light", 9, 1000);
        f.add("heavy", 110, 99);
        const auto up = f.sorted_by(ShelfModel::MassColumn, Qt::AscendingOrder);
        QVERIFY(up.size() >= 4 && std::is_sorted(up.begin(), up.end()));
        QCOMPARE(f.column(ShelfModel::NameColumn).first(), QStringLiteral("light"));
        QCOMPARE(f.column(ShelfModel::NameColumn).last(), QStringLiteral("heavy"));
        const auto down = f.sorted_by(ShelfModel::CostColumn, Qt::DescendingOrder);
        QVERIFY(std::is_sorted(down.rbegin(), down.rend()));
        QCOMPARE(f.column(ShelfModel::NameColumn).first(), QStringLiteral("light"));
    }

    void names_sort_whatever_their_case() {
        Shelf f("shelf-case");
        f.filter.set_search("test");
        f.add("b", 10);
        f.add("A", 10);
        f.add("C", 10);
        f.filter.sort(ShelfModel::NameColumn, Qt::AscendingOrder);
        QCOMPARE(f.column(ShelfModel::NameColumn), (QStringList{"A", "b", "C"}));
    }

    void kind_and_search_narrow_together_and_what_is_exported_is_what_is_shown() {
        Shelf f("shelf-filter");
        f.filter.set_kind(PartKind::Retainer);
        f.filter.set_search("10 DEGREE");
        QCOMPARE(f.column(ShelfModel::NameColumn), QStringList{"Retainer T, 10 degree"});
        QCOMPARE(f.filter.parts().size(), std::size_t{1});
        QCOMPARE(f.filter.parts().front().name, std::string("Retainer T, 10 degree"));
        f.filter.set_kind(PartKind::Shim);
        QCOMPARE(f.filter.rowCount(), 0);
        f.filter.set_kind({});
        f.filter.set_search({});
        QCOMPARE(f.filter.rowCount(), f.model.rowCount());
    }

    void rows_come_go_and_change_with_the_records_and_undo() {
        Shelf f("shelf-changes");
        QSignalSpy inserted(&f.model, &QAbstractItemModel::rowsInserted),
            removed(&f.model, &QAbstractItemModel::rowsRemoved),
            reset(&f.model, &QAbstractItemModel::modelReset);
        const int before = f.model.rowCount();
        const Id id = f.add("comes and goes", 12);
        QCOMPARE(inserted.size(), 1);
        QCOMPARE(f.model.rowCount(), before + 1);
        QPersistentModelIndex kept;
        for (int row = 0; row < f.filter.rowCount(); ++row)
            if (f.filter.id(f.filter.index(row, 0)) == id)
                kept = f.filter.index(row, ShelfModel::NameColumn);
        Part part = f.document().project().parts.at(id);
        part.name = "renamed";
        f.document().set_part(id, part);
        QCOMPARE(kept.data().toString(), QStringLiteral("renamed")); // the same row, told anew
        f.document().undo();
        QCOMPARE(kept.data().toString(), QStringLiteral("comes and goes"));
        f.document().undo();
        QVERIFY(!kept.isValid());
        QCOMPARE(removed.size(), 1);
        QCOMPARE(f.model.rowCount(), before);
        QCOMPARE(reset.size(), 0); // what is chosen in a view stays so
    }

    void a_name_that_no_longer_fits_the_search_leaves_the_list() {
        Shelf f("shelf-leaves");
        const Id id = f.add("odd one", 12);
        f.filter.set_search("odd");
        QCOMPARE(f.filter.rowCount(), 1);
        Part part = f.document().project().parts.at(id);
        part.name = "even one";
        f.document().set_part(id, part);
        QCOMPARE(f.filter.rowCount(), 0);
    }

    void masses_stay_grams_and_thicknesses_become_inches() {
        Shelf f("shelf-inch");
        f.filter.set_kind(PartKind::Shim);
        QVERIFY(f.column(ShelfModel::MassColumn).first().contains("mm"));
        f.trigger("units");
        QVERIFY(f.column(ShelfModel::MassColumn).first().contains("in"));
        f.filter.set_kind(PartKind::Retainer);
        QVERIFY(f.column(ShelfModel::MassColumn).first().contains("g"));
    }

    void another_project_takes_the_rows_away() {
        Shelf f("shelf-other");
        f.open_demo(); // a train file: no part of it is on a shelf
        QCOMPARE(f.model.rowCount(), 0);
        QVERIFY(f.filter.parts().empty());
    }
};

QTEST_MAIN(TestShelf)
#include "tst_shelf.moc"
