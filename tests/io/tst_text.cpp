#include "io/lobe/lobe_file.h"
#include "io/result/result_text.h"
#include "io/text/delimited.h"
#include "io/train/train_file.h"
#include "support.h"

#include <QFile>
#include <QTemporaryDir>

using namespace bathmos;
using namespace bathmos::test;

class TestText : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

    std::filesystem::path file(const QByteArray& content) {
        return write_test_file(folder_.filePath(QStringLiteral("t.txt")), content);
    }

    std::vector<std::vector<double>> read(const std::filesystem::path& path,
                                          const std::vector<std::size_t>& columns) {
        std::vector<std::vector<double>> rows;
        io::stream_columns(path, io::sniff_table(path), columns,
                           [&](const auto& row, std::size_t) { rows.push_back(row); });
        return rows;
    }

  private slots:
    void tables_are_recognised_as_labs_send_them_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("second");
        QTest::newRow("comma") << QByteArray("rpm,lift_mm\n3000,1.25\n3000,2.5\n") << "lift_mm";
        QTest::newRow("semicolon, decimal comma")
            << QByteArray("rpm;lift_mm\n3000;1,25\n3000;2,5\n") << "lift_mm";
        QTest::newRow("semicolon, decimal point")
            << QByteArray("rpm;lift_mm\n3000;1.25\n3000;2.5\n") << "lift_mm";
        QTest::newRow("tab") << QByteArray("rpm\tlift_mm\n3000\t1.25\n3000\t2.5\n") << "lift_mm";
        QTest::newRow("tab, decimal comma")
            << QByteArray("rpm\tlift_mm\n3000\t1,25\n3000\t2,5\n") << "lift_mm";
        QTest::newRow("blanks") << QByteArray("rpm  lift_mm\n 3000   1.25\n 3000   2.5\n") << "lift_mm";
        QTest::newRow("byte-order mark, CRLF")
            << QByteArray("\xEF\xBB\xBFrpm,lift_mm\r\n3000,1.25\r\n3000,2.5\r\n") << "lift_mm";
        QTest::newRow("header lines")
            << QByteArray("Rig 7, test bed\nrun by H\n# format: x\nrpm,lift_mm\n3000,1.25\n3000,2.5\n")
            << "lift_mm";
        QTest::newRow("no names") << QByteArray("3000,1.25\n3000,2.5\n") << "column 2";
        QTest::newRow("no last line break") << QByteArray("rpm,lift_mm\n3000,1.25\n3000,2.5") << "lift_mm";
        QTest::newRow("a separator in a quoted name")
            << QByteArray("\"Speed, rev/min\",\"Power, hp\"\n3000,1.25\n3000,2.5\n") << "Power, hp";
        QTest::newRow("quoted numbers")
            << QByteArray("rpm,lift_mm\n\"3000\",\"1.25\"\n\"3000\",\"2.5\"\n") << "lift_mm";
        QTest::newRow("a mark that is never closed")
            << QByteArray("rpm,5\" gauge\n3000,1.25\n3000,2.5\n") << "5\" gauge";
        QTest::newRow("quoted names")
            << QByteArray("\"rpm\",\"lift_mm\"\n3000,1.25\n3000,2.5\n") << "lift_mm";
    }
    void tables_are_recognised_as_labs_send_them() {
        QFETCH(QByteArray, content);
        QFETCH(QString, second);
        const auto path = file(content);
        const io::TableShape shape = io::sniff_table(path);
        QCOMPARE(QString::fromStdString(shape.columns.at(1)), second);
        const auto rows = read(path, {0, 1});
        QCOMPARE(rows.size(), std::size_t{2});
        NEAR(rows[0][0], 3000, 0);
        NEAR(rows[0][1], 1.25, 0);
        NEAR(rows[1][1], 2.5, 0);
    }

    void columns_come_in_the_order_asked_and_empty_fields_are_gaps() {
        const auto rows = read(file("a,b,c\n1,2,3\n4,,6\n"), {2, 1});
        NEAR(rows[0][0], 3, 0);
        NEAR(rows[0][1], 2, 0);
        QVERIFY(std::isnan(rows[1][1]));
    }

    void comments_give_their_values() {
        const io::TableShape shape =
            io::sniff_table(file("# valve: intake 3\n# samples_per_turn: 360\nrpm,x\n1,2\n"));
        QCOMPARE(QString::fromStdString(shape.comment("valve").value_or("")), QStringLiteral("intake 3"));
        QVERIFY(!shape.comment("nothing").has_value());
        QVERIFY(shape.find("RPM") == std::size_t{0});
        QVERIFY(!shape.find("rp").has_value());
    }

    void a_bad_field_is_told_with_line_and_column() {
        const auto path = file("# c\nrpm,lift_mm\n3000,1.0\n3000,1.x\n");
        const InputProblem problem = problem_of([&] { read(path, {0, 1}); });
        CONTAINS(problem.location, "line 4, column 2 (lift_mm)");
        CONTAINS(problem.what, "\"1.x\" is not a number");
        const InputProblem cut = problem_of([&] { read(file("a,b\n1,2\n3\n"), {0, 1}); });
        CONTAINS(cut.location, "line 3");
        CONTAINS(cut.mend, "cut short");
    }

    void decimal_commas_among_separating_commas_are_refused_with_their_row_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("location");
        // the first reading is whole, so that names and first row agree
        QTest::newRow("first reading whole")
            << QByteArray("rpm,lift_mm\n3000,1\n3000,2,5\n3000,3,25\n") << "line 2";
        QTest::newRow("no reading whole") << QByteArray("rpm,lift_mm\n3000,1,5\n3000,2,5\n") << "line 2";
        QTest::newRow("a point somewhere") << QByteArray("rpm,lift_mm\n3000,1.0\n3000,2,5\n") << "line 3";
        QByteArray late("rpm,lift_mm\n");
        for (int i = 0; i < 20000; ++i)
            late += "3000,1\n";
        QTest::newRow("beyond the sample") << late + "3000,2,5\n"
                                           << "line 20002";
    }
    void decimal_commas_among_separating_commas_are_refused_with_their_row() {
        QFETCH(QByteArray, content);
        QFETCH(QString, location);
        const auto path = file(content);
        const InputProblem problem = problem_of([&] { read(path, {0, 1}); });
        QCOMPARE(QString::fromStdString(problem.location), location);
        CONTAINS(problem.mend, "a comma cannot both separate columns and mark decimals");
        CONTAINS(problem.source, path.string());
    }

    void numbers_written_in_two_ways_are_refused() {
        const InputProblem problem = problem_of([&] {
            read(file("rpm;lift_mm\n3000;0\n7,000;1.25\n3000;2\n"), {0, 1});
        });
        CONTAINS(problem.location, "line 3, column 2");
        CONTAINS(problem.what, "both with a comma and with a point");
    }

    void infinite_and_overlong_numbers_are_refused_data() {
        QTest::addColumn<QByteArray>("field");
        for (const char* field : {"inf", "-Infinity", "1e999"})
            QTest::newRow(field) << QByteArray(field);
    }
    void infinite_and_overlong_numbers_are_refused() {
        QFETCH(QByteArray, field);
        const InputProblem problem = problem_of([&] {
            read(file("rpm,lift_mm\n3000,1\n3000," + field + "\n"), {0, 1});
        });
        CONTAINS(problem.location, "line 3, column 2 (lift_mm)");
        CONTAINS(problem.what, "is not a finite number");
    }

    void a_trailing_separator_is_no_column() {
        const auto path = file("rpm,lift_mm,\n3000,1.25,\n3000,2.5,\n");
        QCOMPARE(io::sniff_table(path).columns.size(), std::size_t(2));
        NEAR(read(path, {0, 1})[1][1], 2.5, 0);
    }

    void units_under_the_names_belong_to_them() {
        const auto path = file("rpm;crank;lift\n1/min;deg;mm\n3000;0;1,25\n3000;1;2,5\n");
        const io::TableShape shape = io::sniff_table(path);
        QCOMPARE(QString::fromStdString(shape.columns.at(2)), QStringLiteral("lift [mm]"));
        QVERIFY(shape.find("lift_mm") == std::size_t{2});
        QVERIFY(shape.find("crank_deg") == std::size_t{1});
        QVERIFY(shape.find("rpm") == std::size_t{0});
        QVERIFY(!shape.find("lift_in").has_value());
        NEAR(read(path, {2})[1][0], 2.5, 0);
    }

    void other_encodings_are_read_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("encoding");
        const QString text = QStringLiteral("# Prüfstand: Süd\nrpm,lift_µm\n3000,1.25\n3000,2.5\n");
        const auto wide = [&](bool little, bool mark) {
            QByteArray out;
            for (const QChar c : (mark ? QString(QChar(0xFEFF)) : QString()) + text)
                for (const int byte : {little ? 0 : 1, little ? 1 : 0})
                    out += static_cast<char>(c.unicode() >> (8 * byte));
            return out;
        };
        QTest::newRow("UTF-8") << text.toUtf8() << "UTF-8";
        QTest::newRow("Windows-1252") << text.toLatin1() << "Windows-1252";
        QTest::newRow("UTF-16 little, marked") << wide(true, true) << "UTF-16, low byte first";
        QTest::newRow("UTF-16 big, marked") << wide(false, true) << "UTF-16, high byte first";
        QTest::newRow("UTF-16 little, unmarked") << wide(true, false) << "UTF-16, low byte first";
    }
    void other_encodings_are_read() {
        QFETCH(QByteArray, content);
        QFETCH(QString, encoding);
        const auto path = file(content);
        const io::TableShape shape = io::sniff_table(path);
        QCOMPARE(QString::fromUtf8(name_of(shape.encoding).data()), encoding);
        QCOMPARE(QString::fromStdString(shape.columns.at(1)), QStringLiteral("lift_µm"));
        QCOMPARE(QString::fromStdString(shape.comment("Prüfstand").value_or("")), QStringLiteral("Süd"));
        NEAR(read(path, {0, 1})[1][1], 2.5, 0);
    }

    void a_long_wide_file_loses_nothing_between_its_pieces() {
        QString text = QStringLiteral("a,b\n");
        for (int i = 0; i < 120000; ++i)
            text += QString::number(i) + QStringLiteral(",0.5\n");
        QByteArray bytes("\xFF\xFE", 2);
        bytes.append(reinterpret_cast<const char*>(text.utf16()), 2 * text.size());
        const auto rows = read(file(bytes), {0});
        QCOMPARE(rows.size(), std::size_t{120000});
        NEAR(rows.back()[0], 119999, 0);
    }

    void what_is_shown_is_utf8_without_steering_bytes() {
        QVERIFY(io::is_utf8("Süd"));
        QVERIFY(!io::is_utf8("S\xFC"
                             "d"));
        QVERIFY(!io::is_utf8("\xC0\x80")); // too long a form of zero
        QCOMPARE(io::shown_path("S\xFC"
                                "d.csv"),
                 std::string("Süd.csv"));
        QCOMPARE(io::printable("a\x1b[31mb\xc2\x9b"
                               "c\td\n"),
                 std::string("a?[31mb??c\td\n"));
    }

    void files_that_are_no_tables_are_refused() {
        CONTAINS(problem_of([&] { io::sniff_table(file("")); }).what, "empty");
        CONTAINS(problem_of([&] { io::sniff_table(file(QByteArray("\x89PNG\0\0\1\2", 8))); }).what,
                 "not a text file");
        CONTAINS(problem_of([&] { io::sniff_table(file("just some words\nand more\n")); }).what,
                 "no row of two or more numbers");
        CONTAINS(problem_of([&] { io::sniff_table("/nowhere/at/all.csv"); }).what, "cannot be read");
        CONTAINS(problem_of([&] { io::sniff_table(folder_.path().toStdString()); }).what, "cannot be read");
    }

    void long_files_are_read_piece_by_piece_with_progress_and_stop() {
        QByteArray content("a,b\n");
        for (int i = 0; i < 200000; ++i)
            content += QByteArray::number(i) + ",0.5\n";
        const auto path = file(content);
        const io::TableShape shape = io::sniff_table(path);
        double sum = 0, last = 0;
        std::size_t rows = 0;
        io::stream_columns(
            path, shape, {0},
            [&](const auto& row, std::size_t) {
                sum += row[0];
                ++rows;
            },
            [&](double share) {
                QVERIFY(share >= last);
                last = share;
            });
        QCOMPARE(rows, std::size_t{200000});
        NEAR(sum, 199999.0 * 200000 / 2, 0);
        NEAR(last, 1, 1e-9);
        std::stop_source source;
        QVERIFY_THROWS_EXCEPTION(Stopped, io::stream_columns(
                                              path, shape, {0},
                                              [&](const auto&, std::size_t) { source.request_stop(); }, {},
                                              source.get_token()));
    }

    void lobe_tables_map_units_by_name() {
        const LobeCurve truth = curve_of(starter_train().lobe);
        QByteArray content("lift_in;crank_deg\n");
        for (int deg = -250; deg <= 250; ++deg)
            content += QByteArray::number(truth.at(radians(deg / 2.0)) / kInch_m, 'f', 6) + ';' +
                       QByteArray::number(deg) + '\n';
        const Lobe lobe = io::read_lobe_csv(file(content)).lobe;
        const auto& table = std::get<LobeTable>(lobe.shape);
        QVERIFY(table.angle_unit == AngleUnit::CrankDegree && table.lift_unit == LiftUnit::Inch);
        NEAR(curve_of(lobe).lift_m(), truth.lift_m(), 2e-6);
    }

    void motion_text_has_both_ends_and_the_asked_step() {
        const Train t = starter_train();
        const RigidMotion rigid(t, curve_of(t.lobe));
        const QStringList lines = QString::fromStdString(io::motion_csv(simulate_one(t, 5000), rigid, 0.25))
                                      .split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 1 + 2881);
        QCOMPARE(lines[0], QStringLiteral("crank_deg,lift_mm,kinematic_mm,cam_N,tip_N,seat_N,spring_N"));
        QVERIFY(lines[1].startsWith(QLatin1String("-360,")));
        QVERIFY(lines.last().startsWith(QLatin1String("360,")));
        NEAR(lines[1441].split(',')[2].toDouble(), rigid.peak_m() * 1e3, 1e-5);
    }

    void a_step_that_does_not_divide_the_cycle_still_ends_at_360() {
        const Train t = starter_train();
        const QStringList lines =
            QString::fromStdString(io::motion_csv(simulate_one(t, 5000), RigidMotion(t, curve_of(t.lobe)), 7))
                .split('\n', Qt::SkipEmptyParts);
        QVERIFY(lines.last().startsWith(QLatin1String("360,")));
        QCOMPARE(lines.size(), 1 + 104);
    }

    void sweep_text_leaves_missing_values_empty() {
        Sweep s;
        auto motion = std::make_shared<Motion>();
        motion->speed_rpm = 6000;
        motion->metrics[Metric::Loft] = 0.1234e-3;
        s.motions.push_back(motion);
        const QStringList lines = QString::fromStdString(io::sweep_csv(s)).split('\n');
        QCOMPARE(lines[0], QStringLiteral("rpm,loft_mm,lift_loss_mm,contact_loss_deg,opening_shift_deg,"
                                          "closing_shift_deg,duration_change_deg,seating_m_per_s,"
                                          "bounce_mm,bounce_count,held_open_mm,seat_ripple_N,surge_mm,cycle_"
                                          "spread_mm,cycles,periodic"));
        QCOMPARE(lines[1], QStringLiteral("6000,0.1234,,,,,,,,,,,,,0,0"));
    }
};

QTEST_GUILESS_MAIN(TestText)
#include "tst_text.moc"
