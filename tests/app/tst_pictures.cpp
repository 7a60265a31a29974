// The pictures of the main views in docs/screenshots are what the program shows: it is run with the demo, as
// a person would, and what it draws is held against them.
#include "support.h"

#include <QDir>
#include <QImage>
#include <QProcess>
#include <QTemporaryDir>

using namespace bathmos::test;

namespace {

// The stated tolerance. Pictures are compared by the mean colours of small cells, so that a glyph drawn a
// shade or a pixel otherwise by another version of a font library is nothing, and a word, a mark or a curve
// elsewhere is something.
constexpr int kCell_px = 8;
constexpr int kShade = 16;          // of 255, in any colour, that a cell may be off
constexpr double kCellsOff = 0.004; // share of cells that may be off by more: 64 of 16000

// A rig that turns is never twice at the same place: its picture is held against its size alone.
const QStringList kAlive = {"rig-live.png"};

constexpr int kPatience_ms = 1500000;

// The picture shrunk to one pixel a cell.
QImage cells(const QImage& picture) {
    return picture.convertToFormat(QImage::Format_RGB32)
        .scaled(picture.width() / kCell_px, picture.height() / kCell_px, Qt::IgnoreAspectRatio,
                Qt::SmoothTransformation);
}

bool apart(QRgb a, QRgb b) {
    return std::abs(qRed(a) - qRed(b)) > kShade || std::abs(qGreen(a) - qGreen(b)) > kShade ||
           std::abs(qBlue(a) - qBlue(b)) > kShade;
}

// "" where two pictures agree, else by how much and where they do not.
QString difference(const QImage& kept, const QImage& drawn) {
    if (kept.size() != drawn.size())
        return QStringLiteral("is %1 by %2, was %3 by %4")
            .arg(drawn.width())
            .arg(drawn.height())
            .arg(kept.width())
            .arg(kept.height());
    const QImage a = cells(kept), b = cells(drawn);
    int off = 0;
    QRect where;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x)
            if (apart(a.pixel(x, y), b.pixel(x, y))) {
                ++off;
                where |= QRect(x * kCell_px, y * kCell_px, kCell_px, kCell_px);
            }
    const double share = double(off) / (a.width() * a.height());
    return share <= kCellsOff ? QString()
                              : QStringLiteral("%1 % of its cells differ, between %2, %3 and %4, %5 px")
                                    .arg(100 * share, 0, 'f', 2)
                                    .arg(where.left())
                                    .arg(where.top())
                                    .arg(where.right())
                                    .arg(where.bottom());
}

// Runs a program with settings of its own.
void run(const QString& program, const QStringList& arguments, const QString& home) {
    QProcess process;
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    for (const char* name : {"XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"})
        environment.insert(QLatin1String(name), home);
    process.setProcessEnvironment(environment);
    process.setProcessChannelMode(QProcess::MergedChannels);
    process.setWorkingDirectory(source_path({}));
    process.start(program, arguments);
    QVERIFY2(process.waitForFinished(kPatience_ms), qPrintable(program));
    QVERIFY2(process.exitCode() == 0, process.readAll().constData());
}

} // namespace

class TestPictures : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

  private slots:
    void initTestCase() {
        const QString demo = folder_.filePath("demo");
        run(source_path("demo/make.sh"), {BATHMOS_CLI, demo}, folder_.path());
        run(BATHMOS_WINDOW, {demo + "/ashgill.bathmos", "--shots", folder_.filePath("shots")},
            folder_.path());
    }

    void a_word_that_moved_is_a_difference_and_the_same_picture_is_none() {
        const QImage kept(source_path("docs/screenshots/train.png"));
        QVERIFY(kept.width() >= 1200);
        QCOMPARE(difference(kept, kept), QString());
        QImage moved = kept;
        const QRect table(860, 100, 360, 250); // full of words, where the strip may be empty
        const QImage piece = kept.copy(table);
        for (int y = 0; y < piece.height(); ++y)
            for (int x = 0; x < piece.width(); ++x)
                moved.setPixel(table.left() + x + 40, table.top() + y, piece.pixel(x, y));
        QVERIFY(difference(kept, moved).contains("of its cells differ"));
        QVERIFY(difference(kept, kept.scaled(640, 400)).contains("is 640 by 400"));
    }

    void every_view_is_drawn_as_its_picture_shows_data() {
        QTest::addColumn<QString>("name");
        for (const QString& name : QDir(source_path("docs/screenshots")).entryList({"*.png"}))
            QTest::newRow(qPrintable(name)) << name;
    }
    void every_view_is_drawn_as_its_picture_shows() {
        QFETCH(QString, name);
        const QImage kept(source_path("docs/screenshots/" + name)), drawn(folder_.filePath("shots/" + name));
        QVERIFY(!kept.isNull() && !drawn.isNull());
        if (kAlive.contains(name)) {
            QCOMPARE(drawn.size(), kept.size());
            return;
        }
        const QString off = difference(kept, drawn);
        if (!off.isEmpty())
            drawn.save(QDir::temp().filePath("bathmos-" + name)); // to be looked at
        QVERIFY2(off.isEmpty(), qPrintable(off + "; ./dev shots draws them anew"));
    }

    void no_view_is_without_its_picture() {
        QCOMPARE(QDir(folder_.filePath("shots")).entryList({"*.png"}),
                 QDir(source_path("docs/screenshots")).entryList({"*.png"}));
    }
};

QTEST_GUILESS_MAIN(TestPictures)
#include "tst_pictures.moc"
