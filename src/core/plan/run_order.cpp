#include "core/plan/run_order.h"

#include "core/tasks/tasks.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>
#include <numeric>
#include <random>

namespace bathmos::plan {

namespace {

constexpr double kNone = std::numeric_limits<double>::infinity();
constexpr double kEarly =
    1e-4; // hours' worth of running the likely best an hour earlier: decides equals alone
constexpr double kSame_h = 1e-9;
constexpr int kKicks = 60;
constexpr std::size_t kKickAtMost = 200; // runs: more take one descent each as it is

using Order = std::vector<std::size_t>;

// Hours between runs, and from and to the baseline.
struct Hours {
    explicit Hours(const OrderQuestion& q) : n(q.runs.size()), table(n * n), first(n), base(n) {
        const Campaign& c = *q.campaign;
        const Combination& before = q.baseline_first ? c.baseline : q.from;
        for (std::size_t i = 0; i < n; ++i) {
            first[i] = change_hours(c, before, q.runs[i]);
            base[i] = change_hours(c, q.runs[i], c.baseline);
            for (std::size_t j = 0; j < n; ++j)
                table[i * n + j] = change_hours(c, q.runs[i], q.runs[j]);
        }
        start = q.baseline_first ? change_hours(c, q.from, c.baseline) + c.run_h : 0;
        to_baseline = change_hours(c, before, c.baseline);
        run = c.run_h;
        every = c.baseline_every;
        since = q.baseline_first ? 0 : q.since_baseline;
    }
    double between(std::size_t i, std::size_t j) const { return table[i * n + j]; }
    // Whether the baseline is run again once so many of the runs were made.
    bool again_after(std::size_t made) const { return every > 0 && made > 0 && (made + since) % every == 0; }
    // From run i, the `made`th, to run j.
    double step(std::size_t i, std::size_t j, std::size_t made) const {
        return again_after(made) ? base[i] + run + base[j] + run : between(i, j) + run;
    }
    double finish(std::size_t i) const { return base[i] + run; }

    std::size_t n;
    std::vector<double> table, first, base;     ///< `first` from what stands before them
    double start = 0, run = 0, to_baseline = 0; ///< `to_baseline` from there, too
    std::size_t every = 0, since = 0;
};

double hours_of(const Hours& h, const Order& order) {
    double out = h.start;
    for (std::size_t k = 0; k < order.size(); ++k)
        out += k == 0 ? h.first[order[0]] + h.run : h.step(order[k - 1], order[k], k);
    return order.empty() ? out : out + h.finish(order.back());
}

// All subsets of few runs: the fewest hours to have made them with each one last.
class Subsets {
  public:
    Subsets(const OrderQuestion& q, const Hours& h, const std::stop_token& stop)
        : q_(q), h_(h), n_(h.n), all_(std::size_t(1) << n_), least_(all_ * n_, kNone), before_(all_ * n_, n_),
          worth_(all_, 0.0) {
        for (std::size_t set = 1; set < all_; ++set) {
            const auto low = static_cast<std::size_t>(std::countr_zero(set));
            worth_[set] = worth_[set & (set - 1)] + q.worth[low];
        }
        for (std::size_t set = 1; set < all_; ++set) {
            if (set % 1024 == 0)
                throw_if_stopped(stop);
            fill(set);
        }
    }
    RunOrder best() const {
        std::size_t chosen = 0;
        double fewest = h_.start;
        for (std::size_t set = 1; set < all_; ++set) {
            const double hours = finished(set);
            if (hours > q_.hours + kSame_h)
                continue;
            const double more = worth_[set] - worth_[chosen];
            const bool larger = std::popcount(set) > std::popcount(chosen);
            if (more > 1e-12 ||
                (std::abs(more) <= 1e-12 &&
                 (larger || (hours < fewest && std::popcount(set) == std::popcount(chosen))))) {
                chosen = set;
                fewest = hours;
            }
        }
        return order_of(chosen);
    }

