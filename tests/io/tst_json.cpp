#include "io/file/safe_file.h"
#include "io/json/json.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

// What JSON from elsewhere may hold, and what leaves the program.
class TestJson : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

  private slots:
    void brackets_may_not_be_deeper_than_any_format_needs() {
        const std::string deep = std::string(100000, '[') + std::string(100000, ']');
        CONTAINS(problem_of([&] { io::parse_json(deep); }).what, "deep");
        CONTAINS(problem_of([&] { io::parse_own_json(deep); }).what, "deep");
        QCOMPARE(io::parse_json(std::string(40, '[') + std::string(40, ']')).size(), std::size_t(1));
        QCOMPARE(io::parse_json("{\"a\": \"[[[[{{{{\\\"[[\"}").size(),
                 std::size_t(1)); // in a text they are letters
        const auto path = folder_.filePath(QStringLiteral("deep.train.json"));
        write_test_file(path,
                        QByteArray("{\"lobe\": ") + QByteArray(5000, '[') + QByteArray(5000, ']') + "}");
        const InputProblem problem = problem_of([&] { io::read_train(path.toStdString()); });
        CONTAINS(problem.source, "deep.train.json");
        CONTAINS(problem.location, "line 1");
    }

    void a_key_that_stands_twice_is_an_error() {
        const InputProblem problem =
            problem_of([] { io::parse_json("{\"a\": {\"mass_g\": 1, \"mass_g\": 2}}"); });
        QCOMPARE(problem.location, std::string("mass_g"));
        CONTAINS(problem.what, "twice");
        QCOMPARE(
            io::parse_json("{\"a\": {\"x\": 1}, \"b\": {\"x\": 2}, \"c\": [{\"x\": 1}, {\"x\": 1}]}").size(),
            std::size_t(3));
        std::string train = io::train_text(starter_train());
        train.insert(train.find("\"lash_mm\""), "\"lash_mm\": 0.1, ");
        CONTAINS(problem_of([&] { io::parse_train(train, "t"); }).sentence(), "t: lash_mm: stands twice");
    }

    void numbers_that_no_number_can_be_are_told() {
        CONTAINS(problem_of([] { io::parse_json("[1e999]"); }).what, "larger than a number can be");
    }

    void faults_are_told_with_line_and_column() {
        const InputProblem problem = problem_of([] { io::parse_json("{\n\"a\": 1,\n\"b\" 2}"); });
        CONTAINS(problem.location, "line 3");
    }

    void other_encodings_are_read() {
        QCOMPARE(io::parse_json("\xEF\xBB\xBF[\"S\xC3\xBC"
                                "d\"]")
                     .at(0)
                     .get<std::string>(),
                 std::string("Süd"));
        QCOMPARE(io::parse_json("[\"S\xFC"
                                "d\"]")
                     .at(0)
                     .get<std::string>(),
                 std::string("Süd"));
        QCOMPARE(
            io::parse_json(std::string_view("\xFF\xFE[\0\"\0\xFC\0\"\0]\0", 12)).at(0).get<std::string>(),
            std::string("ü"));
    }

    void what_goes_out_is_always_valid() {
        const io::Json json = {{"name", "S\xFC"
                                        "d"}};
        const std::string text = io::json_text(json);
        QVERIFY(QString::fromUtf8(text.c_str()).contains(QChar(0xFFFD)));
        QCOMPARE(io::parse_json(text).size(), std::size_t(1));
    }

    void a_file_larger_than_its_kind_is_refused_before_memory_is_full() {
        const InputProblem problem = problem_of([] { io::read_train("/dev/zero"); });
        CONTAINS(problem.what, "larger than the 16 MB");
        CONTAINS(problem_of([] { io::read_file("/dev/zero", 1 << 20); }).what, "larger than the 1 MB");
    }

    void two_names_of_one_file_are_one() {
        const auto path = folder_.filePath(QStringLiteral("one")).toStdString(),
                   link = folder_.filePath(QStringLiteral("link")).toStdString(),
                   hard = folder_.filePath(QStringLiteral("hard")).toStdString();
        io::write_file(path, "x");
        std::filesystem::create_symlink(path, link);
        std::filesystem::create_hard_link(path, hard);
        QVERIFY(io::same_file(path, link));
        QVERIFY(io::same_file(path, hard));
        QVERIFY(io::same_file(folder_.filePath(QStringLiteral("new")).toStdString(),
                              folder_.filePath(QStringLiteral("./new")).toStdString()));
        QVERIFY(!io::same_file(path, folder_.filePath(QStringLiteral("new")).toStdString()));
        io::write_file(link, "y"); // through the link, which stays one
        QVERIFY(std::filesystem::is_symlink(link));
        QCOMPARE(io::read_file(path), std::string("y"));
    }
};

QTEST_GUILESS_MAIN(TestJson)
#include "tst_json.moc"
