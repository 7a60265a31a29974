#include "core/motion/limits.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

struct LimitSearch::Bracket {
    double low_rpm, high_rpm;
    double low_excess, high_excess;

    std::size_t halvings(double width) const {
        return static_cast<std::size_t>(
            std::max(0.0, std::ceil(std::log2((high_rpm - low_rpm) / width) - 1e-9)));
    }
    double linear_crossing() const {
        if (high_rpm <= low_rpm || high_excess <= low_excess)
            return high_rpm;
        return low_rpm + (high_rpm - low_rpm) * -low_excess / (high_excess - low_excess);
    }
};

std::vector<Limit> usual_limits() {
    return {{Metric::Loft, "loft", 0.25},
            {Metric::Bounce, "bounce", 0.25},
            {Metric::ContactLoss, "contact_loss", 6},
            {Metric::DurationChange, "duration_change", 4, -10, true},
            {Metric::Seating, "seating", 1.2},
            {Metric::CycleVariation, "cycle_spread", 0.10},
            {Metric::HeldOpen, "held_open", 0.05}};
}

const Limit* LimitsInForce::find(std::string_view key) const {
    for (const Limit& limit : list)
        if (limit.key == key)
            return &limit;
    return nullptr;
}
const Limit* LimitsInForce::find(Metric metric) const {
    for (const Limit& limit : list)
        if (limit.metric == metric)
            return &limit;
    return nullptr;
}

std::optional<double> contact_loss_rpm(const LimitSpeed& limit) {
    for (const Crossing& crossing : limit.crossings)
        if (crossing.limit.metric == Metric::ContactLoss)
            return crossing.speed_rpm;
    return std::nullopt;
}

namespace {

double seen_at(const std::vector<SpeedFactor>& seen, double speed_rpm) {
    const auto above = std::ranges::lower_bound(seen, speed_rpm, {}, &SpeedFactor::speed_rpm);
    if (above == seen.begin() || above == seen.end())
        return seen.empty() ? 1 : above == seen.end() ? seen.back().factor : above->factor;
    const SpeedFactor &a = *std::prev(above), &b = *above;
    return std::lerp(a.factor, b.factor, (speed_rpm - a.speed_rpm) / (b.speed_rpm - a.speed_rpm));
}

} // namespace

std::optional<double> excess(const Limit& limit, const SpeedMetrics& row, double low_speed_value) {
    const std::optional<double> value = row.metrics.in_unit(limit.metric);
    if (!value)
        return std::nullopt;
    const double seen = *value * seen_at(limit.seen, row.speed_rpm);
    const double judged = limit.from_low_speed ? seen - low_speed_value : seen;
    const double over = judged - limit.above;
    return limit.below ? std::max(over, *limit.below - judged) : over;
}

LimitSearch::LimitSearch(std::vector<double> swept_rpm, std::vector<Limit> limits, LimitOptions options)
    : swept_(std::move(swept_rpm)), limits_(std::move(limits)), options_(options) {
    asked_.insert(swept_.begin(), swept_.end());
    low_speed_ = options_.assumed_low_speed_deg.value_or(0);
}

void LimitSearch::put(double speed_rpm, const Metrics& metrics) {
    if (speed_rpm == kLowSpeed_rpm)
        low_speed_ = metrics[Metric::DurationChange].value_or(0);
    known_[speed_rpm] = metrics;
    asked_.insert(speed_rpm); // so that what is still out is the difference of the two
}

bool LimitSearch::swept() const {
    return std::all_of(swept_.begin(), swept_.end(), [&](double rpm) { return known_.contains(rpm); });
}

// The lowest swept step over the limit that stays over it, as far as all speeds up to there are in; empty if
// none. A speed without a value does not count as crossed.
std::optional<LimitSearch::Bracket> LimitSearch::bracket_of(const Limit& limit, double low_speed) const {
    std::vector<std::optional<double>> over; // of the speeds in, from below
    for (double rpm : swept_) {
        const auto at = known_.find(rpm);
        if (at == known_.end())
            break;
        over.push_back(excess(limit, {at->first, at->second}, low_speed));
    }
    const auto crossed = [&](std::size_t i) { return over[i].value_or(-1) > 0; };
    for (std::size_t i = 0; i < over.size(); ++i) {
        if (!crossed(i))
            continue;
        bool stays = true;
        for (std::size_t j = i + 1; stays && j < swept_.size() && swept_[j] <= swept_[i] + options_.stays_rpm;
             ++j)
            stays = j < over.size() && crossed(j);
        if (!stays)
            continue;
        if (i == 0)
            return Bracket{swept_[0], swept_[0], 0, *over[0]};
        return Bracket{swept_[i - 1], swept_[i], over[i - 1].value_or(-*over[i]), *over[i]};
    }
    return std::nullopt;
}

// Halves a bracket as far as its middles are known.
void LimitSearch::walk(Bracket& b, const Limit& limit, double low_speed) const {
    while (b.halvings(options_.bisect_to_rpm) > 0) {
        const double mid = 0.5 * (b.low_rpm + b.high_rpm);
        const auto at = known_.find(mid);
        if (at == known_.end())
            return;
        const double e = excess(limit, {at->first, at->second}, low_speed).value_or(-1);
        (e > 0 ? b.high_rpm : b.low_rpm) = mid;
        (e > 0 ? b.high_excess : b.low_excess) = e;
    }
}

