// Files of spring testers as shops have them: any column, unit and direction, several springs in one.
#include "io/sheet/sheet_draft.h"
#include "io/sheet/sheet_summary.h"
#include "io/sheet/tester_file.h"
#include "support.h"

#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::io;

namespace {

class Written {
  public:
    explicit Written(const QByteArray& text) : path(write_test_file(dir_.filePath("springs.csv"), text)) {}
    std::vector<TestedSpring> read() {
        const TableShape shape = sniff_table(path, kTesterTexts);
        mapping = guess_tester_mapping(shape);
        return read_tester_file(path, shape, mapping);
    }

  private:
    QTemporaryDir dir_;

  public:
    std::filesystem::path path;
    TesterMapping mapping;
};

} // namespace

class TstTesterFile : public QObject {
    Q_OBJECT

  private slots:
    void columns_units_and_direction_are_found_from_their_names_and_heights() {
        Written file("# made up\nload [lbf];height "
                     "[in];note\n67,4;1,811;0\n112,4;1,575;0\n157,4;1,339;0\n110,0;1,575;0\n");
        const auto springs = file.read();
        QCOMPARE(springs.size(), std::size_t(1));
        QCOMPARE(file.mapping.load_unit, std::string("lbf"));
        const auto& rows = springs[0].rows;
        QCOMPARE(rows.size(), std::size_t(4));
        NEAR(rows[0].cells[0].front(), 1.811 * 0.0254, 1e-9);
        NEAR(rows[0].cells[1].front(), 67.4 * 4.4482216152605, 1e-6);
        QVERIFY(!rows[2].back && rows[3].back);
    }
    void several_springs_are_told_apart_by_their_numbers() {
        Written file(
            "spring,height_mm,load_N\n0101,46,300\n0101,42,440\n0102,46,290\n0101,38,580\n0102,42,428\n");
        const auto springs = file.read();
        QCOMPARE(springs.size(), std::size_t(2));
        QCOMPARE(springs[0].serial, std::string("0101")); // as it was written
        QCOMPARE(springs[0].rows.size(), std::size_t(3));
        QCOMPARE(springs[1].rows.size(), std::size_t(2));
    }
    void serials_have_letters_and_notes_are_words() {
        Written file(
            "serial;height_mm;load_N;note\nA-17;46,0;300,5;\nA-17;42,0;440,0;warm\nB-3;46,0;291,0;\n");
        const auto springs = file.read();
        QCOMPARE(springs.size(), std::size_t(2));
        QCOMPARE(springs[0].serial, std::string("A-17"));
        QCOMPARE(springs[0].rows.size(), std::size_t(2));
        NEAR(springs[0].rows[0].cells[1].front(), 300.5, 1e-9);
        QCOMPARE(springs[1].serial, std::string("B-3"));
        const InputProblem problem =
            problem_of([] { Written("serial,height_mm,load_N\nA-17,46,300\nA-17,forty,310\n").read(); });
        QCOMPARE(problem.location, std::string("line 3"));
        CONTAINS(problem.what, "forty");
    }
    void what_was_pressed_becomes_a_height_from_the_free_length() {
        Written file("travel_mm,force_kgf\n5,10\n10,20\n15,30\n");
        file.read();
        file.mapping.free_length_m = 0.055;
        const auto springs = read_tester_file(file.path, sniff_table(file.path), file.mapping);
        NEAR(springs[0].rows[0].cells[0].front(), 0.050, 1e-12);
        NEAR(springs[0].rows[2].cells[1].front(), 30 * 9.80665, 1e-9);
        QVERIFY(!springs[0].rows[2].back); // pressed further: down
    }
    void its_sheet_says_what_the_spring_is() {
        QByteArray text = "height_mm,load_N\n";
        for (const int height : {46, 42, 38, 34, 30})
            text += QByteArray::number(height) + "," + QByteArray::number(300 + 35 * (46 - height)) + "\n";
        Written file(text);
        bench::SheetDraft draft = sheet_of(file.read()[0]);
        draft.fields["installed_height_mm"] = {0.044};
        draft.fields["valve_lift_mm"] = {0.012};
        const auto summary = summary_of(parse_sheet(draft_text(draft)));
        CONTAINS(summary.lines.front().in_words(), "seat load: 370 N");
    }
    void what_is_no_reading_is_refused_by_its_line() {
        for (const auto& [text, part] : {std::pair{"height_mm,load_N\n46,300\n42,oops\n", "line 3"},
                                         {"height_mm,load_N\n46,300\n42\n", "1 fields"},
                                         {"height_mm,load_N\n46,300\n42,1e999\n", "no number"}}) {
            Written file(text);
            const InputProblem problem = problem_of([&] { file.read(); });
            CONTAINS(problem.sentence(), part);
            CONTAINS(problem.source, "springs.csv");
        }
        Written file("height_mm,load_N\n46,300\n");
        file.read();
        file.mapping.load = file.mapping.height;
        CONTAINS(problem_of([&] { read_tester_file(file.path, sniff_table(file.path), file.mapping); }).what,
                 "same column");
        file.mapping.load = 1;
        file.mapping.load_unit = "furlong";
        CONTAINS(problem_of([&] { read_tester_file(file.path, sniff_table(file.path), file.mapping); }).what,
                 "furlong");
    }
    void a_mapping_is_remembered_as_text() {
        const TesterMapping mapping{3, 1, "in", "lbf", 0, 0.0551};
        QVERIFY(tester_mapping_of(tester_mapping_text(mapping)) == mapping);
        QVERIFY(tester_mapping_of(tester_mapping_text({})) == TesterMapping{});
        for (const char* text : {"", "{}", "[1]", "height"})
            QVERIFY(!tester_mapping_of(text));
    }
};

QTEST_APPLESS_MAIN(TstTesterFile)
#include "tst_tester_file.moc"
