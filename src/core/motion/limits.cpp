#include "core/motion/limits.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace bathmos {

namespace {

struct Bracket {
    double low_rpm, high_rpm;
    double low_excess, high_excess;
};

// The lowest swept step over the limit that stays over it; empty if none. A row without a value does not
// count as crossed.
std::optional<Bracket> bracket_of(const std::vector<SpeedMetrics>& rows, const Limit& limit, double low_speed,
                                  double stays_rpm) {
    const auto over = [&](std::size_t i) {
        return excess(limit, rows[i].metrics, low_speed).value_or(-1) > 0;
    };
    for (std::size_t i = 0; i < rows.size(); ++i) {
        if (!over(i))
            continue;
        bool stays = true;
        for (std::size_t j = i + 1; j < rows.size() && rows[j].speed_rpm <= rows[i].speed_rpm + stays_rpm;
             ++j)
            stays = stays && over(j);
        if (!stays)
            continue;
        const double high = *excess(limit, rows[i].metrics, low_speed);
        if (i == 0)
            return Bracket{rows[0].speed_rpm, rows[0].speed_rpm, 0, high};
        const double low = excess(limit, rows[i - 1].metrics, low_speed).value_or(-high);
        return Bracket{rows[i - 1].speed_rpm, rows[i].speed_rpm, low, high};
    }
    return std::nullopt;
}

std::size_t halvings(const Bracket& b, double width, std::size_t most) {
    const double wanted = std::ceil(std::log2((b.high_rpm - b.low_rpm) / width) - 1e-9);
    return static_cast<std::size_t>(std::clamp(wanted, 0.0, static_cast<double>(most)));
}

double linear_crossing(const Bracket& b) {
    if (b.high_rpm <= b.low_rpm || b.high_excess <= b.low_excess)
        return b.high_rpm;
    return b.low_rpm + (b.high_rpm - b.low_rpm) * -b.low_excess / (b.high_excess - b.low_excess);
}

using Computed = std::map<double, Metrics>;

void compute_missing(const std::vector<double>& wanted, const MetricsAt& refine, Computed& known) {
    std::vector<double> missing;
    for (double rpm : wanted)
        if (!known.contains(rpm) && std::find(missing.begin(), missing.end(), rpm) == missing.end())
            missing.push_back(rpm);
    if (missing.empty())
        return;
    const std::vector<Metrics> metrics = refine(missing);
    for (std::size_t i = 0; i < missing.size(); ++i)
        known[missing[i]] = metrics[i];
}

// Halves a bracket down the tree of points that were computed together.
void walk(Bracket& b, std::size_t levels, const Limit& limit, double low_speed, const Computed& known) {
    for (std::size_t level = 0; level < levels; ++level) {
        const double mid = 0.5 * (b.low_rpm + b.high_rpm);
        const double e = excess(limit, known.at(mid), low_speed).value_or(-1);
        (e > 0 ? b.high_rpm : b.low_rpm) = mid;
        (e > 0 ? b.high_excess : b.low_excess) = e;
    }
}

void add_tree(double low, double high, std::size_t levels, std::vector<double>& out) {
    if (levels == 0)
        return;
    const double mid = 0.5 * (low + high);
    out.push_back(mid);
    add_tree(low, mid, levels - 1, out);
    add_tree(mid, high, levels - 1, out);
}

void refine_brackets(std::vector<std::optional<Bracket>>& brackets, const std::vector<Limit>& limits,
                     double low_speed, const MetricsAt& refine, const LimitOptions& options) {
    Computed known;
    const auto wanted = [&](std::size_t levels) {
        std::vector<double> speeds;
        for (const auto& b : brackets)
            if (b)
                add_tree(b->low_rpm, b->high_rpm, halvings(*b, options.bisect_to_rpm, levels), speeds);
        return speeds;
    };
    for (;;) {
        std::size_t levels = 3;
        while (levels > 1 && wanted(levels).size() > options.at_once)
            --levels;
        const std::vector<double> speeds = wanted(levels);
        if (speeds.empty())
            return;
        compute_missing(speeds, refine, known);
        for (std::size_t i = 0; i < brackets.size(); ++i)
            if (brackets[i])
                walk(*brackets[i], halvings(*brackets[i], options.bisect_to_rpm, levels), limits[i],
                     low_speed, known);
    }
}

} // namespace

std::vector<Limit> usual_limits() {
    return {{Metric::Loft, "loft", 0.25},
            {Metric::Bounce, "bounce", 0.25},
            {Metric::ContactLoss, "contact_loss", 6},
            {Metric::DurationChange, "duration_change", 4, -10, true},
            {Metric::Seating, "seating", 1.2},
            {Metric::CycleSpread, "cycle_spread", 0.10},
            {Metric::HeldOpen, "held_open", 0.05}};
}

std::optional<double> excess(const Limit& limit, const Metrics& metrics, double low_speed_value) {
    const std::optional<double> value = metrics.in_unit(limit.metric);
    if (!value)
        return std::nullopt;
    const double judged = limit.from_low_speed ? *value - low_speed_value : *value;
    const double over = judged - limit.above;
    return limit.below ? std::max(over, *limit.below - judged) : over;
}

LimitSpeed limit_speed(const std::vector<SpeedMetrics>& rows, const std::vector<Limit>& limits,
                       double low_speed_duration_change_deg, const MetricsAt& refine,
                       const LimitOptions& options) {
    std::vector<std::optional<Bracket>> brackets;
    for (const Limit& limit : limits)
        brackets.push_back(bracket_of(rows, limit, low_speed_duration_change_deg, options.stays_rpm));
    if (refine)
        refine_brackets(brackets, limits, low_speed_duration_change_deg, refine, options);
    LimitSpeed out;
    for (std::size_t i = 0; i < limits.size(); ++i) {
        Crossing crossing{limits[i], std::nullopt};
        if (brackets[i])
            crossing.speed_rpm = linear_crossing(*brackets[i]);
        if (crossing.speed_rpm && (!out.speed_rpm || *crossing.speed_rpm < *out.speed_rpm)) {
            out.speed_rpm = crossing.speed_rpm;
            out.first = limits[i];
        }
        out.crossings.push_back(crossing);
    }
    return out;
}

} // namespace bathmos
