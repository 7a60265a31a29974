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

} // namespace

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
