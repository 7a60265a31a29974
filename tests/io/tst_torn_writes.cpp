#include "io/project/store.h"
#include "io/torn_files.h"
#include "support.h"

#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::io;
using namespace bathmos::test;
namespace fs = std::filesystem;

// The power goes at any moment, and the disk had its own order: what was said to be kept is there, all of it.
class TestTornWrites : public QObject {
    Q_OBJECT
    static RecordChange engine(Id id, const std::string& name) {
        Project p;
        p.engines[id].name = name;
        return {RecordKind::Engine, id, record_text(p, RecordKind::Engine, id)};
    }

  private slots:
    void committed_edits_survive_torn_and_reordered_writes() {
        std::mt19937 random(7);
        std::size_t torn = 0;
        for (int round = 0; round < 12; ++round) {
            QTemporaryDir live, after;
            const fs::path path = live.path().toStdString() + "/p.bathmos";
            TornFiles files;
            auto store = std::make_unique<Store>(Store::create(path));
            int kept = 0;
            const auto check = [&] {
                QDir(after.path()).removeRecursively();
                QVERIFY(QDir().mkpath(after.path()));
                torn += files.unsynced();
                files.crash_into(live.path().toStdString(), after.path().toStdString(), random);
                const Store again = Store::open(after.path().toStdString() + "/p.bathmos");
                QCOMPARE(again.read_only_why(), std::string());
                if (kept > 0)
                    QCOMPARE(again.project().engines.at(1).name.substr(0, 8),
                             std::to_string(10000000 + kept));
                QCOMPARE(again.project().engines.contains(2), kept > 0);
                QVERIFY(check_project(again.project()).empty());
            };
            for (int i = 1; i <= 25; ++i) {
                // two records an edit: both or none
                const std::string name = std::to_string(10000000 + i) + std::string(random() % 6000, 'x');
                store->commit("edit", "", {engine(1, name), engine(2, name)});
                kept = i;
                if (i % 5 == 0)
                    check();
                if (i == 15) { // closed and opened again: the log goes into the file
                    store.reset();
                    check();
                    store = std::make_unique<Store>(Store::open(path));
                    check();
                }
            }
        }
        QVERIFY2(torn > 20, "something must have been left unsynced, else nothing was tried");
    }
};

QTEST_GUILESS_MAIN(TestTornWrites)
#include "tst_torn_writes.moc"
