#include "app/help/help_panel.h"

#include "app/theme/theme.h"

#include <QFile>
#include <QPainter>
#include <QSvgRenderer>
#include <QTextDocument>
#include <array>

namespace bathmos::app {

namespace {

// The colours that pictures of the docs are drawn in, and what each means.
constexpr std::array<std::pair<const char*, Role>, 6> kPens = {{{"#000001", Role::Ink},
                                                                {"#000002", Role::Faint},
                                                                {"#000003", Role::Predicted},
                                                                {"#000004", Role::Measured},
                                                                {"#000005", Role::StopMark},
                                                                {"#000006", Role::Rule}}};
constexpr int kPicture_px = 280;

QByteArray bytes_of(const QString& resource) {
    QFile file(resource);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

} // namespace

HelpPanel::HelpPanel(Theme& theme, QWidget* parent) : QTextBrowser(parent), theme_(theme) {
    setObjectName(QStringLiteral("help"));
    setAccessibleName(tr("Help"));
    setOpenLinks(false);
    connect(this, &QTextBrowser::anchorClicked, this, &HelpPanel::follow);
    set_language(QStringLiteral("en"));
}

void HelpPanel::set_language(const QString& language) {
    language_ = language;
    lexicon_ = read_lexicon(page_text(QStringLiteral("lexicon")));
}

QString HelpPanel::page_text(const QString& page) const {
    const QByteArray own = bytes_of(QStringLiteral(":/docs/%1/%2.md").arg(language_, page));
    return QString::fromUtf8(own.isEmpty() ? bytes_of(QStringLiteral(":/docs/%1.md").arg(page)) : own);
}

void HelpPanel::show_help(const QString& html) {
    setHtml(html +
            tr("<p><a href=\"page:physics\">Equations and sources</a> (Shift+F1) · "
               "<a href=\"page:glossary\">Words</a> · "
               "<a href=\"page:lexicon\">Metrics, findings, causes</a> (Ctrl+F1: of what is chosen)</p>"));
}

void HelpPanel::show_page(const QString& page, const QString& section) {
    const QString text = page_text(page);
    if (text.isEmpty())
        return;
    if (page == QStringLiteral("lexicon"))
        return show_entry({});
    show_markdown(text);
    if (!section.isEmpty())
        find(QStringLiteral("%1. ").arg(section), QTextDocument::FindCaseSensitively);
    ensureCursorVisible();
}

void HelpPanel::show_entry(const QString& key) {
    if (const LexiconEntry* entry = find_entry(lexicon_, key))
        return show_markdown(QStringLiteral("## %1\n\n%2\n\n[%3](page:lexicon)")
                                 .arg(entry->title, entry->markdown, tr("All entries")));
    QString list = QStringLiteral("## %1\n\n").arg(tr("Metrics, findings, causes"));
    for (const LexiconEntry& entry : lexicon_)
        list += QStringLiteral("- [%1](entry:%2)\n").arg(entry.title, entry.keys.value(0));
    show_markdown(list);
}

// Made apart and then shown: written into the view, a table is laid out anew at each of its cells.
void HelpPanel::show_markdown(const QString& markdown) {
    auto* text = new QTextDocument(document()->parent()); // which takes the former one away
    text->setDefaultFont(document()->defaultFont());
    text->setMarkdown(markdown);
    setDocument(text);
    show();
}

void HelpPanel::follow(const QUrl& link) {
    if (link.scheme() == QStringLiteral("page"))
        show_page(link.path(), link.fragment());
    else if (link.scheme() == QStringLiteral("entry"))
        show_entry(link.path());
}

QVariant HelpPanel::loadResource(int type, const QUrl& name) {
    const QString path = name.path();
    if (type != QTextDocument::ImageResource || !path.contains(QStringLiteral("pictures/")))
        return QTextBrowser::loadResource(type, name);
    QByteArray drawing = bytes_of(QStringLiteral(":/docs/pictures/") + path.section(QLatin1Char('/'), -1));
    for (const auto& [pen, role] : kPens)
        drawing.replace(pen, theme_.color(role).name().toUtf8());
    QSvgRenderer renderer(drawing);
    if (!renderer.isValid())
        return {};
    const double ratio = devicePixelRatioF();
    const QSize size = renderer.defaultSize().scaled(kPicture_px, kPicture_px, Qt::KeepAspectRatio);
    QImage picture(size * ratio, QImage::Format_ARGB32_Premultiplied);
    picture.setDevicePixelRatio(ratio);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    renderer.render(&painter, QRectF({0, 0}, QSizeF(size)));
    return picture;
}

} // namespace bathmos::app
