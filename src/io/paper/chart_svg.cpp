#include "io/paper/chart_svg.h"

#include "io/paper/paper_html.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

constexpr double kLeft = 62, kRight = 14, kTop = 48, kLegend = 20; // round the plot
constexpr double kUnderAxis = 40;                                  // numbers and the label
constexpr std::size_t kLegendColumns = 2;
// Dark enough on white, and of different greys where they are printed without colour.
constexpr std::string_view kInks[] = {"#1b2a41", "#b3541e", "#3f7d5a", "#7a5c99", "#5d6b7a"};

struct View {
    paper::Scale x, y;
    double left = kLeft, right = kChartWidth - kRight, top = kTop, bottom = 0;
    double across(double value) const {
        return left + (value - x.first) / (x.last - x.first) * (right - left);
    }
    double up(double value) const { return bottom - (value - y.first) / (y.last - y.first) * (bottom - top); }
};

std::string text_at(double x, double y, std::string_view anchor, std::string_view text,
                    std::string_view more = {}) {
    return fmt::format("<text x=\"{:.1f}\" y=\"{:.1f}\" text-anchor=\"{}\"{}>{}</text>\n", x, y, anchor, more,
                       html_text(text));
}

std::string line_at(double x1, double y1, double x2, double y2, std::string_view how) {
    return fmt::format("<line x1=\"{:.1f}\" y1=\"{:.1f}\" x2=\"{:.1f}\" y2=\"{:.1f}\" {}/>\n", x1, y1, x2, y2,
                       how);
}

std::string_view dashes(paper::Pen pen) {
    switch (pen) {
    case paper::Pen::Dashed:
        return " stroke-dasharray=\"7 4\"";
    case paper::Pen::Dotted:
        return " stroke-dasharray=\"2 3\"";
    default:
        return "";
    }
}

std::string scales(const View& v, const paper::Chart& chart) {
    std::string out;
    const auto places = [](const paper::Scale& s) {
        std::vector<double> all;
        for (int i = 0; s.first + i * s.step <= s.last + 0.001 * s.step; ++i)
            all.push_back(s.first + i * s.step);
        return all;
    };
    const auto number = [&](double at, int decimals) {
        std::string text = fmt::format("{:.{}f}", at, decimals);
        std::ranges::replace(text, '.', chart.decimal);
        return text;
    };
    for (const double at : places(v.x)) {
        out += line_at(v.across(at), v.top, v.across(at), v.bottom, "stroke=\"#dfe3e8\"");
        out += text_at(v.across(at), v.bottom + 16, "middle", number(at, v.x.decimals));
    }
    for (const double at : places(v.y)) {
        out += line_at(v.left, v.up(at), v.right, v.up(at), "stroke=\"#dfe3e8\"");
        out += text_at(v.left - 6, v.up(at) + 4, "end", number(at, v.y.decimals));
    }
    out += fmt::format("<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\" fill=\"none\" "
                       "stroke=\"#5d6b7a\"/>\n",
                       v.left, v.top, v.right - v.left, v.bottom - v.top);
    out += text_at((v.left + v.right) / 2, v.bottom + 33, "middle", chart.x_label);
    out += text_at(v.left, v.top - 8, "start", chart.y_label);
    out += text_at(0, 14, "start", chart.title, " font-weight=\"600\" font-size=\"13\"");
    return out;
}

// Runs of points within the plot; what rises over it is cut where it leaves.
std::vector<std::vector<std::pair<double, double>>> runs_of(const paper::Curve& curve, double most_y) {
    std::vector<std::vector<std::pair<double, double>>> out(1);
    const std::size_t count = std::min(curve.x.size(), curve.y.size());
    const bool lines = curve.pen != paper::Pen::Marks;
    const auto fine = [&](std::size_t i) { return std::isfinite(curve.x[i]) && std::isfinite(curve.y[i]); };
    const auto cut = [&](std::size_t a, std::size_t b) {
        const double share = (most_y - curve.y[a]) / (curve.y[b] - curve.y[a]);
        return std::pair(curve.x[a] + share * (curve.x[b] - curve.x[a]), most_y);
    };
    for (std::size_t i = 0; i < count; ++i) {
        const bool inside = fine(i) && curve.y[i] <= most_y;
        const bool was = i > 0 && fine(i - 1) && curve.y[i - 1] <= most_y;
        if (lines && inside && i > 0 && fine(i - 1) && !was)
            out.back().push_back(cut(i - 1, i));
        if (inside)
            out.back().emplace_back(curve.x[i], curve.y[i]);
        else {
            if (lines && was && fine(i))
                out.back().push_back(cut(i - 1, i));
            if (!out.back().empty())
                out.emplace_back();
        }
    }
    return out;
}