  private:
    double& least(std::size_t set, std::size_t last) { return least_[set * n_ + last]; }
    double least(std::size_t set, std::size_t last) const { return least_[set * n_ + last]; }
    // An hour costs a little more while what is likely the best has not been run yet.
    double weighed(double hours, std::size_t made) const {
        return hours * (1 + kEarly * (worth_[all_ - 1] - worth_[made]));
    }
    void fill(std::size_t set) {
        const auto count = static_cast<std::size_t>(std::popcount(set));
        for (std::size_t last = 0; last < n_; ++last) {
            if (!(set >> last & 1))
                continue;
            const std::size_t rest = set & ~(std::size_t(1) << last);
            if (rest == 0) {
                least(set, last) = weighed(h_.first[last] + h_.run, 0);
                continue;
            }
            for (std::size_t from = 0; from < n_; ++from) {
                if (!(rest >> from & 1))
                    continue;
                const double hours = least(rest, from) + weighed(h_.step(from, last, count - 1), rest);
                if (hours < least(set, last)) {
                    least(set, last) = hours;
                    before_[set * n_ + last] = from;
                }
            }
        }
    }
    std::size_t last_of(std::size_t set) const {
        std::size_t best = n_;
        for (std::size_t last = 0; last < n_; ++last)
            if (set >> last & 1 &&
                (best == n_ || least(set, last) + h_.finish(last) < least(set, best) + h_.finish(best)))
                best = last;
        return best;
    }
    double finished(std::size_t set) const {
        const std::size_t last = last_of(set);
        return h_.start + least(set, last) + h_.finish(last);
    }
    RunOrder order_of(std::size_t set) const {
        RunOrder out;
        for (std::size_t last = set ? last_of(set) : n_; last < n_;) {
            out.order.push_back(last);
            const std::size_t from = before_[set * n_ + last];
            set &= ~(std::size_t(1) << last);
            last = from;
        }
        std::ranges::reverse(out.order);
        out.hours = out.bound_h = hours_of(h_, out.order);
        return out;
    }

