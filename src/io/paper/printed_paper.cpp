#include "io/paper/printed_paper.h"

#include "io/paper/chart_svg.h"
#include "io/paper/paper_html.h"
#include "io/train/object_reader.h"

namespace bathmos::io {

PrintedPaper printed(const paper::Paper& paper, const std::string& date) {
    PrintedPaper out{paper.title, date, paper_html_for_printing(paper), {}};
    for (const paper::Chart* chart : paper::charts_of(paper))
        out.charts.push_back(chart_svg(*chart));
    return out;
}

std::string printed_text(const PrintedPaper& paper) {
    return json_text(
        {{"title", paper.title}, {"date", paper.date}, {"html", paper.html}, {"charts", paper.charts}});
}

PrintedPaper parse_printed(std::string_view text, const std::string& source) {
    try {
        const Json json = parse_json(text);
        ObjectReader reader(json, "");
        PrintedPaper out{reader.text("title"), reader.text("date"), reader.text("html"), {}};
        const Json& charts = reader.required("charts");
        for (const Json& chart : charts)
            if (chart.is_string())
                out.charts.push_back(chart.get<std::string>());
            else
                reader.refuse("charts", "holds something that is no text", "must be a list of SVG texts");
        reader.finish();
        return out;
    } catch (const InputError& error) {
        throw error.in(source);
    }
}

} // namespace bathmos::io
