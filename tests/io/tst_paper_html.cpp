// Papers as HTML and SVG: every word is there and harmless, points stand where their values say, the same
// values make the same bytes; a paper comes back from its way to the printer.
#include "io/paper/chart_svg.h"
#include "io/paper/paper_html.h"
#include "io/paper/printed_paper.h"
#include "support.h"

#include <QRegularExpression>
#include <QXmlStreamReader>
#include <set>

using namespace bathmos;
using namespace bathmos::paper;
using namespace bathmos::test;

namespace {

// Elements of an SVG with their attributes; stops the test where it is no XML.
struct Element {
    QString name, text;
    QXmlStreamAttributes at;
    double number(const char* key) const { return at.value(QLatin1String(key)).toDouble(); }
};
std::vector<Element> elements_of(const std::string& svg) {
    std::vector<Element> out;
    QXmlStreamReader reader(QString::fromStdString(svg));
    while (!reader.atEnd()) {
        reader.readNext();
        if (reader.isStartElement())
            out.push_back({reader.name().toString(), {}, reader.attributes()});
        else if (reader.isCharacters() && !out.empty())
            out.back().text += reader.text();
    }
    if (reader.hasError())
        qFatal("%s", qPrintable(reader.errorString()));
    return out;
}
std::vector<Element> named(const std::vector<Element>& all, const char* name) {
    std::vector<Element> out;
    for (const Element& one : all)
        if (one.name == QLatin1String(name))
            out.push_back(one);
    return out;
}
const Element& with_text(const std::vector<Element>& all, const QString& text) {
    for (const Element& one : all)
        if (one.name == "text" && one.text.trimmed() == text)
            return one;
    qFatal("no text %s", qPrintable(text));
}
Chart straight() {
    return {"Bounce by speed",
            "crank speed, rev/min",
            "bounce, mm",
            {{"computed", {100, 200}, {0, 5}, Pen::Firm}}};
}
std::vector<QPointF> points_of(const Element& polyline) {
    std::vector<QPointF> out;
    for (const QString& one : polyline.at.value("points").toString().split(' ', Qt::SkipEmptyParts))
        out.emplace_back(one.section(',', 0, 0).toDouble(), one.section(',', 1, 1).toDouble());
    return out;
}

} // namespace

class TstPaperHtml : public QObject {
    Q_OBJECT

  private slots:
    void what_html_takes_for_its_own_is_harmless() {
        QCOMPARE(io::html_text("<b> & \"x\"\n\x1b"), std::string("&lt;b&gt; &amp; &quot;x&quot; "));
        Paper paper;
        paper.title = "<script>alert(1)</script>";
        paper.words("a < b\nsecond line");
        paper.add(Table{"", {"<i>"}, {{"<img src=x>"}}, 1, {}});
        paper.add(Points{{"<li>"}});
        Chart chart = straight();
        chart.title = "<svg/onload=x>";
        chart.curves.front().name = "a & b";
        paper.add(chart);
        const std::string html = io::paper_html(paper);
        for (const char* bad : {"<script", "<img src=x", "<svg/onload", "<i>"})
            QVERIFY2(!contains(html, bad), bad);
        CONTAINS(html, "a &lt; b<br>second line");
        CONTAINS(html, "a &amp; b");
    }

    void one_file_needs_no_other() {
        Paper paper;
        paper.add(straight());
        const std::string html = io::paper_html(paper);
        for (const char* elsewhere : {"http-equiv", "<link", "<script", "url(", "src="})
            QVERIFY2(!contains(html, elsewhere), elsewhere);
        QCOMPARE(QString::fromStdString(html).count("<svg"), 1);
        QCOMPARE(html, io::paper_html(paper)); // byte by byte
    }

    void points_stand_where_their_values_say() {
        const auto all = elements_of(io::chart_svg(straight()));
        const auto lines = named(all, "polyline");
        QCOMPARE(lines.size(), std::size_t(1));
        const auto points = points_of(lines[0]);
        QCOMPARE(points.size(), std::size_t(2));
        // The numbers of the axes stand at the same places as the values.
        NEAR(points[0].x(), with_text(all, "100").number("x"), 0.11);
        NEAR(points[1].x(), with_text(all, "200").number("x"), 0.11);
        NEAR(points[1].y(), with_text(all, "5").number("y") - 4, 0.11);
        NEAR(points[0].y(), with_text(all, "0").number("y") - 4, 0.11);
    }