    const OrderQuestion& q_;
    const Hours& h_;
    std::size_t n_, all_;
    std::vector<double> least_;
    std::vector<std::size_t> before_;
    std::vector<double> worth_;
};

// Moves pieces of the order, as they are or turned round, as long as that saves hours.
void descend(const Hours& h, Order& order, const std::stop_token& stop) {
    double now = hours_of(h, order);
    for (bool better = true; better;) {
        better = false;
        throw_if_stopped(stop);
        for (std::size_t i = 0; i < order.size(); ++i)
            for (std::size_t j = i + 1; j < order.size(); ++j) {
                Order turned = order;
                std::reverse(turned.begin() + static_cast<std::ptrdiff_t>(i),
                             turned.begin() + static_cast<std::ptrdiff_t>(j) + 1);
                Order later = order;
                std::rotate(later.begin() + static_cast<std::ptrdiff_t>(i),
                            later.begin() + static_cast<std::ptrdiff_t>(i) + 1,
                            later.begin() + static_cast<std::ptrdiff_t>(j) + 1);
                Order sooner = order;
                std::rotate(sooner.begin() + static_cast<std::ptrdiff_t>(i),
                            sooner.begin() + static_cast<std::ptrdiff_t>(j),
                            sooner.begin() + static_cast<std::ptrdiff_t>(j) + 1);
                for (Order* tried : {&turned, &later, &sooner})
                    if (const double hours = hours_of(h, *tried); hours < now - kSame_h) {
                        now = hours;
                        order = *tried;
                        better = true;
                    }
            }
    }
}

// The nearest that is left, from a run on.
Order nearest_first(const Hours& h, const Order& runs) {
    Order left = runs, out;
    while (!left.empty()) {
        const auto at = std::ranges::min_element(
            left, {}, [&](std::size_t i) { return out.empty() ? h.first[i] : h.between(out.back(), i); });
        out.push_back(*at);
        left.erase(at);
    }
    return out;
}

// By the dearest factor, then the next: what changes seldom stands outermost, back and forth within.
Order dearest_outermost(const OrderQuestion& q, const Order& runs) {
    std::vector<std::size_t> factors(q.campaign->factors.size());
    std::iota(factors.begin(), factors.end(), std::size_t(0));
    std::ranges::stable_sort(factors, std::greater(),
                             [&](std::size_t f) { return q.campaign->factors[f].change_h; });
    Order out = runs;
    std::ranges::sort(out, [&](std::size_t a, std::size_t b) {
        bool back = false;
        for (const std::size_t f : factors) {
            const std::size_t x = q.runs[a][f], y = q.runs[b][f];
            if (x != y)
                return back ? x > y : x < y;
            back = back != (x % 2 == 1);
        }
        return a < b;
    });
    return out;
}

// A kick: three pieces change places.
void kick(Order& order, std::mt19937& engine) {
    if (order.size() < 4)
        return;
    std::array<std::size_t, 3> cut{};
    for (std::size_t& at : cut)
        at = 1 + engine() % (order.size() - 1);
    std::ranges::sort(cut);
    const auto begin = order.begin();
    std::rotate(begin + static_cast<std::ptrdiff_t>(cut[0]), begin + static_cast<std::ptrdiff_t>(cut[1]),
                begin + static_cast<std::ptrdiff_t>(cut[2]));
}

Order searched(const OrderQuestion& q, const Hours& h, const Order& runs, const std::stop_token& stop) {
    Order best;
    for (Order start : {dearest_outermost(q, runs), nearest_first(h, runs)}) {
        descend(h, start, stop);
        if (best.empty() || hours_of(h, start) < hours_of(h, best))
            best = start;
    }
    if (runs.size() > kKickAtMost)
        return best;
    std::mt19937 engine(1);
    for (int i = 0; i < kKicks; ++i) {
        Order tried = best;
        kick(tried, engine);
        descend(h, tried, stop);
        if (hours_of(h, tried) < hours_of(h, best) - kSame_h)
            best = tried;
    }
    return best;
}

// No order changes less than the least tree that joins all runs, what stands before them and the baseline,
// which is run in any case.
double bound_of(const Hours& h, const Order& runs) {
    if (runs.empty())
        return h.start;
    std::vector<double> nearest; // of each run, and last of the baseline, to what is joined already
    for (const std::size_t i : runs)
        nearest.push_back(h.first[i]);
    nearest.push_back(h.to_baseline);
    std::vector<bool> joined(nearest.size(), false);
    double out = h.start + h.run * static_cast<double>(runs.size() + 1);
    for (std::size_t round = 0; round < nearest.size(); ++round) {
        std::size_t next = nearest.size();
        for (std::size_t i = 0; i < nearest.size(); ++i)
            if (!joined[i] && (next == nearest.size() || nearest[i] < nearest[next]))
                next = i;
        joined[next] = true;
        out += nearest[next];
        for (std::size_t i = 0; i < nearest.size(); ++i) {
            const bool from_base = next == runs.size(), to_base = i == runs.size();
            const double apart = from_base && to_base ? 0
                                 : from_base          ? h.base[runs[i]]
                                 : to_base            ? h.base[runs[next]]
                                                      : h.between(runs[next], runs[i]);
            nearest[i] = std::min(nearest[i], apart);
        }
    }
    for (std::size_t made = 1; made < runs.size(); ++made)
        out += h.again_after(made) ? h.run : 0;
    return out;
}

RunOrder by_search(const OrderQuestion& q, const Hours& h, const std::stop_token& stop) {
    Order runs(h.n);
    std::iota(runs.begin(), runs.end(), std::size_t(0));
    std::ranges::stable_sort(runs, std::greater(), [&](std::size_t i) { return q.worth[i]; });
    RunOrder out;
    out.exact = false;
    while (true) {
        out.order = searched(q, h, runs, stop);
        out.hours = hours_of(h, out.order);
        if (out.hours <= q.hours + kSame_h || runs.empty())
            break;
        // As many as surely do not fit at once, one at a time near the end.
        const double over =
            (out.hours - q.hours) / std::max(h.run, out.hours / static_cast<double>(runs.size()));
        const std::size_t most = std::max<std::size_t>(1, static_cast<std::size_t>(over / 2));
        runs.resize(runs.size() - std::min(runs.size(), most));
    }
    out.bound_h = bound_of(h, out.order);
    return out;
}

} // namespace

double hours_of(const OrderQuestion& question, const std::vector<std::size_t>& order) {
    return hours_of(Hours(question), order);
}

std::vector<OrderedRun> with_baselines(const OrderQuestion& question, const std::vector<std::size_t>& order) {
    const Campaign& c = *question.campaign;
    const Hours h(question);
    std::vector<OrderedRun> out;
    const Combination* now = &question.from;
    const auto add = [&](const Combination& levels, bool baseline) {
        out.push_back({&levels, baseline, change_hours(c, *now, levels)});
        now = &levels;
    };
    if (question.baseline_first)
        add(c.baseline, true);
    for (std::size_t k = 0; k < order.size(); ++k) {
        if (h.again_after(k))
            add(c.baseline, true);
        add(question.runs[order[k]], false);
    }
    if (!order.empty())
        add(c.baseline, true);
    return out;
}

RunOrder least_rework(const OrderQuestion& question, const std::stop_token& stop) {
    const Hours h(question);
    RunOrder out = h.n <= kMostExact ? Subsets(question, h, stop).best() : by_search(question, h, stop);
    if (out.order.empty())
        out.hours = out.bound_h = h.start;
    return out;
}

} // namespace bathmos::plan
