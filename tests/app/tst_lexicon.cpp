// Every metric, finding and cause has a page with a picture; what is chosen leads to it.
#include "app_fixture.h"

#include "app/help/help_panel.h"
#include "core/fit/fit_rules.h"
#include "core/verdict/causes.h"

#include <QListWidget>
#include <QTextBlock>

using namespace bathmos;
using namespace bathmos::test;

namespace {

// The most saturated colour that an entry's picture is drawn with, and how much of it is drawn at all.
int drawn_pixels(const QImage& picture) {
    int drawn = 0;
    for (int y = 0; y < picture.height(); ++y)
        for (int x = 0; x < picture.width(); ++x)
            drawn += qAlpha(picture.pixel(x, y)) > 100;
    return drawn;
}

QStringList pictures_of(const LexiconEntry& entry) {
    QStringList out;
    static const QRegularExpression picture(QStringLiteral("!\\[[^\\]]+\\]\\((pictures/[a-z-]+\\.svg)\\)"));
    for (auto it = picture.globalMatch(entry.markdown); it.hasNext();)
        out << it.next().captured(1);
    return out;
}

// Pictures that the page really holds: text that a reader of markdown passes over is none.
int pictures_on(const HelpPanel& help) {
    int count = 0;
    for (QTextBlock block = help.document()->begin(); block.isValid(); block = block.next())
        for (auto piece = block.begin(); !piece.atEnd(); ++piece)
            count += piece.fragment().charFormat().isImageFormat();
    return count;
}

QString heading(const HelpPanel& help) {
    return help.document()->firstBlock().text();
}

} // namespace

class TestLexicon : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void every_metric_finding_and_cause_has_an_entry_and_no_entry_is_about_nothing_data() {
        QTest::addColumn<QString>("language");
        QTest::newRow("English") << "en";
        QTest::newRow("German") << "de";
    }
    void every_metric_finding_and_cause_has_an_entry_and_no_entry_is_about_nothing() {
        QFETCH(QString, language);
        Theme theme;
        HelpPanel help(theme);
        help.set_language(language);
        QStringList wanted;
        for (std::size_t m = 0; m < kMetrics; ++m)
            wanted << QStringLiteral("metric/") +
                          QString::fromUtf8(info(static_cast<Metric>(m)).column.data());
        for (std::size_t c = 0; c < kCauses; ++c)
            wanted << QStringLiteral("cause/") + QString::fromUtf8(info(static_cast<Cause>(c)).key.data());
        for (const FitRule& rule : fit_rules())
            wanted << QStringLiteral("rule/") + QString::fromStdString(std::string(rule.key));
        QStringList there;
        for (const LexiconEntry& entry : help.lexicon()) {
            there << entry.keys;
            QVERIFY2(pictures_of(entry).size() == 1, qPrintable(entry.title));
            QVERIFY2(entry.markdown.size() > 120, qPrintable(entry.title));
        }
        QStringList doubled = there;
        doubled.removeDuplicates();
        QCOMPARE(there.size(), doubled.size());
        wanted.sort();
        there.sort();
        QCOMPARE(there, wanted);
    }

    void pictures_are_drawn_in_the_colours_of_the_look() {
        Theme theme;
        HelpPanel help(theme);
        for (const LexiconEntry& entry : help.lexicon()) {
            theme.set_look(Look::Light);
            help.show_entry(entry.keys.front());
            const QUrl name(pictures_of(entry).front());
            const QImage light =
                help.document()->resource(QTextDocument::ImageResource, name).value<QImage>();
            QVERIFY2(drawn_pixels(light) > 300, qPrintable(name.toString()));
            QCOMPARE(pictures_on(help), 1);
            theme.set_look(Look::Dark);
            help.show_entry(entry.keys.front());
            const QImage dark = help.document()->resource(QTextDocument::ImageResource, name).value<QImage>();
            QVERIFY(light != dark);
        }
        theme.set_look(Look::Light);
    }

    void what_is_chosen_is_explained_at_a_key() {
        ProjectFixture f("explain");
        f.wait_for_sweep();
        auto* help = f.find<HelpPanel>("help");
        f.window->show_station("station_motion");
        f.wait_for_redraw();
        auto* metrics = f.find<QTableWidget>("metric_table");
        for (int row = 0; row < metrics->rowCount(); ++row) {
            metrics->setCurrentCell(row, 0);
            f.trigger("explain");
            QVERIFY2(help->isVisible() && help->toPlainText().contains("All entries"),
                     qPrintable(metrics->item(row, 0)->text()));
        }
        f.window->show_station("station_train");
        auto* findings = f.find<QListWidget>("findings");
        QVERIFY(findings->count() > 1);
        for (int row = 0; row < findings->count(); ++row) {
            findings->setCurrentRow(row);
            const QString rule = findings->item(row)->data(Qt::UserRole).toString();
            const LexiconEntry* entry = find_entry(help->lexicon(), QStringLiteral("rule/") + rule);
            QVERIFY2(entry, qPrintable(findings->item(row)->text()));
            f.trigger("explain");
            QCOMPARE(heading(*help), entry->title);
        }
        f.window->show_station("station_bench"); // where nothing has an entry, the list of all of them
        f.trigger("explain");
        QVERIFY(help->toPlainText().contains("Engine is out of breath"));
        emit help->anchorClicked(QUrl("entry:cause/surge"));
        QCOMPARE(heading(*help), QStringLiteral("Surge and ripple of the seat load"));
        emit help->anchorClicked(QUrl("page:lexicon"));
        QVERIFY(help->toPlainText().contains("Valve to piston"));
    }

    void an_entry_is_read_by_its_form() {
        const auto entries =
            read_lexicon("# Page\nwords\n\n## One\n`metric/a` `rule/b`\n\ntext\n\n## Two\nno keys\n");
        QCOMPARE(entries.size(), 2);
        QCOMPARE(entries[0].keys, (QStringList{"metric/a", "rule/b"}));
        QCOMPARE(entries[0].markdown, QStringLiteral("text"));
        QVERIFY(entries[1].keys.isEmpty());
        QVERIFY(find_entry(entries, "rule/b") == &entries[0]);
        QVERIFY(!find_entry(entries, "rule/c"));
    }
};

QTEST_MAIN(TestLexicon)
#include "tst_lexicon.moc"
