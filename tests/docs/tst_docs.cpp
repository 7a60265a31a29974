// The docs are true where that can be told: sources that the code names are there, links lead somewhere.
#include "support.h"

#include <QDirIterator>
#include <QRegularExpression>
#include <QSet>

using namespace bathmos::test;

namespace {

// The text of a file; the test program ends where it cannot be read.
QString read(const QString& path) {
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly))
        qFatal("cannot read %s", qPrintable(path));
    return QString::fromUtf8(file.readAll());
}
QString text_of(const QString& relative) {
    return read(source_path(relative));
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

// Functions that a header offers without a word on them: no comment above, none behind, and no body on the
// line that says it all.
QStringList unspoken(const QString& header) {
    static const QRegularExpression declared("^(?:    )?(?:(?:static|inline|virtual|\\[\\[nodiscard\\]\\]) "
                                             ")*(?!return|using|if|for|else|case|throw|template)"
                                             "[A-Za-z_][\\w:<>,*& ]* [*&]?[a-z_]\\w*\\(");
    static const QRegularExpression body("\\{.*\\}|\\{$");
    QStringList out;
    bool open = true; // to all, as namespaces and structs are
    const QStringList lines = header.split('\n');
    for (int i = 1; i < lines.size(); ++i) {
        const QString& line = lines[i];
        if (line.startsWith("class ") || line.trimmed() == "private:")
            open = false;
        else if (line.startsWith("struct ") || line.startsWith("};") || line.trimmed() == "public:")
            open = true;
        if (open && line.contains(declared) && !line.contains("///") && !line.contains(body) &&
            !lines[i - 1].trimmed().startsWith("//"))
            out.push_back(line.trimmed());
    }
    return out;
}

} // namespace

class TstDocs : public QObject {
    Q_OBJECT

  private slots:
    void no_page_is_empty() {
        int pages = 0;
        for (QDirIterator it(source_path("docs"), {"*.md"}, QDir::Files, QDirIterator::Subdirectories);
             it.hasNext(); ++pages) {
            const QString path = it.next();
            QVERIFY2(QFileInfo(path).size() > 300, qPrintable(path));
        }
        QVERIFY(pages > 12);
    }

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
            auto found = source.globalMatch(read(path));
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
            const QString text = read(path);
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

    void every_public_function_of_the_core_carries_a_docstring() {
        QCOMPARE(unspoken("\n/// Says.\ndouble a(int b);\ndouble unsaid(int b);\n").size(), qsizetype{1});
        int headers = 0;
        for (const QString& path : code()) {
            if (!path.contains("/src/core/") || !path.endsWith(".h") || path.endsWith("-inl.h"))
                continue;
            const QStringList without = unspoken(read(path));
            QVERIFY2(without.isEmpty(), qPrintable(path + ": " + without.join(" | ")));
            ++headers;
        }
        QVERIFY(headers > 50);
    }

    void functions_of_the_core_that_refuse_say_so() {
        const QRegularExpression defined("^[A-Za-z_][^\n;=#]*[ *&:]([a-z_]\\w*)\\([^;]*?\\{$",
                                         QRegularExpression::MultilineOption);
        QMap<QString, QString> said; // what stands above a function in any header of the core
        const QRegularExpression spoken("((?:^ *///[^\n]*\n)+)^[^\n/(]*\\b([a-z_]\\w*)\\(",
                                        QRegularExpression::MultilineOption);
        QMap<QString, QString> bodies;
        for (const QString& path : code()) {
            if (!path.contains("/src/core/"))
                continue;
            const QString text = read(path);
            for (auto found = spoken.globalMatch(text); path.endsWith(".h") && found.hasNext();) {
                const auto match = found.next();
                said[match.captured(2)] += match.captured(1);
            }
            QVector<QRegularExpressionMatch> starts;
            for (auto found = defined.globalMatch(text); found.hasNext();)
                starts.push_back(found.next());
            for (int i = 0; i < starts.size(); ++i)
                bodies[starts[i].captured(1)] +=
                    text.mid(starts[i].capturedStart(),
                             (i + 1 < starts.size() ? starts[i + 1].capturedStart() : text.size()) -
                                 starts[i].capturedStart());
        }
        int refusing = 0;
        for (auto one = bodies.cbegin(); one != bodies.cend(); ++one) {
            if (!one.value().contains("throw InputError") || !said.contains(one.key()))
                continue;
            ++refusing;
            QVERIFY2(said[one.key()].contains(QRegularExpression("[Tt]hrow")), qPrintable(one.key()));
        }
        QVERIFY(refusing > 10);
    }

    void links_between_docs_lead_to_files() {
        const QRegularExpression link("\\]\\(([^)#:]+)\\)");
        for (const char* page : {"README.md", "CONTRIBUTING.md", "docs/architecture.md", "docs/physics.md",
                                 "docs/glossary.md", "docs/verdict.md", "docs/format.md", "docs/accuracy.md",
                                 "docs/calibration.md", "docs/bench.md"}) {
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
            QVERIFY2(!read(path).contains(old) || path.endsWith("tst_docs.cpp"), qPrintable(path));
        }
    }
};

QTEST_APPLESS_MAIN(TstDocs)
#include "tst_docs.moc"
