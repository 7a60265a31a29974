// Papers as values: round scales, the range of a chart, pictures in their order.
#include "core/paper/paper.h"
#include "support.h"

#include <limits>

using namespace bathmos;
using namespace bathmos::paper;

class TstPaper : public QObject {
    Q_OBJECT

  private slots:
    void a_paper_is_spoken_in_a_language_and_what_people_wrote_is_not() {
        Paper paper;
        paper.title = own_words("Spring report");
        paper.heading("spring");
        paper.words("the spring of " + own_words("the spring shop") + " and " + own_words("A. spring"));
        paper.add(Points{{"spring", own_words("spring")}});
        paper.add(Table{"spring", {"spring"}, {{"spring", own_words("spring") + own_words("")}}});
        Chart chart{"spring", "spring, mm", "spring", {{"spring", {1}, {2}, Pen::Firm}}};
        chart.upright = {{1, "spring"}};
        chart.level = {{2, own_words("spring")}};
        paper.add(chart);
        const auto german = [](std::string_view text) {
            std::string out(text);
            for (std::size_t at = 0; (at = out.find("spring", at)) != out.npos;)
                out.replace(at, 6, "Feder");
            return out;
        };
        const Paper spoken_paper = spoken(paper, {"de", ',', german});
        QCOMPARE(spoken_paper.language, std::string("de"));
        QCOMPARE(spoken_paper.title, std::string("Spring report"));
        const auto& blocks = spoken_paper.blocks;
        QCOMPARE(std::get<Heading>(blocks[0]).text, std::string("Feder"));
        QCOMPARE(std::get<Words>(blocks[1]).text, std::string("the Feder of the spring shop and A. spring"));
        QCOMPARE(std::get<Points>(blocks[2]).items, (std::vector<std::string>{"Feder", "spring"}));
        const Table& table = std::get<Table>(blocks[3]);
        QCOMPARE(table.title + table.heads[0] + table.rows[0][0] + table.rows[0][1],
                 std::string("FederFederFederspring"));
        const Chart& drawn = std::get<Chart>(blocks[4]);
        QCOMPARE(drawn.decimal, ',');
        QCOMPARE(drawn.title + drawn.x_label + drawn.y_label + drawn.curves[0].name,
                 std::string("FederFeder, mmFederFeder"));
        QCOMPARE(drawn.upright[0].name + drawn.level[0].name, std::string("Federspring"));
        // A translation may put them in another order; without one the marks are gone, and nothing else.
        const auto turned = [](std::string_view text) {
            const std::size_t end = text.find(" and ");
            return end == text.npos
                       ? std::string(text)
                       : std::string(text.substr(end + 5)) + " und " + std::string(text.substr(0, end));
        };
        QCOMPARE(std::get<Words>(spoken(paper, {"de", ',', turned}).blocks[1]).text,
                 std::string("A. spring und the spring of the spring shop"));
        Paper pasted;
        pasted.words("spring: " + own_words("a \u2069spring\u2068 of ours"));
        QCOMPARE(std::get<Words>(spoken(pasted, {"de", ',', german}).blocks[0]).text,
                 std::string("Feder: a spring of ours"));
        const Paper english = spoken(paper, {});
        QCOMPARE(english.language, std::string("en"));
        QCOMPARE(std::get<Words>(english.blocks[1]).text,
                 std::string("the spring of the spring shop and A. spring"));
    }

    void scales_step_by_one_two_or_five() {
        const Scale speeds = round_scale(3007, 8600, 8);
        QCOMPARE(speeds.step, 500.0);
        QCOMPARE(speeds.first, 3000.0);
        QCOMPARE(speeds.last, 9000.0);
        QCOMPARE(speeds.decimals, 0);
        const Scale small = round_scale(0, 0.0031, 5);
        NEAR(small.step, 0.0005, 1e-12);
        QCOMPARE(small.decimals, 4);
        NEAR(small.last, 0.0035, 1e-12);
        const Scale below = round_scale(-0.24, 0.1, 5);
        NEAR(below.first, -0.25, 1e-12);
        NEAR(below.step, 0.05, 1e-12);
        // What lies on a step needs no step more.
        const Scale even = round_scale(0, 10, 5);
        QCOMPARE(even.first, 0.0);
        QCOMPARE(even.last, 10.0);
    }

    void any_range_is_held_by_few_steps() {
        for (double size = 1e-6; size < 1e7; size *= 3.7)
            for (double from = -2 * size; from <= 2 * size; from += 0.31 * size) {
                const Scale scale = round_scale(from, from + size, 6);
                QVERIFY(scale.first <= from + 1e-9 * size && scale.last >= from + size - 1e-9 * size);
                const double steps = (scale.last - scale.first) / scale.step;
                QVERIFY2(steps >= 3 && steps <= 11, qPrintable(QString::number(steps)));
                NEAR(std::remainder(scale.first, scale.step), 0, 1e-6 * scale.step);
            }
    }

    void one_value_gets_room_and_what_is_counted_whole_steps() {
        const Scale one = round_scale(7, 7, 5);
        QVERIFY(one.first < 7 && one.last > 7);
        QVERIFY(round_scale(0, 0, 5).last > 0);
        QCOMPARE(round_scale(1, 2, 8, 1).step, 1.0);
        QCOMPARE(round_scale(1, 40, 8, 1).step, 5.0);
    }

    void the_range_of_a_chart_holds_curves_and_marks() {
        const double none = std::numeric_limits<double>::quiet_NaN();
        Chart chart;
        QCOMPARE(range_of(chart).x_to, 1.0); // empty
        chart.curves = {{"a", {1, 2, none, 4}, {5, none, 9, 7}, Pen::Firm}, {"b", {3}, {100}, Pen::Marks}};
        chart.upright = {{6, "limit"}};
        chart.level = {{-1, "zero"}};
        QCOMPARE(range_of(chart).x_from, 1.0);
        QCOMPARE(range_of(chart).x_to, 6.0);
        QCOMPARE(range_of(chart).y_from, -1.0);
        QCOMPARE(range_of(chart).y_to, 100.0);
        chart.most_y = 20;
        QCOMPARE(range_of(chart).y_to, 20.0);
    }

    void pictures_come_in_their_order() {
        Paper paper;
        paper.heading("one");
        paper.add(Chart{"first", "", "", {}});
        paper.words("between");
        paper.add(Chart{"second", "", "", {}});
        const auto charts = charts_of(paper);
        QCOMPARE(charts.size(), std::size_t(2));
        QCOMPARE(charts[1]->title, std::string("second"));
    }
};

QTEST_APPLESS_MAIN(TstPaper)
#include "tst_paper.moc"
