// No words are cut, at the device scales that desktops have and with text twice as large: labels, buttons,
// headings of tables, in both languages. The toolkit takes its scale before there is an application, so each
// has a process of its own.
#include "app_fixture.h"

#include "app/text/catalogue.h"

#include <QAbstractButton>
#include <QHeaderView>
#include <QLabel>
#include <QProcess>

using namespace bathmos;
using namespace bathmos::test;

namespace {

const char* const kInner = "BATHMOS_SCALE_INNER";

QString where(const QWidget* w, const QString& text, int has, int needs) {
    return QStringLiteral("%1 \"%2\" in %3: \"%4\" has %5 px of %6")
        .arg(w->metaObject()->className(), w->objectName(),
             w->parentWidget() ? w->parentWidget()->metaObject()->className() : "nothing", text.left(40))
        .arg(has)
        .arg(needs);
}

// A pixel of rounding at scales that are no whole number.
constexpr int kRounding_px = 1;

void look_at_label(const QLabel* label, QStringList& cut) {
    if (label->text().isEmpty() || label->wordWrap() || Qt::mightBeRichText(label->text()) ||
        label->sizePolicy().horizontalPolicy() == QSizePolicy::Ignored)
        return;
    const QStringList lines = label->text().split(QLatin1Char('\n'));
    for (const QString& line : lines)
        if (const int needs = label->fontMetrics().horizontalAdvance(line);
            needs > label->contentsRect().width() + kRounding_px)
            cut << where(label, line, label->contentsRect().width(), needs);
}

void look_at_button(const QAbstractButton* button, QStringList& cut) {
    const int needs =
        button->fontMetrics().horizontalAdvance(QString(button->text()).remove(QLatin1Char('&')));
    if (needs > button->width() + kRounding_px)
        cut << where(button, button->text(), button->width(), needs);
}

void look_at_header(const QHeaderView* header, QStringList& cut) {
    if (header->orientation() != Qt::Horizontal || !header->model())
        return;
    for (int i = 0; i < header->count(); ++i) {
        if (header->isSectionHidden(i))
            continue;
        for (const QString& line :
             header->model()->headerData(i, Qt::Horizontal).toString().split(QLatin1Char('\n')))
            if (const int needs = header->fontMetrics().horizontalAdvance(line);
                needs > header->sectionSize(i) + kRounding_px)
                cut << where(header->parentWidget(), line, header->sectionSize(i), needs);
    }
}

QStringList cut_in(const QWidget& within) {
    QStringList cut;
    for (const QWidget* w : within.findChildren<QWidget*>()) {
        if (!w->isVisible())
            continue;
        if (const auto* label = qobject_cast<const QLabel*>(w))
            look_at_label(label, cut);
        else if (const auto* button = qobject_cast<const QAbstractButton*>(w))
            look_at_button(button, cut);
        else if (const auto* header = qobject_cast<const QHeaderView*>(w))
            look_at_header(header, cut);
    }
    return cut;
}

} // namespace

class TestScale : public QObject {
    Q_OBJECT
  private slots:
    void init() { prepare_application(); }

    void nothing_is_cut_data() {
        QTest::addColumn<QString>("scale");
        QTest::addColumn<QString>("language");
        for (const char* scale : {"1", "1.25", "1.5", "2"})
            QTest::newRow(qPrintable(QStringLiteral("English at %1").arg(scale))) << QString(scale) << "en";
        QTest::newRow("German at 1") << "1"
                                     << "de";
        QTest::newRow("German at 1.5") << "1.5"
                                       << "de";
    }
    void nothing_is_cut() {
        if (qEnvironmentVariableIsSet(kInner))
            return;
        QFETCH(QString, scale);
        QFETCH(QString, language);
        QProcess own;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert("QT_SCALE_FACTOR", scale);
        environment.insert(kInner, language);
        own.setProcessEnvironment(environment);
        own.setProcessChannelMode(QProcess::MergedChannels);
        own.start(QCoreApplication::applicationFilePath(), {"nothing_is_cut_at_the_scale_of_this_process"});
        QVERIFY(own.waitForFinished(600000));
        QVERIFY2(own.exitCode() == 0, own.readAll().constData());
    }

    void nothing_is_cut_at_the_scale_of_this_process() {
        if (!qEnvironmentVariableIsSet(kInner))
            return; // for the processes above
        QFile words(source_path("src/app/language/de.json"));
        QVERIFY(words.open(QIODevice::ReadOnly));
        Catalogue german(words.readAll());
        if (qEnvironmentVariable(kInner) == QStringLiteral("de"))
            QCoreApplication::installTranslator(&german);
        ProjectFixture f("scale");
        const double scale = qEnvironmentVariable("QT_SCALE_FACTOR").toDouble();
        QVERIFY(std::abs(f.window->devicePixelRatioF() - scale) < 1e-9);
        f.window->resize(1280, 800);
        f.window->sweep().set_range({7000, 8600, 800});
        f.wait_for_sweep();
        QStringList cut;
        for (const QString& name : station_names()) {
            f.window->show_station(name);
            f.wait_for_redraw();
            cut << cut_in(*f.window);
            for (QTabWidget* tabs : f.find<QWidget>(name)->findChildren<QTabWidget*>())
                for (int i = 0; i < tabs->count(); ++i) {
                    tabs->setCurrentIndex(i);
                    f.wait_for_redraw();
                    if (tabs->isVisible())
                        cut << cut_in(*tabs->currentWidget());
                }
        }
        cut.removeDuplicates();
        QCoreApplication::removeTranslator(&german);
        QVERIFY2(cut.isEmpty(), qPrintable(QStringLiteral("\n") + cut.join(QLatin1Char('\n'))));
    }
};

QTEST_MAIN(TestScale)
#include "tst_scale.moc"
