// A report: its numbers are those of model, rig and dyno, chapters stand or are left out, the same facts make
// the same page, nothing old is told as new.
#include "io/paper/paper_html.h"
#include "session/judged_demo.h"
#include "session/report/report_charts.h"

#include <QRegularExpression>
#include <memory>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::session;

namespace {

paper::Table table_with(const paper::Paper& paper, const std::string& head) {
    for (const paper::Block& block : paper.blocks)
        if (const auto* table = std::get_if<paper::Table>(&block))
            if (std::ranges::find(table->heads, head) != table->heads.end())
                return *table;
    throw std::runtime_error("no table with " + head);
}
paper::Chart chart_of(const paper::Paper& paper, const std::string& title) {
    for (const paper::Chart* chart : paper::charts_of(paper))
        if (contains(chart->title, title))
            return *chart;
    throw std::runtime_error("no chart of " + title);
}
std::vector<std::string> headings_of(const paper::Paper& paper) {
    std::vector<std::string> out;
    for (const paper::Block& block : paper.blocks)
        if (const auto* heading = std::get_if<paper::Heading>(&block))
            out.push_back(heading->text);
    return out;
}

} // namespace

class TstReport : public QObject {
    Q_OBJECT
    std::unique_ptr<JudgedDemo> demo_;
    ReportAsked asked_{"", "R. Sample", "2026-04-20", {}, UnitSystem::Metric};
    paper::Paper report() const { return report_of(demo_->input, demo_->facts, asked_); }

  private slots:
    void initTestCase() { demo_ = std::make_unique<JudgedDemo>(); }
    void init() { asked_ = {"", "R. Sample", "2026-04-20", {}, UnitSystem::Metric}; }

    void a_page_says_its_language_and_writes_the_numbers_of_its_charts_so() {
        CONTAINS(io::paper_html(report()), "<html lang=\"en\">");
        asked_.language = {"de", ',', {}};
        const std::string html = io::paper_html(report());
        CONTAINS(html, "<html lang=\"de\">");
        QVERIFY2(QString::fromStdString(html).contains(QRegularExpression("text-anchor=\"end\">\\d+,\\d+<")),
                 "no axis with a comma");
        QVERIFY(
            !QString::fromStdString(html).contains(QRegularExpression("text-anchor=\"end\">\\d+\\.\\d+<")));
    }

    void claims_are_those_of_model_rig_and_dyno() {
        const CaseFile& file = demo_->facts.file;
        const paper::Table claims = table_with(report(), "source");
        const auto speed = [&](const std::string& source) {
            for (const auto& row : claims.rows)
                if (row[0].starts_with(source))
                    return std::stod(row[2]);
            return 0.0;
        };
        QVERIFY(file.model->limit_rpm && file.rig->limit_rpm);
        NEAR(speed("model"), *file.model->limit_rpm, 0.5);
        NEAR(speed("rig:"), *file.rig->limit_rpm, 0.5);
        NEAR(speed("dyno"), dyno_break(file)->speed_rpm, 0.5);
        QVERIFY(speed("dyno") > 7500 && speed("dyno") < 7900); // as the demo's pulls were made
        // The likeliest cause stands first, with what speaks for it.
        const paper::Table causes = table_with(report(), "cause");
        QCOMPARE(causes.rows[0][0],
                 std::string(info(demo_->facts.verdict.weighing.causes.front().cause).label));
        QVERIFY(!causes.rows[0][1].empty());
        CONTAINS(io::paper_html(report()), demo_->facts.verdict.answer.substr(0, 30));
    }

    void a_band_is_told_only_of_what_is_in_force() {
        const auto known = [&](const ReportInput& input) {
            return table_with(report_of(input, demo_->facts, asked_), "source").rows[0][3];
        };
        ReportInput input = demo_->input;
        Prediction made;
        made.revision = 2;
        made.low_rpm = 7700;
        made.high_rpm = 8100;
        made.hash = "of another range";
        input.of.project.predictions[1] = made;
        const auto trace = [&](Id id) { return demo_->store.trace(id); };
        QVERIFY(!contains(known(gather_report(input.of, trace)), "7700"));
        input.of.project.predictions[1].hash = hash_of(
            SweepInputs{input.of.project.revisions.at(2).assembly.train, input.of.range, input.of.limits});
        CONTAINS(known(gather_report(input.of, trace)), "7700 to 8100");
    }

