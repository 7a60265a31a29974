// report, pack and between as others run them: HTML and PDF, the same bytes each time, a pack made, checked
// and answered; what is wrong told with exit 2 and nothing written.
#include "cli/run_cli.h"
#include "support.h"

#include <QTemporaryDir>
#include <fstream>

using namespace bathmos::test;

class TstCliReport : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString project_ = at("demo.bathmos");
    QString at(const char* name) const { return folder_.filePath(QLatin1String(name)); }
    QByteArray bytes(const char* name) const {
        QFile file(at(name));
        return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
    }
    // The exhaust: nothing measured, so seconds.
    Answer report(const QStringList& more) {
        return run(QStringList{"report", project_, "--build", "A22 exhaust", "--date", "2026-04-20"} + more);
    }
    Answer pack(const QStringList& more) { return run(QStringList{"pack", project_} + more); }

  private slots:
    void initTestCase() {
        const Answer ran = run({"import", source_path("demo/project"), project_});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
    }

    void a_report_is_one_file_and_the_same_each_time() {
        Answer ran =
            report({"--out", at("a.html"), "--question", "Where does it stop?", "--who", "R. Sample"});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
        const QByteArray html = bytes("a.html");
        QVERIFY(html.contains("Where does it stop?") && html.contains("<svg") && html.contains("R. Sample"));
        QVERIFY(!html.contains("src=") && !html.contains("<link"));
        ran = report({"--out", at("b.html"), "--question", "Where does it stop?", "--who", "R. Sample"});
        QCOMPARE(bytes("b.html"), html);
        QVERIFY(report({"--out", at("c.html"), "--without", "evidence", "--without", "train"}).code == 0);
        QVERIFY(!bytes("c.html").contains("<svg"));
    }

    void a_report_is_printed_by_the_program_beside() {
        Answer ran = report({"--out", at("a.pdf")});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
        const QByteArray pdf = bytes("a.pdf");
        QVERIFY(pdf.startsWith("%PDF-") && pdf.trimmed().endsWith("%%EOF") && pdf.size() > 20'000);
        QVERIFY(pdf.contains("(D:20260420000000Z)"));
        QVERIFY(report({"--out", at("b.pdf")}).code == 0);
        QCOMPARE(bytes("b.pdf"), pdf);
    }

    void what_is_wrong_with_a_report_is_told_before_any_work() {
        const auto refused = [&](const QStringList& more, const char* why) {
            const Answer ran = report(more);
            QCOMPARE(ran.code, 2);
            QVERIFY2(ran.error.contains(QLatin1String(why)), qPrintable(ran.error));
        };
        refused({"--out", at("a.docx")}, "neither");
        QVERIFY(!QFile::exists(at("a.docx")));
        refused({"--out", project_}, "replace the input");
        refused({"--out", at("no/such/folder/a.html")}, "folder");
        refused({"--out", at("x.html"), "--without", "weather"}, "weather");
        refused({"--out", at("x.html"), "--run", "99"}, "99 is no run of");
        refused({}, "--out");
        Answer ran =
            run({"report", project_, "--build", "A22 exhaust", "--out", at("x.html"), "--date", "soon"});
        QVERIFY2(ran.code == 2 && ran.error.contains("no date"), qPrintable(ran.error));
        ran = run({"report", project_, "--build", "nowhere", "--out", at("x.html")});
        QCOMPARE(ran.code, 2);
        QVERIFY(ran.error.contains("A22 intake"));
    }

    void a_pack_is_made_checked_and_answered() {
        Answer ran = pack({"--build", "A22 exhaust", "--to", "spring", "--question", "Which spring?", "--out",
                           at("pack"), "--date", "2026-04-20"});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
        QVERIFY(ran.error.contains("no run of this revision"));
        QVERIFY(bytes("pack/page.html").contains("Which spring?"));
        const Json manifest = Json::parse(bytes("pack/manifest.json").toStdString());
        QCOMPARE(manifest["audience"].get<std::string>(), std::string("spring"));
        QCOMPARE(manifest["files"].size(), std::size_t(5));
        ran = pack({"--check", at("pack")});
        QVERIFY2(ran.code == 0 && ran.out.contains("whole and up to date"), qPrintable(ran.error));
        // A zip of the same; then somebody changes a file of the folder.
        QVERIFY(pack({"--build", "A22 exhaust", "--to", "spring", "--question", "Which spring?", "--out",
                      at("pack.zip"), "--date", "2026-04-20"})
                    .code == 0);
        QCOMPARE(pack({"--check", at("pack.zip")}).code, 0);
        QByteArray form = bytes("pack/answer.csv");
        QVERIFY(form.contains("wire_mm,"));
        std::ofstream(at("pack/answer.csv").toStdString()) << form.toStdString() << "\n";
        ran = pack({"--check", at("pack")});
        QCOMPARE(ran.code, 2);
        QVERIFY(ran.out.contains("answer.csv was changed"));
        // The answer: another wire.
        const int from = int(form.indexOf("wire_mm,")) + 8;
        form.replace(from, form.indexOf('\n', from) - from, "4.55");
        std::ofstream(at("answer.csv").toStdString()) << form.toStdString();
        ran = pack({"--answer", at("answer.csv"), "--who", "the maker"});
        QVERIFY2(ran.code == 0 && ran.out.contains("part "), qPrintable(ran.error));
        ran = pack({"--answer", at("answer.csv")});
        QVERIFY(ran.code == 0 && ran.out.contains("nothing new"));
        QVERIFY(run({"log", project_, "--words", "answer maker"}).out.contains("the maker"));
    }

    void a_pack_that_cannot_be_made_leaves_nothing() {
        Answer ran = pack({"--build", "A22 exhaust", "--out", at("empty"), "--quick"});
        QCOMPARE(ran.code, 2);
        QVERIFY2(ran.error.contains("question"), qPrintable(ran.error));
        QVERIFY(!QFile::exists(at("empty")));
        QCOMPARE(pack({"--question", "x", "--to", "baker", "--out", at("y")}).code, 2);
        QCOMPARE(pack({"--question", "x"}).code, 2);
        QCOMPARE(pack({"--check", at("nowhere")}).code, 2);
        QCOMPARE(pack({"--answer", at("demo.bathmos")}).code, 2);
    }

    void what_lies_between_two_states_is_told() {
        const QString summary = at("between.json");
        Answer ran = run({"between", project_, "--build", "A22 intake"});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
        QVERIFY(ran.out.contains("no good state")); // nothing was pulled or run; the locks failed
        QVERIFY(ran.out.contains("marked"));
        ran = run({"between", project_, "--build", "A22 intake", "--good", "1", "--bad", "2", "--summary",
                   summary});
        QVERIFY2(ran.code == 0, qPrintable(ran.error));
        const Json json = Json::parse(bytes("between.json").toStdString());
        QVERIFY(json["changes"][0]["undone_gain_rpm"].get<double>() > 300);
        QVERIFY(json["limit_rpm"]["good"].get<double>() > json["limit_rpm"]["bad"].get<double>());
        QCOMPARE(run({"between", project_, "--build", "A22 intake", "--good", "1", "--bad", "99"}).code, 2);
    }
};

QTEST_GUILESS_MAIN(TstCliReport)
#include "tst_cli_report.moc"
