// What cannot be kept: the number goes back beside its message, a copy is offered, and nothing ends the
// program.
#include "app/app_fixture.h"
#include "app/shell/guarded_application.h"
#include "app/shell/revision_list.h"

#include <QListWidget>
#include <filesystem>

using namespace bathmos;
using namespace bathmos::test;
namespace fs = std::filesystem;

// A handler with a fault.
class Thrower : public QObject {
  public:
    bool event(QEvent* event) override {
        if (event->type() == QEvent::User)
            throw std::out_of_range("of the list");
        return QObject::event(event);
    }
};

class TestRefused : public QObject {
    Q_OBJECT
    // As pasted: one edit, not one a key.
    static void paste(Fixture& f, const char* field, const char* text) {
        auto* edit = f.find<QLineEdit>(QLatin1String(field));
        edit->setFocus();
        edit->selectAll();
        edit->insert(QLatin1String(text));
    }

  private slots:
    void an_edit_of_a_project_that_is_gone_goes_back_and_offers_a_copy() {
        ProjectFixture f("gone");
        const QString before = f.find<QLineEdit>("lash_mm")->text();
        paste(f, "lash_mm", "0.4");
        QCOMPARE(f.window->message(), QString());
        QVERIFY(f.find<QPushButton>("message_save_copy")->isHidden());
        fs::remove(f.path.toStdString());
        paste(f, "lash_mm", "0.5");
        QVERIFY2(f.window->message().contains("no longer there"), qPrintable(f.window->message()));
        QCOMPARE(f.find<QLineEdit>("lash_mm")->text(), QStringLiteral("0.4"));
        NEAR(f.document().assembly().train.lash_m, 0.4e-3, 1e-12);
        auto* copy = f.find<QPushButton>("message_save_copy");
        QVERIFY(copy->isVisible());
        f.next_path = Fixture::folder().filePath("copy.bathmos");
        f.click("message_save_copy");
        const io::Store store = io::Store::open(f.next_path.toStdString());
        NEAR(store.project().revisions.rbegin()->second.assembly.train.lash_m, 0.4e-3, 1e-12);
        QVERIFY(before != QStringLiteral("0.4"));
    }

    void results_that_cannot_be_kept_are_not_asked_for_again_and_again() {
        ProjectFixture f("results");
        f.few_speeds();
        f.wait_for_sweep();
        auto* findings = f.find<QListWidget>("findings");
        const int before = findings->count();
        QVERIFY(before > 0);
        fs::remove(f.path.toStdString());
        QSignalSpy changed(&f.document(), &Document::changed), refused(&f.document(), &Document::refused);
        paste(f, "lash_mm", "0.5");
        QCOMPARE(refused.count(), 1);
        Prediction arrived;
        arrived.revision = f.document().shown();
        arrived.hash = "another";
        f.document().note_prediction(arrived);
        QCOMPARE(refused.count(), 2);
        QTest::qWait(300); // nothing goes on by itself
        QCOMPARE(refused.count(), 2);
        QCOMPARE(changed.count(), 0); // the train is what it was
        QVERIFY(f.window->sweep().state() == SweepRunner::State::Done);
        QCOMPARE(findings->count(), before);
        QVERIFY(!findings->item(0)->text().isEmpty());
        QVERIFY(f.find<QPushButton>("message_save_copy")->isVisible());
    }

    void an_edit_of_a_project_that_was_replaced_goes_back() {
        ProjectFixture f("replaced");
        const fs::path other = Fixture::folder().filePath("other.bathmos").toStdString();
        { io::Store store = io::Store::create(other); }
        fs::rename(other, f.path.toStdString());
        const QString before = f.find<QLineEdit>("valve.mass_g")->text();
        paste(f, "valve.mass_g", "99");
        QVERIFY2(f.window->message().contains("another file now"), qPrintable(f.window->message()));
        QCOMPARE(f.find<QLineEdit>("valve.mass_g")->text(), before);
        f.window->document().undo(); // nor does anything else end the program
        QVERIFY(f.window->message().contains("another file now"));
    }

    void what_is_thrown_out_of_a_handler_ends_in_a_message() {
        auto* guarded = dynamic_cast<GuardedApplication*>(QCoreApplication::instance());
        QVERIFY(guarded);
        QSignalSpy fault(guarded, &GuardedApplication::fault);
        Thrower thrower;
        QCoreApplication::postEvent(&thrower, new QEvent(QEvent::User));
        QTRY_COMPARE(fault.count(), 1);
        QVERIFY(fault.first().first().toString().contains("of the list"));
    }

    void revisions_to_choose_from_grow_at_the_top() {
        ProjectFixture f("list");
        RevisionList list(f.document(), QStringLiteral("nothing"), nullptr);
        list.refresh(revision_rows(f.document()));
        const int before = list.rowCount();
        QCOMPARE(list.revision_at(0), Id(0));
        QSignalSpy inserted(&list, &QAbstractItemModel::rowsInserted),
            reset(&list, &QAbstractItemModel::modelReset);
        paste(f, "lash_mm", "0.41");
        list.refresh(revision_rows(f.document()));
        QCOMPARE(list.rowCount(), before + 1);
        QCOMPARE(inserted.count(), 1);
        QCOMPARE(reset.count(), 0);
        QCOMPARE(list.row_of(f.document().shown()), 1);
        QCOMPARE(list.data(list.index(1), Qt::DisplayRole).toString(),
                 QString::fromStdString(f.document().project().revision_label(f.document().shown())));
        QVERIFY(!list.data(list.index(1), Qt::ToolTipRole).toString().isEmpty());
        QCOMPARE(list.row_of(12345), -1);
        f.document().undo();
        list.refresh(revision_rows(f.document()));
        QCOMPARE(list.rowCount(), before);
    }
};

int main(int argc, char** argv) {
    GuardedApplication application(argc, argv);
    TestRefused test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_refused.moc"
