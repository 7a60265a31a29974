#include "app/shell/document.h"
#include "app/shell/recovery_slot.h"
#include "app_fixture.h"
#include "io/train/train_file.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {
struct Edit {
    const char* name;
    std::function<void(Train&)> apply;
};
const std::vector<Edit> kEdits = {
    {"valve mass", [](Train& t) { t.valve.mass_kg = 0.08; }},
    {"name", [](Train& t) { t.name = "another"; }},
    {"layout", [](Train& t) { t = with_layout(t, Layout::Bucket); }},
    {"spring added", [](Train& t) { t.springs.push_back(starter_spring()); }},
    {"ratio table",
     [](Train& t) {
         t.rocker->ratio = RatioTable{{0, 4e-3, 8e-3}, {0, 6e-3, 12.2e-3}};
     }},
    {"lobe", [](Train& t) { std::get<AnalyticLobe>(t.lobe.shape).lift_m = 7.5e-3; }},
};
} // namespace

class TestDocument : public QObject {
    Q_OBJECT
  private slots:
    void each_edit_can_be_done_undone_redone_and_saved_data() {
        QTest::addColumn<int>("edit");
        for (std::size_t i = 0; i < kEdits.size(); ++i)
            QTest::newRow(kEdits[i].name) << static_cast<int>(i);
    }
    void each_edit_can_be_done_undone_redone_and_saved() {
        QFETCH(int, edit);
        const QString path = Fixture::folder().filePath("d.train.json");
        Document d;
        d.set_new(starter_train());
        const Train before = d.train();
        Train after = before;
        kEdits[static_cast<std::size_t>(edit)].apply(after);
        d.edit(after, "change");
        QVERIFY(d.train() == after);
        d.save(path);
        QVERIFY(!d.modified());
        d.undo_stack().undo(); // undo outlives saving
        QVERIFY(d.train() == before);
        QVERIFY(d.modified());
        d.undo_stack().redo();
        QVERIFY(d.train() == after);
        QVERIFY(!d.modified());
        QCOMPARE(QString::fromStdString(io::train_text(io::read_train(path.toStdString()))),
                 QString::fromStdString(io::train_text(after)));
    }

    void keys_typed_into_one_field_are_one_step_and_a_return_to_the_start_is_none() {
        Document d;
        d.set_new(starter_train());
        for (const double mass : {0.09, 0.091, 0.0915}) {
            Train next = d.train();
            next.valve.mass_kg = mass;
            d.edit(next, "mass", "valve.mass_g");
        }
        QCOMPARE(d.undo_stack().count(), 1);
        Train other = d.train();
        other.lash_m = 0.2e-3;
        d.edit(other, "lash", "lash_mm");
        QCOMPARE(d.undo_stack().count(), 2);
        d.undo_stack().undo();
        d.undo_stack().undo();
        QVERIFY(d.train() == starter_train());
    }

    void revision_grows_with_every_change_and_figures_follow() {
        Document d;
        d.set_new(starter_train());
        const auto first = d.revision();
        const double mass = d.figures()->equivalent_mass_total_kg;
        Train heavier = d.train();
        heavier.valve.mass_kg += 0.01;
        d.edit(heavier, "mass");
        QVERIFY(d.revision() > first);
        NEAR(d.figures()->equivalent_mass_total_kg, mass + 0.01, 1e-9);
    }

    void impossible_trains_have_problems_and_no_figures() {
        Document d;
        d.set_new(starter_train());
        Train bad = d.train();
        bad.installed_height_m = 15e-3;
        d.edit(bad, "height");
        QVERIFY(!d.problems().empty());
        QVERIFY(d.figures() == nullptr && d.rigid() == nullptr);
        d.undo_stack().undo();
        QVERIFY(d.problems().empty() && d.figures() != nullptr);
    }

    void a_file_that_cannot_be_read_changes_nothing() {
        Document d;
        d.set_new(starter_train());
        QVERIFY_EXCEPTION_THROWN(d.open("/nowhere.train.json"), InputError);
        QVERIFY(d.train() == starter_train());
        QVERIFY_EXCEPTION_THROWN(d.save("/nowhere/x.train.json"), InputError);
        QVERIFY(d.modified());
    }

    void unsaved_edits_outlive_a_kill() {
        const QString copy = Fixture::folder().filePath("kill.copy");
        QFile::remove(copy);
        {
            Document d(copy);
            d.set_new(starter_train());
            d.save(Fixture::folder().filePath("k.train.json"));
            Train next = d.train();
            next.valve.mass_kg = 0.0777;
            d.edit(next, "mass");
            QTRY_VERIFY(QFile::exists(copy)); // no closing, no saving
        }
        Document again(copy);
        const auto found = again.recoverable();
        QVERIFY(found.has_value());
        NEAR(found->train.valve.mass_kg, 0.0777, 1e-12);
        QCOMPARE(found->path, Fixture::folder().filePath("k.train.json"));
        again.recover(*found);
        QVERIFY(again.modified());
        again.save(found->path);
        QVERIFY(!QFile::exists(copy)); // nothing unsaved: no copy
    }

    void two_programs_keep_their_unsaved_edits_apart() {
        QTemporaryDir folder;
        const auto put = [](const QString& path) {
            QFile file(path);
            return file.open(QIODevice::WriteOnly) && file.write("edits") == 5;
        };
        QString first_path;
        {
            const RecoverySlot first(folder.path()), second(folder.path());
            first_path = first.path();
            QVERIFY(!first.path().isEmpty() && first.path() != second.path());
            QVERIFY(put(second.path())); // the second ends with edits unsaved
        }
        const RecoverySlot next(folder.path());
        QVERIFY(next.path() != first_path); // what was left behind comes first
        QVERIFY(QFile::exists(next.path()));
        const RecoverySlot other(folder.path());
        QCOMPARE(other.path(), first_path);
        QCOMPARE(RecoverySlot("/proc/nowhere").path(), QString());
    }

    void a_damaged_recovery_copy_is_not_offered() {
        const QString copy = Fixture::folder().filePath("bad.copy");
        QFile file(copy);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("path\n{ \"format\"");
        file.close();
        QVERIFY(!Document(copy).recoverable().has_value());
    }

    void a_recovery_folder_that_refuses_is_told() {
        Document d("/proc/nowhere/copy");
        QSignalSpy told(&d, &Document::recovery_failed);
        d.set_new(starter_train());
        QTRY_COMPARE(told.count(), 1);
    }
};

QTEST_MAIN(TestDocument)
#include "tst_document.moc"
