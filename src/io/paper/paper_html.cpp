#include "io/paper/paper_html.h"

#include "io/paper/chart_svg.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

enum class Reader { Browser, Printer };

// Sizes that both readers know; what the printer does not know it leaves out.
constexpr std::string_view kStyle =
    R"(body { font-family: Inter, sans-serif; font-size: 11pt; color: #1b2a41; }
h1, h2, b, th { font-weight: 600; }
h1 { font-size: 18pt; margin-bottom: 2pt; }
h2 { font-size: 13pt; margin-top: 18px; margin-bottom: 5px; }
p { margin-top: 4px; margin-bottom: 6px; }
table { border-collapse: collapse; margin-bottom: 10px; }
th { text-align: left; border-bottom: 1px solid #5d6b7a; padding: 2pt 8pt 2pt 0; }
td { vertical-align: top; border-bottom: 1px solid #dfe3e8; padding: 2pt 8pt 2pt 0; }
.number { text-align: right; }
.line { color: #465362; }
.answer { font-size: 12.5pt; font-weight: 600; }
.small { font-size: 9pt; color: #465362; }
.caution { border: 1.5px solid #1b2a41; padding: 6pt; }
)";
constexpr std::string_view kScreenStyle =
    R"(body { max-width: 46em; margin: 2em auto; padding: 0 1em; line-height: 1.4; }
figure { margin: 8pt 0; }
svg text { font-family: Inter, sans-serif; }
svg { max-width: 100%; height: auto; }
@media print { body { margin: 0; max-width: none; } figure, tr, .caution { break-inside: avoid; } h2 { break-after: avoid; } }
)";

// A paragraph with the line ends that somebody typed.
std::string with_lines(std::string_view text) {
    std::string out;
    for (std::size_t from = 0; from <= text.size();) {
        const std::size_t to = std::min(text.find('\n', from), text.size());
        out += (from == 0 ? "" : "<br>") + html_text(text.substr(from, to - from));
        from = to + 1;
    }
    return out;
}

// Blocks one by one as elements.
class PaperWriter {
  public:
    explicit PaperWriter(Reader reader) : reader_(reader) {}
    void operator()(const paper::Heading& heading) {
        out_ += heading.key.empty()
                    ? fmt::format("<h2>{}</h2>\n", html_text(heading.text))
                    : fmt::format("<h2 id=\"{}\">{}</h2>\n", html_text(heading.key), html_text(heading.text));
    }
    void operator()(const paper::Words& words) {
        using Role = paper::Words::Role;
        const std::string text = with_lines(words.text);
        if (words.role == Role::Caution && reader_ == Reader::Printer) // it draws frames round tables only
            out_ += fmt::format("<table border=\"1\" cellpadding=\"6\" width=\"100%\"><tr><td>{}</td></tr>"
                                "</table>\n",
                                text);
        else
            out_ += fmt::format("<p{}>{}</p>\n",
                                words.role == Role::Answer    ? " class=\"answer\""
                                : words.role == Role::Caution ? " class=\"caution\""
                                : words.role == Role::Small   ? " class=\"small\""
                                                              : "",
                                text);
    }
    void operator()(const paper::Points& points) {
        out_ += "<ul>\n";
        for (const std::string& item : points.items)
            out_ += fmt::format("<li>{}</li>\n", html_text(item));
        out_ += "</ul>\n";
    }
    void operator()(const paper::Table& table) {
        if (!table.title.empty())
            out_ += fmt::format("<p><b>{}</b></p>\n", html_text(table.title));
        out_ += reader_ == Reader::Printer ? "<table width=\"100%\" cellspacing=\"0\" cellpadding=\"3\">\n"
                                           : "<table>\n";
        row(table, table.heads, "th");
        for (const auto& cells : table.rows)
            row(table, cells, "td");
        out_ += "</table>\n";
    }
    void operator()(const paper::Chart& chart) {
        if (reader_ == Reader::Printer)
            out_ += fmt::format("<p><img src=\"chart:{}\" width=\"{}\" height=\"{}\"></p>\n", charts_,
                                kChartWidth, kChartHeight);
        else
            out_ += fmt::format("<figure>\n{}</figure>\n", chart_svg(chart));
        ++charts_;
    }
    std::string take() { return std::move(out_); }

  private:
    void row(const paper::Table& table, const std::vector<std::string>& cells, std::string_view element) {
        out_ += "<tr>";
        for (std::size_t i = 0; i < cells.size(); ++i) {
            out_ += fmt::format("<{}", element);
            if (i < table.widths.size() && element == "th")
                out_ += fmt::format(" width=\"{}%\"", table.widths[i]);
            if (i >= table.words_columns)
                out_ += reader_ == Reader::Printer ? " align=\"right\"" : " class=\"number\"";
            out_ += fmt::format(">{}</{}>", html_text(cells[i]), element);
        }
        out_ += "</tr>\n";
    }

    Reader reader_;
    std::string out_;
    std::size_t charts_ = 0;
};

std::string written(const paper::Paper& paper, Reader reader) {
    PaperWriter writer(reader);
    for (const paper::Block& block : paper.blocks)
        std::visit(writer, block);
    const bool screen = reader == Reader::Browser;
    return fmt::format(
        "<!DOCTYPE html>\n<html lang=\"{5}\">\n<head>\n<meta charset=\"utf-8\">\n<title>{0}</title>\n"
        "<style>\n{1}{2}</style>\n</head>\n<body>\n<h1>{0}</h1>\n<p class=\"line\">{3}</p>\n{4}"
        "</body>\n</html>\n",
        html_text(paper.title), kStyle, screen ? kScreenStyle : "", html_text(paper.line), writer.take(),
        html_text(paper.language));
}

} // namespace

std::string html_text(std::string_view text) {
    std::string out;
    for (const char c : text)
        switch (c) {
        case '&':
            out += "&amp;";
            break;
        case '<':
            out += "&lt;";
            break;
        case '>':
            out += "&gt;";
            break;
        case '"':
            out += "&quot;";
            break;
        case '\n':
            out += ' ';
            break;
        default:
            if (static_cast<unsigned char>(c) >= 0x20 || c == '\t') // no reader takes the others
                out += c;
        }
    return out;
}

std::string paper_html(const paper::Paper& paper) {
    return written(paper, Reader::Browser);
}

std::string paper_html_for_printing(const paper::Paper& paper) {
    return written(paper, Reader::Printer);
}

} // namespace bathmos::io
