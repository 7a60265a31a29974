// Papers as PDF: the same paper makes the same bytes, its date is the one given, its pictures are lines and
// its words can be found.
#include "core/paper/paper.h"
#include "io/file/safe_file.h"
#include "print/fonts.h"
#include "print/paper_document.h"
#include "print/paper_pdf.h"
#include "support.h"

#include <QImage>
#include <QPainter>
#include <QTemporaryDir>
#include <QTextDocument>

using namespace bathmos;
using namespace bathmos::test;

namespace {

paper::Paper page(int rows) {
    paper::Paper out;
    out.title = "A22 intake r2";
    out.line = "Valve train report";
    out.heading("Answer");
    out.words("From about 7660 rev/min it bounces.", paper::Words::Role::Answer);
    paper::Table table{"", {"what", "value"}, {}, 1, {70, 30}};
    for (int i = 0; i < rows; ++i)
        table.rows.push_back({"row " + std::to_string(i), std::to_string(i * 7)});
    out.add(table);
    out.add(paper::Chart{"Bounce by speed",
                         "crank speed, rev/min",
                         "bounce, mm",
                         {{"computed", {3000, 6000, 9000}, {0, 0.1, 0.5}, paper::Pen::Firm}}});
    out.words("Take care.", paper::Words::Role::Caution);
    return out;
}
int dark_points(const QImage& image, const QRect& where) {
    int out = 0;
    for (int y = where.top(); y <= where.bottom(); ++y)
        for (int x = where.left(); x <= where.right(); ++x)
            out += qGray(image.pixel(x, y)) < 128;
    return out;
}

} // namespace

class TstPaperPdf : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::string written(const paper::Paper& paper, const std::string& date) {
        const std::filesystem::path path = folder_.filePath("page.pdf").toStdString();
        print::write_paper_pdf(path, io::printed(paper, date));
        return io::read_file(path);
    }

  private slots:
    void initTestCase() { QVERIFY(print::load_fonts()); }

    void the_same_paper_makes_the_same_bytes() {
        const std::string once = written(page(5), "2026-02-27");
        QTest::qWait(1100); // another second on the clock
        QCOMPARE(written(page(5), "2026-02-27"), once);
        CONTAINS(once, "(D:20260227000000Z)");
        const std::string later = written(page(5), "2026-03-01");
        QCOMPARE(later.size(), once.size());
        std::size_t differ = 0;
        for (std::size_t i = 0; i < once.size(); ++i)
            differ += once[i] != later[i];
        QVERIFY(differ > 0 && differ <= 4); // 0227 and 0301
    }

    void a_long_paper_takes_more_pages() {
        const auto pages = [&](int rows) {
            return QString::fromStdString(written(page(rows), "2026-02-27")).count("/Type /Page\n");
        };
        QCOMPARE(pages(3), 1);
        QVERIFY(pages(200) >= 4);
    }

    void pictures_are_drawn_where_they_stand() {
        const auto document = print::document_of(io::printed(page(2), "2026-02-27"));
        CONTAINS(document->toPlainText().toStdString(), "it bounces");
        document->setTextWidth(760);
        const QSizeF size = document->size();
        QVERIFY(size.height() > 400);
        QImage image(760, int(size.height()) + 1, QImage::Format_RGB32);
        image.fill(Qt::white);
        QPainter painter(&image);
        document->drawContents(&painter);
        painter.end();
        // The chart takes 330 px above the caution; its frame and curve leave dark points all over its width.
        int columns = 0;
        for (int x = 80; x < 660; x += 20)
            columns += dark_points(image, {x, int(size.height()) - 380, 20, 320}) > 0;
        QVERIFY2(columns >= 25, qPrintable(QString::number(columns)));
        // Without its picture there is nothing.
        io::PrintedPaper blank = io::printed(page(2), "2026-02-27");
        blank.charts.clear();
        const auto without = print::document_of(blank);
        without->setTextWidth(760);
        QImage empty(image.size(), QImage::Format_RGB32);
        empty.fill(Qt::white);
        QPainter second(&empty);
        without->drawContents(&second);
        second.end();
        QVERIFY(dark_points(image, image.rect()) > dark_points(empty, image.rect()) + 500);
    }

    void what_cannot_be_written_is_told() {
        const InputProblem problem = problem_of([&] {
            print::write_paper_pdf(folder_.filePath("no/such.pdf").toStdString(), io::printed(page(1), ""));
        });
        CONTAINS(problem.source, "such.pdf");
    }
};

QTEST_MAIN(TstPaperPdf)
#include "tst_paper_pdf.moc"