    void pictures_show_what_was_computed_and_measured() {
        const paper::Paper paper = report();
        const paper::Chart bounce = chart_of(paper, "Bounce by speed");
        const auto rows = rows_of(demo_->facts.swept->motions);
        QCOMPARE(bounce.curves[0].x.size(), rows.size());
        for (std::size_t i = 0; i < rows.size(); ++i)
            NEAR(bounce.curves[0].y[i], *rows[i].metrics.in_unit(Metric::Bounce), 1e-9);
        QCOMPARE(bounce.curves[1].name, std::string("measured"));
        QCOMPARE(bounce.curves[1].x.size(), demo_->facts.file.rig->rows.size());
        const Limit* limit = demo_->input.of.limits.find(Metric::Bounce);
        QVERIFY(limit);
        NEAR(bounce.level.front().at, limit->above, 1e-9);
        const paper::Chart lift = chart_of(paper, "Lift of the valve");
        NEAR(*std::ranges::max_element(lift.curves[0].y),
             *std::ranges::max_element(demo_->facts.rigid_m) * 1e3, 0.01);
        QCOMPARE(chart_of(paper, "Power").curves.size(), std::size_t(4)); // two pulls of each state
        // In inches the curve is the same.
        asked_.units = UnitSystem::Inch;
        const paper::Paper inches = report();
        NEAR(chart_of(inches, "Lift of the valve").curves[0].y[180] * 25.4, lift.curves[0].y[180], 1e-9);
        NEAR(chart_of(inches, "Bounce by speed").level.front().at * 25.4, limit->above, 1e-9);
    }

    void changes_stand_with_what_they_gained() {
        const paper::Table steps = table_with(report(), "what changed");
        QCOMPARE(steps.rows.size(), std::size_t(2));
        CONTAINS(steps.rows[1][2], "1.24");
        NEAR(std::stod(steps.rows[1][3]), *demo_->facts.limits_rpm.at(2), 0.5);
        QVERIFY(demo_->facts.limits_rpm.contains(1));
        const paper::Chart chart = chart_of(report(), "Limit speed by revision");
        QVERIFY(chart.whole_x);
        NEAR(chart.level.front().at, 8600, 1e-9); // what is wanted
    }

    void chapters_stand_in_order_or_are_left_out() {
        const auto all = headings_of(report());
        QCOMPARE(all.front(), std::string("Question"));
        QCOMPARE(all[1], std::string("Answer"));
        QCOMPARE(all.back(), std::string("Take care"));
        asked_.without = {Chapter::Life, Chapter::Record, Chapter::Train};
        const auto fewer = headings_of(report());
        QCOMPARE(fewer.size(), all.size() - 3);
        QVERIFY(std::ranges::find(fewer, "Life of parts") == fewer.end());
        for (const ChapterInfo& one : chapters())
            asked_.without.insert(one.chapter);
        QCOMPARE(headings_of(report()).size(), std::size_t(3)); // question, answer, cautions always
        QVERIFY(find_chapter("evidence") == Chapter::Evidence && !find_chapter("weather"));
    }

    void the_question_is_the_senders_or_the_verdicts() {
        CONTAINS(io::paper_html(report()), demo_->facts.verdict.question);
        asked_.question = "Do the <new> rods cost us the top end?";
        const std::string html = io::paper_html(report());
        CONTAINS(html, "Do the &lt;new&gt; rods cost us the top end?");
        QVERIFY(!contains(html, demo_->facts.verdict.question));
        CONTAINS(html, "R. Sample");
    }

    void the_same_facts_make_the_same_page_but_for_its_date() {
        const std::string once = io::paper_html(report());
        QCOMPARE(io::paper_html(report()), once);
        asked_.without = {Chapter::Life}; // ages are those of that day
        const std::string here = io::paper_html(report());
        asked_.date = "2026-04-21";
        std::string other = io::paper_html(report());
        for (std::size_t at = other.find("2026-04-21"); at != std::string::npos;
             at = other.find("2026-04-21"))
            other.replace(at, 10, "2026-04-20");
        QCOMPARE(other, here);
    }

