#include "fuzz/readers.h"
#include "io/file/safe_file.h"
#include "support.h"

#include <random>

using namespace bathmos;
using namespace bathmos::test;
namespace fs = std::filesystem;

// The readers over what fuzzing found, over the seeds it starts from, and over a share of what it would make
// of them.
class TestReaders : public QObject {
    Q_OBJECT
    static void rows() {
        QTest::addColumn<int>("reader");
        QTest::addColumn<QString>("path");
        const fs::path cases = source_file("tests/fuzz/cases");
        for (const auto& folder : fs::directory_iterator(cases)) {
            const Reader reader = find_reader(folder.path().filename().string());
            QVERIFY2(reader != Reader::Count, folder.path().c_str());
            for (const auto& file : fs::directory_iterator(folder))
                QTest::newRow((folder.path().filename() / file.path().filename()).c_str())
                    << static_cast<int>(reader) << QString::fromStdString(file.path().string());
        }
    }

  private slots:
    void every_reader_has_cases() {
        for (std::size_t i = 0; i < static_cast<std::size_t>(Reader::Count); ++i)
            QVERIFY(
                !fs::is_empty(fs::path(source_file("tests/fuzz/cases")) / name_of(static_cast<Reader>(i))));
    }

    void cases_are_read_or_told_data() { rows(); }
    void cases_are_read_or_told() {
        QFETCH(int, reader);
        QFETCH(QString, path);
        read_as(static_cast<Reader>(reader), io::read_file(path.toStdString()));
    }

    void mutated_cases_are_read_or_told_data() { rows(); }
    void mutated_cases_are_read_or_told() {
        QFETCH(int, reader);
        QFETCH(QString, path);
        const std::string whole = io::read_file(path.toStdString());
        std::mt19937 random(static_cast<unsigned>(whole.size()));
        const auto pick = [&](std::size_t most) { return most ? random() % most : 0; };
        for (int round = 0; round < 12; ++round) {
            std::string bytes = whole;
            for (std::size_t changes = 1 + pick(6); changes > 0 && !bytes.empty(); --changes)
                switch (pick(4)) {
                case 0:
                    bytes[pick(bytes.size())] = static_cast<char>(pick(256));
                    break;
                case 1:
                    bytes.erase(pick(bytes.size()), 1 + pick(20));
                    break;
                case 2: {
                    const char* const odd[] = {"1e999", "-",  "nan", "\"", ",",
                                               ";",     "\n", "[",   "{",  "99999999999"};
                    bytes.insert(pick(bytes.size()), odd[pick(10)]);
                    break;
                }
                default:
                    bytes.resize(1 + pick(bytes.size()));
                }
            read_as(static_cast<Reader>(reader), bytes);
        }
    }
};

QTEST_GUILESS_MAIN(TestReaders)
#include "tst_readers.moc"