std::string curve_of(const View& v, const paper::Curve& curve, std::string_view ink, double most_y) {
    std::string out;
    for (const auto& run : runs_of(curve, most_y)) {
        if (run.empty())
            continue;
        if (curve.pen == paper::Pen::Marks) {
            for (const auto& [x, y] : run)
                out += fmt::format("<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"2.6\" fill=\"#ffffff\" "
                                   "stroke=\"{}\" stroke-width=\"1.4\"/>\n",
                                   v.across(x), v.up(y), ink);
            continue;
        }
        out += "<polyline points=\"";
        for (const auto& [x, y] : run)
            out += fmt::format("{:.1f},{:.1f} ", v.across(x), v.up(y));
        out +=
            fmt::format("\" fill=\"none\" stroke=\"{}\" stroke-width=\"1.6\"{}/>\n", ink, dashes(curve.pen));
    }
    return out;
}

// Names of marks stand along their lines; where two are near, the later one a row lower.
std::string marks_of(const View& v, const paper::Chart& chart) {
    std::string out;
    for (const paper::Mark& mark : chart.level) {
        out += line_at(v.left, v.up(mark.at), v.right, v.up(mark.at),
                       "stroke=\"#a3324a\" stroke-dasharray=\"10 3 2 3\"");
        const bool under = v.up(mark.at) < v.top + 18; // no room above
        out += text_at(v.right - 6, v.up(mark.at) + (under ? 14 : -4), "end", mark.name, " fill=\"#7d2438\"");
    }
    std::vector<paper::Mark> upright = chart.upright;
    std::stable_sort(upright.begin(), upright.end(),
                     [](const paper::Mark& a, const paper::Mark& b) { return a.at < b.at; });
    double free_x[4] = {-1e9, -1e9, -1e9, -1e9};
    for (const paper::Mark& mark : upright) {
        const double x = v.across(mark.at);
        const double width = 6.6 * static_cast<double>(mark.name.size()) + 8;
        const bool left = x + width > v.right;
        const double from = left ? x - width : x;
        std::size_t row = 0;
        while (row < 3 && free_x[row] > from)
            ++row;
        free_x[row] = from + width;
        out += line_at(x, v.top, x, v.bottom, "stroke=\"#1b2a41\" stroke-dasharray=\"1 2\"");
        out += text_at(left ? x - 4 : x + 4, v.top + 14 + 14 * static_cast<double>(row),
                       left ? "end" : "start", mark.name);
    }
    return out;
}

std::string legend_of(const View& v, const paper::Chart& chart) {
    std::string out;
    const double column = (v.right - v.left) / static_cast<double>(kLegendColumns);
    for (std::size_t i = 0; i < chart.curves.size(); ++i) {
        const paper::Curve& curve = chart.curves[i];
        const std::string_view ink = kInks[i % std::size(kInks)];
        const double x = v.left + column * static_cast<double>(i % kLegendColumns);
        const double y = v.bottom + kUnderAxis + 14 + kLegend * static_cast<double>(i / kLegendColumns);
        if (curve.pen == paper::Pen::Marks)
            out += fmt::format("<circle cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"2.6\" fill=\"#ffffff\" "
                               "stroke=\"{}\" stroke-width=\"1.4\"/>\n",
                               x + 14, y - 4, ink);
        else
            out += line_at(x, y - 4, x + 28, y - 4,
                           fmt::format("stroke=\"{}\" stroke-width=\"1.6\"{}", ink, dashes(curve.pen)));
        out += text_at(x + 34, y, "start", curve.name);
    }
    return out;
}

} // namespace

std::string chart_svg(const paper::Chart& chart) {
    const paper::ChartRange range = paper::range_of(chart);
    const std::size_t rows = (chart.curves.size() + kLegendColumns - 1) / kLegendColumns;
    View v;
    v.x = paper::round_scale(range.x_from, range.x_to, 8, chart.whole_x ? 1 : 0);
    v.y = paper::round_scale(range.y_from, range.y_to, 5);
    v.bottom = kChartHeight - kUnderAxis - kLegend * static_cast<double>(rows);
    std::string out = fmt::format("<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.2\" "
                                  "baseProfile=\"tiny\" viewBox=\"0 0 {} {}\" width=\"{}\" height=\"{}\" "
                                  "font-family=\"Inter\" font-size=\"12\" fill=\"#1b2a41\">\n",
                                  kChartWidth, kChartHeight, kChartWidth, kChartHeight);
    out += fmt::format("<title>{}</title>\n", html_text(chart.title));
    out += scales(v, chart);
    for (std::size_t i = 0; i < chart.curves.size(); ++i)
        out += curve_of(v, chart.curves[i], kInks[i % std::size(kInks)], v.y.last);
    out += marks_of(v, chart);
    out += legend_of(v, chart);
    return out + "</svg>\n";
}

} // namespace bathmos::io
