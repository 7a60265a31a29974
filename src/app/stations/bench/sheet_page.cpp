#include "app/stations/bench/sheet_page.h"

#include "app/stations/bench/reading_text.h"
#include "app/text/words.h"
#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QPdfWriter>
#include <QSaveFile>
#include <QTextDocument>

namespace bathmos::app {

namespace {

constexpr int kBlankRows = 16, kPaperMargin_mm = 15;
constexpr double kPaperText_pt = 9;

QString said(const char* text) {
    return QCoreApplication::translate("SheetPage", text);
}
QString text(const QString& plain) {
    return plain.toHtmlEscaped();
}
QString cell(const QString& html) {
    return QStringLiteral("<td>%1</td>").arg(html.isEmpty() ? QStringLiteral("&nbsp;") : html);
}
QString head(const QString& plain) {
    return QStringLiteral("<th align=\"left\">%1</th>").arg(text(plain));
}
QString table(const QString& rows) {
    return QStringLiteral("<table border=\"1\" cellspacing=\"0\" cellpadding=\"3\" width=\"100%\" "
                          "style=\"border-collapse: collapse\">%1</table>")
        .arg(rows);
}
QString with_unit(const DisplayUnits& units, const bench::SheetField& field) {
    const QString unit = units.unit_name(field.quantity);
    return unit.isEmpty() ? phrase(field.label) : QStringLiteral("%1, %2").arg(phrase(field.label), unit);
}

QString fields_table(const PagedSheet& sheet, const bench::SheetKind& kind, const DisplayUnits& units,
                     bool blank) {
    QString rows =
        QStringLiteral("<tr>%1%2%3</tr>").arg(head(said("what")), head(said("read")), head(said("how")));
    for (const bench::SheetField& field : kind.fields) {
        const auto at = sheet.draft.fields.find(std::string(field.key));
        const QString value = blank || at == sheet.draft.fields.end()
                                  ? QString()
                                  : readings_text(units, field.quantity, at->second);
        if (blank || !value.isEmpty())
            rows += QStringLiteral("<tr>%1%2%3</tr>")
                        .arg(cell(text(with_unit(units, field))),
                             cell(blank ? QStringLiteral("&nbsp;").repeated(24) : text(value)),
                             cell(text(phrase(field.how))));
    }
    return table(rows);
}

QString readings_table(const PagedSheet& sheet, const bench::SheetKind& kind, const DisplayUnits& units,
                       bool blank) {
    QString rows = QStringLiteral("<tr>");
    if (!kind.named.empty())
        rows += head(phrase(kind.named));
    for (const bench::SheetField& column : kind.columns)
        rows += head(with_unit(units, column));
    if (!kind.usual.empty())
        rows += head(said("going"));
    rows += QStringLiteral("</tr>");
    QString how;
    for (const bench::SheetField& column : kind.columns)
        how += QStringLiteral("<p>%1: %2</p>").arg(text(phrase(column.label)), text(phrase(column.how)));
    const std::size_t count = blank ? kBlankRows : sheet.draft.rows.size();
    for (std::size_t i = 0; i < count; ++i) {
        const bench::SheetRow row = blank ? bench::SheetRow() : sheet.draft.rows[i];
        rows += QStringLiteral("<tr>");
        if (!kind.named.empty())
            rows += cell(text(words(row.name)));
        for (std::size_t c = 0; c < kind.columns.size(); ++c)
            rows +=
                cell(c < row.cells.size() ? text(readings_text(units, kind.columns[c].quantity, row.cells[c]))
                                          : QString());
        if (!kind.usual.empty())
            rows += cell(blank ? QString() : text(phrase(row.back ? kind.back : kind.usual)));
        rows += QStringLiteral("</tr>");
    }
    return how + table(rows);
}

QString answer(const session::JudgedSheet& judged, const DisplayUnits& units) {
    QString out = QStringLiteral("<h3>%1</h3><p>").arg(text(said("What it says")));
    if (!judged.problem.empty())
        out += text(phrase(judged.problem));
    for (const MeasuredText& line : judged.lines)
        out += text(phrase(line.in_words(units.choice()))) + QStringLiteral("<br/>");
    out += QStringLiteral("</p>");
    for (const bench::Told& one : judged.told)
        out += QStringLiteral("<p>\u25B2 %1</p>").arg(text(phrase(one.text.in_words(units.choice()))));
    if (judged.effect.changes.empty())
        return out;
    QString rows =
        QStringLiteral("<tr>%1%2%3%4</tr>")
            .arg(head(said("changes")), head(said("from")), head(said("to")), head(said("known to")));
    for (const bench::SheetChange& one : judged.effect.changes)
        rows += QStringLiteral("<tr>%1%2%3%4</tr>")
                    .arg(cell(text(phrase(one.label))), cell(text(units.text(one.quantity, one.before))),
                         cell(text(units.text(one.quantity, one.after))),
                         cell(QStringLiteral("\u00B1 ") +
                              text(units.text(one.quantity, one.tolerance.plus_minus))));
    return out + table(rows);
}

} // namespace

QString sheet_page(const PagedSheet& sheet, const DisplayUnits& units, bool blank) {
    const bench::SheetKind* kind = bench::find_sheet_kind(sheet.draft.kind);
    if (!kind)
        return {};
    QString out = QStringLiteral("<h2>%1</h2><p>%2</p>").arg(text(sheet.name), text(phrase(kind->purpose)));
    out += blank ? QStringLiteral("<p>%1</p>")
                       .arg(text(said("Build:                    Part, serial:                    "
                                      "Who:                    When:"))
                                .replace(' ', "&nbsp;"))
                 : QStringLiteral("<p>%1<br/>%2</p>").arg(text(sheet.of), text(sheet.when));
    if (!kind->caution.empty())
        out += QStringLiteral("<p><b>\u25B2 %1 %2</b></p>")
                   .arg(text(phrase(kind->caution)),
                        text(said("Makers' instructions, local rules and a competent person come first.")));
    if (!kind->fields.empty())
        out += fields_table(sheet, *kind, units, blank);
    if (!kind->columns.empty())
        out += QStringLiteral("<h3>%1</h3>").arg(text(said("Readings"))) +
               readings_table(sheet, *kind, units, blank);
    return blank ? out : out + answer(sheet.said, units);
}

bool write_text_pdf(const QString& path, const QString& title, const QString& html) {
    QSaveFile file(path);
    if (!file.open(QIODevice::WriteOnly))
        return false;
    {
        QPdfWriter writer(&file);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setPageMargins(QMarginsF(kPaperMargin_mm, kPaperMargin_mm, kPaperMargin_mm, kPaperMargin_mm),
                              QPageLayout::Millimeter);
        writer.setTitle(title);
        QTextDocument document;
        QFont font = Theme::text_font(10);
        font.setPointSizeF(kPaperText_pt); // the screen's are in pixels, which paper has many more of
        document.setDefaultFont(font);
        document.setHtml(html);
        document.print(&writer);
    }
    return file.commit();
}

} // namespace bathmos::app
