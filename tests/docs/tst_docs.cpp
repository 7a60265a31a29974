// The docs are true where that can be told: sources that the code names are there, links lead somewhere.
#include "support.h"

#include <QDirIterator>
#include <QRegularExpression>
#include <QSet>

using namespace bathmos::test;

namespace {

QString text_of(const QString& relative) {
    QFile file(source_path(relative));
    return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

QStringList code() {
    QStringList out;
    for (const char* folder : {"src", "tests", "bench"}) {
        QDirIterator it(source_path(QLatin1String(folder)), {"*.cpp", "*.h"}, QDir::Files,
                        QDirIterator::Subdirectories);
        while (it.hasNext())
            out.push_back(it.next());
    }
    return out;
}

} // namespace

class TstDocs : public QObject {
    Q_OBJECT

  private slots:
    void every_section_of_the_physics_that_code_names_is_there() {
        const QString physics = text_of("docs/physics.md");
        QSet<QString> sections;
        auto headings =
            QRegularExpression("^## (\\d+)\\. ", QRegularExpression::MultilineOption).globalMatch(physics);
        while (headings.hasNext())
            sections.insert(headings.next().captured(1));
        QCOMPARE(sections.size(), qsizetype{10});
        int named = 0;
        const QRegularExpression source("physics\\.md (\\d+)(?:(?: and |, )(\\d+)\\b)?");
        for (const QString& path : code()) {
            QFile file(path);
            QVERIFY(file.open(QIODevice::ReadOnly));
            auto found = source.globalMatch(QString::fromUtf8(file.readAll()));
            while (found.hasNext()) {
                const auto match = found.next();
                for (int i = 1; i <= match.lastCapturedIndex(); ++i, ++named)
                    QVERIFY2(sections.contains(match.captured(i)),
                             qPrintable(path + ": physics.md " + match.captured(i)));
            }
        }
        QVERIFY(named > 20);
    }

    void every_author_that_code_cites_stands_in_the_bibliography() {
        const QString physics = text_of("docs/physics.md");
        const QString books = physics.mid(physics.indexOf("## Bibliography"));
        const QRegularExpression cited(
            "\\[([A-Z][a-z]+(?: & [A-Z][a-z]+)? \\d{4})|\\[(Norton|W|S|J|N|HC|E|D|F|R|H)[\\],]");
        int named = 0;
        for (const QString& path : code()) {
            if (!path.contains("/src/"))
                continue;
            QFile file(path);
            QVERIFY(file.open(QIODevice::ReadOnly));
            const QString text = QString::fromUtf8(file.readAll());
            for (const QString& line : text.split('\n')) {
                if (!line.trimmed().startsWith("//"))
                    continue;
                auto found = cited.globalMatch(line);
                while (found.hasNext()) {
                    const auto match = found.next();
                    const QString key = match.captured(1).isEmpty() ? match.captured(2) : match.captured(1);
                    ++named;
                    QVERIFY2(books.contains(key), qPrintable(path + ": " + key));
                }
            }
        }
        QVERIFY(named > 5);
    }

    void links_between_docs_lead_to_files() {
        const QRegularExpression link("\\]\\(([^)#:]+)\\)");
        for (const char* page :
             {"README.md", "CONTRIBUTING.md", "docs/architecture.md", "docs/physics.md", "docs/glossary.md",
              "docs/verdict.md", "docs/format.md", "docs/accuracy.md"}) {
            const QString folder = QFileInfo(source_path(QLatin1String(page))).path();
            auto found = link.globalMatch(text_of(QLatin1String(page)));
            while (found.hasNext()) {
                const QString to = found.next().captured(1);
                QVERIFY2(QFileInfo::exists(folder + '/' + to), qPrintable(QLatin1String(page) + ": " + to));
            }
        }
    }

    void the_words_that_were_left_behind_do_not_come_back() {
        const QRegularExpression old("tr\\(\"[^\"]*\\b(asked, predicted|own frequency|of the give|cycle "
                                     "spread|rig edge|model edge)\\b");
        for (const QString& path : code()) {
            QFile file(path);
            QVERIFY(file.open(QIODevice::ReadOnly));
            QVERIFY2(!QString::fromUtf8(file.readAll()).contains(old) || path.endsWith("tst_docs.cpp"),
                     qPrintable(path));
        }
    }
};

QTEST_APPLESS_MAIN(TstDocs)
#include "tst_docs.moc"