    void a_stop_and_a_part_near_its_end_are_told() {
        ReportFacts facts = demo_->facts;
        Finding stop{Severity::Stop, "springs", "coils meet at full lift", "they break"};
        facts.file.findings.push_back(stop);
        CONTAINS(io::paper_html(report_of(demo_->input, facts, asked_)), "STOP: coils meet at full lift");
        const paper::Table life = table_with(report(), "used"); // locks: 66 of 80 runs in the demo
        QVERIFY(std::ranges::any_of(life.rows, [](const auto& row) { return contains(row[4], "(due)"); }));
    }

    // Pulls with boost: the limit is with it, the band that was computed without is not told as its own.
    void pressure_that_the_pulls_show_is_named_beside_the_limit() {
        ReportInput input = demo_->input;
        Prediction made;
        made.revision = 2;
        made.low_rpm = 7700;
        made.high_rpm = 8100;
        input.of.project.predictions = {{1, made}};
        input.predicted_now = true;
        ReportFacts facts = demo_->facts;
        CONTAINS(io::paper_html(report_of(input, facts, asked_)), "7700 to 8100");
        facts.file.model->head_Pa = 55e3;
        *facts.file.model->limit_rpm -= 300;
        const paper::Paper paper = report_of(input, facts, asked_);
        const paper::Table claims = table_with(paper, "source");
        CONTAINS(claims.rows[0][0], "55.0 kPa on the head");
        QVERIFY(!contains(claims.rows[0][3], "7700"));
        const std::string html = io::paper_html(paper);
        CONTAINS(html, "without the pressure on the valve's head");
        // The mark on a curve is that curve's own.
        const paper::Chart bounce = chart_of(paper, "Bounce by speed");
        NEAR(bounce.upright.front().at, *facts.swept->summary.limit.speed_rpm, 1e-9);
    }

    void the_run_that_a_case_rests_on_is_there_however_old() {
        const auto trace = [&](Id id) { return demo_->store.trace(id); };
        CaseInput of = gather_case(demo_->store.project(), 2, trace);
        const Id rests_on = of.rig_run;
        for (Id more = 1; more <= 9; ++more) // nine newer ones of the first revision
            of.project.of(EntryKind::RigRun)[rests_on + more] =
                of.project.of(EntryKind::RigRun).begin()->second;
        const auto there = [&] {
            const ReportInput input = gather_report(of, trace);
            return std::ranges::count(input.runs, rests_on, &RunInput::id);
        };
        QCOMPARE(there(), std::ptrdiff_t(1));
        of.project.of(EntryKind::RigRun).at(rests_on).words["hidden"] = "1";
        QCOMPARE(there(), std::ptrdiff_t(1));
    }

    void another_run_of_the_revision_can_be_chosen() {
        const auto trace = [&](Id id) { return demo_->store.trace(id); };
        CaseInput of = gather_case(demo_->store.project(), 2, trace);
        Project& project = of.project;
        const Id last = of.rig_run;
        Entry first = project.of(EntryKind::RigRun).at(last);
        project.of(EntryKind::RigRun)[last + 1] = first; // a run more, and the case rests on the one before
        of.rig_run = last + 1;
        rest_on(of, last, trace);
        QCOMPARE(of.rig_run, last);
        QVERIFY(of.traces.contains(first.traces.front()));
        const Id other = project.of(EntryKind::RigRun).begin()->first; // of the first revision
        CONTAINS(problem_of([&] { rest_on(of, other, trace); }).what, "is no run of r2");
        QCOMPARE(of.rig_run, last);
    }

    void a_train_without_anything_measured_has_a_report_too() {
        const auto trace = [&](Id id) { return demo_->store.trace(id); };
        CaseInput of = gather_case(demo_->store.project(), 3, trace); // the exhaust: no run, no pull
        of.range = {6600, 8600, 500};
        const ReportInput input = gather_report(std::move(of), trace);
        QVERIFY(input.runs.empty());
        const ReportFacts facts = study_report(input, demo_->results);
        const std::string html = io::paper_html(report_of(input, facts, asked_));
        CONTAINS(html, "Bounce by speed");
        QVERIFY(!contains(html, "measured limit") && !contains(html, "Power on the dyno"));
    }
};

QTEST_APPLESS_MAIN(TstReport)
#include "tst_report.moc"
