#include "core/paper/paper.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace bathmos::paper {

namespace {

// What has been seen along one axis.
struct Reach {
    double from = std::numeric_limits<double>::infinity(), to = -from;
    void see(double value) {
        if (!std::isfinite(value))
            return;
        from = std::min(from, value);
        to = std::max(to, value);
    }
    bool none() const { return from > to; }
};

// What a person wrote stands between two marks that nobody types: Unicode's first strong isolate and its end.
constexpr std::string_view kBegin = "\u2068", kEnd = "\u2069";

// One text: what people wrote is put aside under its number, and back when the rest is translated.
std::string spoken_text(std::string_view text, const Language& language) {
    std::vector<std::string_view> aside;
    std::string open;
    for (std::size_t from = 0; from < text.size();) {
        const std::size_t begin = text.find(kBegin, from);
        const std::size_t end = begin == text.npos ? text.npos : text.find(kEnd, begin);
        if (end == text.npos) {
            open += text.substr(from);
            break;
        }
        open += text.substr(from, begin - from);
        open += std::string(kBegin) + std::to_string(aside.size()) + std::string(kEnd);
        aside.push_back(text.substr(begin + kBegin.size(), end - begin - kBegin.size()));
        from = end + kEnd.size();
    }
    std::string out = language.translate ? language.translate(open) : open;
    for (std::size_t i = 0; i < aside.size(); ++i) {
        const std::string place = std::string(kBegin) + std::to_string(i) + std::string(kEnd);
        if (const std::size_t at = out.find(place); at != out.npos)
            out.replace(at, place.size(), aside[i]);
    }
    return out;
}

// Every text of a block through the same function.
template <class Speak>
struct Speaker {
    Speak speak;
    char decimal;
    void operator()(Heading& heading) const { speak(heading.text); }
    void operator()(Words& words) const { speak(words.text); }
    void operator()(Points& points) const { std::ranges::for_each(points.items, speak); }
    void operator()(Table& table) const {
        speak(table.title);
        std::ranges::for_each(table.heads, speak);
        for (std::vector<std::string>& row : table.rows)
            std::ranges::for_each(row, speak);
    }
    void operator()(Chart& chart) const {
        chart.decimal = decimal;
        for (std::string* text : {&chart.title, &chart.x_label, &chart.y_label})
            speak(*text);
        for (Curve& curve : chart.curves)
            speak(curve.name);
        for (std::vector<Mark>* marks : {&chart.upright, &chart.level})
            for (Mark& mark : *marks)
                speak(mark.name);
    }
};

} // namespace

std::string own_words(std::string_view text) {
    std::string plain(text); // pasted from elsewhere it may hold such marks: they show nothing
    for (const std::string_view mark : {kBegin, kEnd})
        for (std::size_t at; (at = plain.find(mark)) != plain.npos;)
            plain.erase(at, mark.size());
    return plain.empty() ? plain : std::string(kBegin) + plain + std::string(kEnd);
}

Paper spoken(Paper paper, const Language& language) {
    const auto speak = [&language](std::string& text) { text = spoken_text(text, language); };
    paper.language = language.code;
    speak(paper.title);
    speak(paper.line);
    for (Block& block : paper.blocks)
        std::visit(Speaker<decltype(speak)>{speak, language.decimal}, block);
    return paper;
}

std::vector<const Chart*> charts_of(const Paper& paper) {
    std::vector<const Chart*> out;
    for (const Block& block : paper.blocks)
        if (const auto* chart = std::get_if<Chart>(&block))
            out.push_back(chart);
    return out;
}

Scale round_scale(double from, double to, int wanted, double least_step) {
    if (!(to > from)) {
        const double room = std::max(std::abs(from) * 0.1, 0.5);
        from -= room;
        to += room;
    }
    const double rough = std::max((to - from) / std::max(wanted, 1), least_step);
    const double power = std::pow(10.0, std::floor(std::log10(rough)));
    const double times = rough / power;
    Scale out;
    out.step = power * (times <= 1.5 ? 1 : times <= 3.5 ? 2 : times <= 7.5 ? 5 : 10);
    out.first = std::floor(from / out.step + 1e-9) * out.step;
    out.last = std::ceil(to / out.step - 1e-9) * out.step;
    out.decimals = std::clamp(static_cast<int>(-std::floor(std::log10(out.step) + 1e-9)), 0, 9);
    return out;
}

ChartRange range_of(const Chart& chart) {
    Reach x, y;
    for (const Curve& curve : chart.curves)
        for (std::size_t i = 0; i < std::min(curve.x.size(), curve.y.size()); ++i)
            if (std::isfinite(curve.x[i]) && std::isfinite(curve.y[i])) {
                x.see(curve.x[i]);
                y.see(chart.most_y ? std::min(curve.y[i], *chart.most_y) : curve.y[i]);
            }
    for (const Mark& mark : chart.upright)
        x.see(mark.at);
    for (const Mark& mark : chart.level)
        y.see(mark.at);
    ChartRange out;
    if (!x.none())
        out.x_from = x.from, out.x_to = x.to;
    if (!y.none())
        out.y_from = y.from, out.y_to = y.to;
    return out;
}

} // namespace bathmos::paper