std::vector<double> LimitSearch::next() {
    std::vector<double> out;
    const auto ask = [&](double rpm) {
        if (asked_.insert(rpm).second)
            out.push_back(rpm);
    };
    std::vector<Bracket> open;
    for (const Limit& limit : limits_) {
        std::optional<Bracket> b = bracket_of(limit, low_speed_);
        const bool waits = limit.from_low_speed && !options_.assumed_low_speed_deg;
        if (!b || (waits && !known_.contains(kLowSpeed_rpm)))
            continue;
        walk(*b, limit, low_speed_);
        if (b->halvings(options_.bisect_to_rpm) > 0)
            open.push_back(*b);
    }
    for (const Bracket& b : open) { // the likely way down
        const double target = b.linear_crossing();
        double low = b.low_rpm, high = b.high_rpm;
        for (std::size_t level = b.halvings(options_.bisect_to_rpm); level > 0; --level) {
            const double mid = 0.5 * (low + high);
            ask(mid);
            (target > mid ? low : high) = mid;
        }
    }
    // while there is room, the other ways too: quarters, then eighths
    for (const double pieces : {4.0, 8.0})
        for (const Bracket& b : open)
            for (double i = 1; i < pieces && asked_.size() - known_.size() < options_.at_once &&
                               pieces <= std::exp2(b.halvings(options_.bisect_to_rpm));
                 i += 2)
                ask(b.low_rpm + (b.high_rpm - b.low_rpm) * i / pieces);
    return out;
}

std::vector<double> LimitSearch::ahead(double rpm) {
    std::vector<double> out;
    const auto above = std::upper_bound(swept_.begin(), swept_.end(), rpm);
    if (above == swept_.begin() || above == swept_.end())
        return out;
    double low = *std::prev(above), high = *above;
    for (const double share : {0.25, 0.75}) // the guess may be on the wrong side of the middle
        if (asked_.insert(low + share * (high - low)).second)
            out.push_back(low + share * (high - low));
    while (high - low > options_.bisect_to_rpm) {
        const double mid = 0.5 * (low + high);
        if (asked_.insert(mid).second)
            out.push_back(mid);
        (rpm > mid ? low : high) = mid;
    }
    return out;
}

LimitSpeed LimitSearch::result() const {
    return result_if(low_speed_);
}

bool LimitSearch::hangs_on_low_speed(double by_deg) const {
    const LimitSpeed now = result();
    for (const double low_speed : {low_speed_ - by_deg, low_speed_ + by_deg})
        if (result_if(low_speed).speed_rpm != now.speed_rpm)
            return true;
    return now.first && now.first->from_low_speed;
}

LimitSpeed LimitSearch::result_if(double low_speed) const {
    LimitSpeed out;
    for (const Limit& limit : limits_) {
        Crossing crossing{limit, std::nullopt};
        if (std::optional<Bracket> b = bracket_of(limit, low_speed)) {
            walk(*b, limit, low_speed);
            crossing.speed_rpm = b->linear_crossing();
        }
        if (crossing.speed_rpm && (!out.speed_rpm || *crossing.speed_rpm < *out.speed_rpm)) {
            out.speed_rpm = crossing.speed_rpm;
            out.first = limit;
        }
        out.crossings.push_back(crossing);
    }
    if (out.speed_rpm)
        out.free_again = free_above(*out.speed_rpm, low_speed);
    return out;
}

std::optional<FreeAgain> LimitSearch::free_above(double limit_rpm, double low_speed) const {
    auto from = std::ranges::lower_bound(swept_, limit_rpm);
    if (!swept() || from == swept_.end())
        return std::nullopt;
    const auto excess_at = [&](const Limit& limit, double rpm) {
        return excess(limit, {rpm, known_.at(rpm)}, low_speed);
    };
    const auto over = [&, crossed_rpm = *from](double rpm) {
        return std::ranges::any_of(limits_, [&](const Limit& limit) {
            const std::optional<double> here = excess_at(limit, rpm);
            return here ? *here > 0 : excess_at(limit, crossed_rpm).has_value(); // nothing is told of it here
        });
    };
    while ((from = std::find_if_not(from, swept_.end(), over)) != swept_.end()) {
        const auto end = std::find_if(from, swept_.end(), over);
        if (*std::prev(end) >= *from + options_.stays_rpm)
            return FreeAgain{*from, *std::prev(end)};
        from = end;
    }
    return std::nullopt;
}

std::vector<SpeedMetrics> LimitSearch::rows() const {
    std::vector<SpeedMetrics> out;
    for (double rpm : swept_)
        if (const auto at = known_.find(rpm); at != known_.end())
            out.push_back({rpm, at->second});
    return out;
}

LimitSpeed limit_speed(const std::vector<SpeedMetrics>& rows, const std::vector<Limit>& limits,
                       double low_speed_duration_change_deg, const LimitOptions& options) {
    std::vector<double> speeds;
    for (const SpeedMetrics& row : rows)
        speeds.push_back(row.speed_rpm);
    LimitSearch search(speeds, limits, options);
    Metrics low;
    low[Metric::DurationChange] = low_speed_duration_change_deg;
    search.put(kLowSpeed_rpm, low);
    for (const SpeedMetrics& row : rows)
        search.put(row.speed_rpm, row.metrics);
    return search.result();
}

} // namespace bathmos