    void what_rises_over_the_picture_is_cut_where_it_leaves() {
        Chart chart = straight();
        chart.curves = {{"a", {0, 10, 20, 30}, {0, 10, 10, 0}, Pen::Firm}};
        chart.most_y = 5;
        const auto lines = named(elements_of(io::chart_svg(chart)), "polyline");
        QCOMPARE(lines.size(), std::size_t(2)); // up to 5 at x = 5, and again from x = 25
        const auto up = points_of(lines[0]), down = points_of(lines[1]);
        const double per_x = (down[1].x() - up[0].x()) / 30;
        NEAR(up[1].x(), up[0].x() + 5 * per_x, 0.2);
        NEAR(down[0].x(), up[0].x() + 25 * per_x, 0.2);
        NEAR(up[1].y(), down[0].y(), 0.01);
        // Readings are single: none is made up at the edge.
        chart.curves.front().pen = Pen::Marks;
        const auto circles = named(elements_of(io::chart_svg(chart)), "circle");
        QCOMPARE(circles.size(), std::size_t(3)); // two, and the legend's
    }

    void a_value_that_is_none_breaks_the_line() {
        Chart chart = straight();
        chart.curves = {{"a", {0, 1, 2, 3, 4}, {1, 2, std::nan(""), 2, 1}, Pen::Dashed}};
        QCOMPARE(named(elements_of(io::chart_svg(chart)), "polyline").size(), std::size_t(2));
        chart.curves.clear();
        elements_of(io::chart_svg(chart)); // empty: still a picture
    }

    void curves_are_told_apart_without_colour() {
        Chart chart = straight();
        chart.curves = {{"a", {0, 1}, {0, 1}, Pen::Firm},
                        {"b", {0, 1}, {1, 2}, Pen::Dashed},
                        {"c", {0, 1}, {2, 3}, Pen::Dotted}};
        std::set<QString> pens;
        for (const Element& line : named(elements_of(io::chart_svg(chart)), "polyline"))
            pens.insert(line.at.value("stroke-dasharray").toString());
        QCOMPARE(pens.size(), std::size_t(3));
    }

    void names_of_marks_that_are_near_stand_under_each_other() {
        Chart chart = straight();
        chart.upright = {{150, "computed limit"}, {152, "measured limit"}, {199, "power breaks, 7662"}};
        const auto all = elements_of(io::chart_svg(chart));
        const double first = with_text(all, "computed limit").number("y"),
                     second = with_text(all, "measured limit").number("y");
        QVERIFY(second > first + 10);
        const Element& last = with_text(all, "power breaks, 7662"); // at the edge: to the left
        QCOMPARE(last.at.value("text-anchor").toString(), QString("end"));
        QVERIFY(last.number("x") < io::kChartWidth);
    }

    void a_paper_comes_back_from_its_way_to_the_printer() {
        Paper paper;
        paper.title = "A22 \"intake\" ± é";
        paper.words("careful", Words::Role::Caution);
        paper.add(straight());
        const io::PrintedPaper printed = io::printed(paper, "2026-02-27");
        QCOMPARE(printed.charts.size(), std::size_t(1));
        CONTAINS(printed.html, "chart:0");
        QVERIFY(!contains(printed.html, "<svg"));
        const io::PrintedPaper back = io::parse_printed(io::printed_text(printed), "p.json");
        QCOMPARE(back.title, printed.title);
        QCOMPARE(back.html, printed.html);
        QCOMPARE(back.charts, printed.charts);
        QCOMPARE(back.date, printed.date);
        const auto refused = [](const char* text) {
            return problem_of([&] { io::parse_printed(text, "p.json"); });
        };
        QCOMPARE(refused("[").source, std::string("p.json"));
        CONTAINS(refused(R"({"title":"a","date":"b","html":"c","charts":[1]})").what, "no text");
        QCOMPARE(refused(R"({"title":"a","date":"b","charts":[]})").location, std::string("html"));
    }
};

QTEST_APPLESS_MAIN(TstPaperHtml)
#include "tst_paper_html.moc"
