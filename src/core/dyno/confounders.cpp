#include "core/dyno/confounders.h"

#include "core/math/robust.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kSettled = 0.15; // share of the range where pulls are still settling
constexpr double kPlaces_rpm = 25, kLeastSeen_rpm = 150;

const ConfounderInfo kConfounderInfo[kConfounders] = {
    {"belt_slip",
     "Drive belt of the blower slips",
     {PullChannel::Blower, PullChannel::Manifold},
     "log the blower's speed beside the crank's, or mark belt and pulley with chalk for one pull"},
    {"mixture",
     "Mixture or fuel pressure moves",
     {PullChannel::Lambda, PullChannel::FuelPressure},
     "log lambda and rail pressure, or pull once with 3 % more fuel"},
    {"spark",
     "Spark breaks up under load",
     {PullChannel::Misfire, PullChannel::Lambda},
     "log misfires, or pull once with plug gaps closed by 0.2 mm"},
    {"intake_loss",
     "Intake loses pressure",
     {PullChannel::Inlet, PullChannel::Manifold},
     "log pressure after the filter, or pull once without filter and hose"},
    {"throttle",
     "Throttle closes",
     {PullChannel::Throttle},
     "log the throttle, or look at the stop with the pedal down"},
    {"knock",
     "Knock control retards the spark",
     {PullChannel::Knock, PullChannel::Spark},
     "log retard and advance, or pull once on better fuel"},
    {"oil", "Oil pressure falls", {PullChannel::Oil}, "log oil pressure at the main gallery"},
    {"driver", "Driver lifts", {PullChannel::Throttle}, "log the throttle, or pull once more to the end"},
    {"limiter",
     "Limiter cuts in",
     {PullChannel::Limiter},
     "log the limiter, or read its speed in the control"},
};

// Sum of squares that a level with a step, or with a slope, from a speed on leaves.
double squares_from(const std::vector<double>& x, const std::vector<double>& y, double from, bool step) {
    double n = 0, su = 0, sy = 0, suu = 0, suy = 0, syy = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double u = x[i] <= from ? 0 : step ? 1 : x[i] - from;
        n += 1;
        su += u;
        sy += y[i];
        suu += u * u;
        suy += u * y[i];
        syy += y[i] * y[i];
    }
    const double uu = suu - su * su / n, uy = suy - su * sy / n, yy = syy - sy * sy / n;
    return uu > 0 ? yy - uy * uy / uu : yy;
}

// Where a channel leaves its level, at once or growing, by least squares; the deviation from how far that
// place can be moved before the squares grow by four times a reading's own.
std::optional<Beginning> beginning_of(const std::vector<double>& rpm, const std::vector<double>& values) {
    const double low = rpm.front(), span = rpm.back() - low;
    std::vector<double> x, y;
    for (std::size_t i = 0; i < rpm.size(); ++i)
        if (std::isfinite(values[i]) && rpm[i] > low + kSettled * span) {
            x.push_back(rpm[i]);
            y.push_back(values[i]);
        }
    if (x.size() < 12)
        return std::nullopt;
    const double shift = median(y); // so that squares of large numbers keep their digits
    for (double& one : y)
        one -= shift;
    std::vector<std::pair<double, double>> tried; // place, squares
    for (double from = x.front() + kSettled * span; from < rpm.back() - kLeastSeen_rpm; from += kPlaces_rpm)
        tried.emplace_back(from, std::min(squares_from(x, y, from, true), squares_from(x, y, from, false)));
    if (tried.empty())
        return std::nullopt;
    const auto best = *std::ranges::min_element(tried, {}, &std::pair<double, double>::second);
    const double enough = best.second * (1 + 4 / static_cast<double>(x.size() - 3));
    double first = best.first, last = best.first;
    for (const auto& [place, squares] : tried)
        if (squares <= enough) {
            first = std::min(first, place);
            last = std::max(last, place);
        }
    return Beginning{best.first, (last - first) / 4};
}

// A channel against its own mid-range: how far its top end has moved, and from where on.
struct Drift {
    bool usable = false;
    double mid = 0, top = 0, noise = 0;
    std::optional<double> from_rpm;
    std::optional<Beginning> begins;
    double moved() const { return top - mid; }
};

// `threshold`: a move that matters, in the channel's own unit; negative where a fall does.
Drift drift_of(const std::vector<double>& rpm, const std::vector<double>& values, double threshold) {
    Drift out;
    const double low = rpm.front(), span = rpm.back() - low;
    std::vector<double> mid, top;
    for (std::size_t i = 0; i < rpm.size(); ++i) {
        if (!std::isfinite(values[i]))
            continue;
        const double share = (rpm[i] - low) / span;
        if (share > 0.2 && share < 0.6)
            mid.push_back(values[i]);
        if (share > 0.93)
            top.push_back(values[i]);
    }
    if (mid.size() < 3 || top.empty())
        return out;
    out.usable = true;
    out.mid = median(mid);
    out.top = median(top);
    out.noise = robust_sd(mid);
    for (std::size_t i = rpm.size(); i-- > 0;) {
        std::vector<double> near;
        for (std::size_t k = i < 3 ? 0 : i - 3; k < std::min(rpm.size(), i + 4); ++k)
            if (std::isfinite(values[k]))
                near.push_back(values[k]);
        if (near.empty())
            continue;
        if ((median(near) - out.mid) / threshold < 0.5)
            break;
        out.from_rpm = rpm[i];
    }
    out.begins = beginning_of(rpm, values);
    return out;
}

// 0.5 at the threshold, towards 1 at twice it; nothing where the move drowns in noise.
double sureness(const Drift& d, double threshold) {
    if (!d.usable)
        return 0;
    const double size = d.moved() / threshold;
    const double clear = std::abs(d.moved()) / std::max(1e-12, d.noise);
    return clear < 1.5 ? 0.02 : std::clamp(1 / (1 + std::exp(-5 * (size - 1))), 0.02, 0.98);
}

struct Look {
    const Pull& pull;
    const PullAnalysis& analysis;
    std::vector<double> on(PullChannel c) const { return channel_on(pull, c, analysis.curve); }
    const std::vector<double>& rpm() const { return analysis.curve.speed_rpm; }
    /// Ambient pressure: the barometer's median, or a usual one.
    double outside_Pa() const {
        std::vector<double> read;
        for (double value : pull[PullChannel::Barometer])
            if (std::isfinite(value))
                read.push_back(value);
        return read.empty() ? 101e3 : median(read);
    }
};

// Power against the best mixture and against the best advance falls as a parabola [H, 15.3]: 4 %
// at lambda 1 where 0.88 is best, 5 % at 10 degrees of retard.
constexpr double kBestLambda = 0.88, kLambdaLoss = 2.8, kRetardLoss_per_deg2 = 5e-4;

double lambda_takes(const Drift& d) {
    const auto lost = [](double lambda) { return kLambdaLoss * std::pow(lambda - kBestLambda, 2); };
    return std::max(0.0, lost(d.top) - lost(d.mid));
}

double retard_takes(const Drift& d) {
    return kRetardLoss_per_deg2 * std::pow(degrees(d.moved()), 2);
}

// Power goes with the air, and the air with pressure or with the blower's speed.
double air_takes(const Drift& d, double whole) {
    return std::max(0.0, -d.moved() / whole);
}

void conclude(ConfounderTest& t, PullChannel channel, double seen, const Drift& d, MeasuredText text,
              std::optional<double> takes = {}) {
    if (!d.usable || (t.status != TestStatus::NotLogged && seen <= t.seen))
        return;
    t.status = seen >= 0.5 ? TestStatus::Seen : TestStatus::Clear;
    t.seen = seen;
    t.channel = channel;
    t.from_rpm = seen >= 0.5 ? d.from_rpm : std::nullopt;
    t.begins = seen >= 0.5 ? d.begins : std::nullopt;
    t.text = std::move(text);
    t.takes = seen >= 0.5 ? takes : std::nullopt;
}

MeasuredText from_mid_to_top(const std::string& pressure, const Drift& d) {
    return {pressure + " {} in the mid-range, {} at the top",
            {{Quantity::Pressure, d.mid}, {Quantity::Pressure, d.top}}};
}

void test_belt(const Look& look, ConfounderTest& t) {
    const std::vector<double> blower = look.on(PullChannel::Blower);
    if (!blower.empty()) {
        std::vector<double> ratio(blower.size());
        for (std::size_t i = 0; i < blower.size(); ++i)
            ratio[i] = blower[i] / look.rpm()[i];
        const Drift level = drift_of(look.rpm(), ratio, -1);
        const double threshold = -0.015 * level.mid;
        const Drift d = drift_of(look.rpm(), ratio, threshold);
        return conclude(
            t, PullChannel::Blower, sureness(d, threshold), d,
            fmt::format("blower over crank speed {:.3f} in the mid-range, {:.3f} at the top", d.mid, d.top),
            air_takes(d, d.mid));
    }
    const std::vector<double> map = look.on(PullChannel::Manifold);
    if (map.empty())
        return;
    const double outside = look.outside_Pa();
    const Drift d = drift_of(look.rpm(), map, -0.04 * outside);
    if (d.usable && d.mid < 1.08 * outside)
        return conclude(t, PullChannel::Manifold, 0.02, d,
                        {"no blower: {} in the manifold", {{Quantity::Pressure, d.mid}}});
    // Pressure that falls may have another reason: six tenths of sure at most.
    conclude(t, PullChannel::Manifold, 0.6 * sureness(d, -0.04 * outside), d,
             from_mid_to_top("manifold pressure", d), air_takes(d, d.mid));
}

void test_mixture(const Look& look, ConfounderTest& t) {
    if (const auto fuel = look.on(PullChannel::FuelPressure); !fuel.empty()) {
        const Drift level = drift_of(look.rpm(), fuel, -1);
        const Drift d = drift_of(look.rpm(), fuel, -0.06 * level.mid);
        conclude(t, PullChannel::FuelPressure, sureness(d, -0.06 * level.mid), d,
                 from_mid_to_top("fuel pressure", d));
    }
    if (const auto lambda = look.on(PullChannel::Lambda); !lambda.empty()) {
        const Drift up = drift_of(look.rpm(), lambda, 0.025), down = drift_of(look.rpm(), lambda, -0.05);
        const bool lean = sureness(up, 0.025) >= sureness(down, -0.05);
        const Drift& d = lean ? up : down;
        double seen = lean ? sureness(up, 0.025) : sureness(down, -0.05);
        if (look.pull.has(PullChannel::FuelPressure) && t.seen < 0.2)
            seen *= 0.7; // the rail holds: lambda may move because of misfires
        conclude(t, PullChannel::Lambda, seen, d,
                 fmt::format("lambda {:.3f} in the mid-range, {:.3f} at the top", d.mid, d.top),
                 lambda_takes(d));
    }
}

// How much a channel jumps from reading to reading, over speed.
std::vector<double> jumps(const std::vector<double>& v) {
    std::vector<double> out(v.size(), std::nan(""));
    for (std::size_t i = 1; i + 1 < v.size(); ++i)
        out[i] = std::abs(v[i] - 0.5 * (v[i - 1] + v[i + 1]));
    return out;
}

void test_spark(const Look& look, ConfounderTest& t) {
    if (const auto misfire = look.on(PullChannel::Misfire); !misfire.empty()) {
        const Drift d = drift_of(look.rpm(), misfire, 0.012);
        return conclude(
            t, PullChannel::Misfire, sureness(d, 0.012), d,
            fmt::format("misfires {:.1f} % in the mid-range, {:.1f} % at the top", 100 * d.mid, 100 * d.top),
            std::max(0.0, d.moved()));
    }
    const auto lambda = look.on(PullChannel::Lambda);
    if (lambda.empty())
        return;
    const Drift level = drift_of(look.rpm(), jumps(lambda), 1);
    const double threshold = std::max(0.004, 1.5 * level.mid);
    Drift d = drift_of(look.rpm(), jumps(lambda), threshold);
    d.noise = std::min(d.noise, threshold / 2);
    if (d.begins) // what comes and goes from reading to reading is not there at each of them
        d.from_rpm = d.begins->speed_rpm;
    // Lambda that jumps speaks for unburnt mixture; one that holds still speaks against it less surely.
    conclude(
        t, PullChannel::Lambda, std::max(0.1, 0.92 * sureness(d, threshold)), d,
        fmt::format("lambda jumps by {:.3f} from reading to reading in the mid-range, by {:.3f} at the top",
                    d.mid, d.top));
}

// Loss of pressure of flow through one and the same opening grows with the speed squared; what is more than
// that is a hose that closes or a filter that clogs.
void test_intake(const Look& look, ConfounderTest& t) {
    const double outside = look.outside_Pa();
    for (PullChannel c : {PullChannel::Inlet, PullChannel::Manifold}) {
        const auto pressure = look.on(c);
        if (pressure.empty())
            continue;
        const Drift level = drift_of(look.rpm(), pressure, -1);
        if (c == PullChannel::Manifold &&
            (!level.usable || level.mid > 1.08 * outside || t.status != TestStatus::NotLogged))
            continue; // a blower's pressure says nothing of the intake before it
        std::vector<double> x, y, rest(pressure.size());
        const double low = look.rpm().front(), span = look.analysis.curve.span_rpm();
        for (std::size_t i = 0; i < pressure.size(); ++i)
            if (std::isfinite(pressure[i]) && look.rpm()[i] < low + 0.6 * span) {
                x.push_back(std::pow(look.rpm()[i] / 1000, 2));
                y.push_back(pressure[i]);
            }
        const auto line = robust_line(x, y);
        if (!line)
            continue;
        const double slope = std::min(0.0, line->b);
        for (std::size_t i = 0; i < pressure.size(); ++i)
            rest[i] = pressure[i] - slope * std::pow(look.rpm()[i] / 1000, 2);
        const Drift d = drift_of(look.rpm(), rest, -2e3);
        conclude(t, c, sureness(d, -2e3), d,
                 {std::string(c == PullChannel::Inlet ? "inlet" : "manifold") +
                      " pressure falls by {} more than with speed squared",
                  {{Quantity::Pressure, std::max(0.0, -d.moved())}}},
                 air_takes(d, outside));
    }
}

void test_throttle(const Look& look, ConfounderTest& t) {
    const auto throttle = look.on(PullChannel::Throttle);
    if (throttle.empty())
        return;
    const Drift d = drift_of(look.rpm(), throttle, -0.05);
    // A foot that is lifted closes it at once, at the very end; a linkage or a control lets it creep.
    double seen = sureness(d, -0.05);
    if (look.analysis.curve.lifted && d.from_rpm && look.rpm().back() - *d.from_rpm < 150)
        seen *= 0.2;
    conclude(
        t, PullChannel::Throttle, seen, d,
        fmt::format("throttle {:.0f} % in the mid-range, {:.0f} % at the top", 100 * d.mid, 100 * d.top));
}

void test_knock(const Look& look, ConfounderTest& t) {
    for (const auto& [c, threshold] :
         {std::pair{PullChannel::Knock, radians(1.5)}, {PullChannel::Spark, -radians(2)}}) {
        const auto values = look.on(c);
        if (values.empty())
            continue;
        const Drift d = drift_of(look.rpm(), values, threshold);
        conclude(t, c, sureness(d, threshold) * (c == PullChannel::Spark ? 0.9 : 1), d,
                 fmt::format("{} {:.1f}° in the mid-range, {:.1f}° at the top",
                             c == PullChannel::Knock ? "knock retard" : "spark advance", degrees(d.mid),
                             degrees(d.top)),
                 retard_takes(d));
    }
}

void test_oil(const Look& look, ConfounderTest& t) {
    const auto oil = look.on(PullChannel::Oil);
    if (oil.empty())
        return;
    const Drift level = drift_of(look.rpm(), oil, -1);
    const Drift d = drift_of(look.rpm(), oil, -0.08 * level.mid);
    conclude(t, PullChannel::Oil, sureness(d, -0.08 * level.mid), d, from_mid_to_top("oil pressure", d));
}

void test_driver(const Look& look, ConfounderTest& t) {
    const PullAnalysis& a = look.analysis;
    const auto throttle = look.on(PullChannel::Throttle);
    Drift d;
    d.usable = true;
    if (!throttle.empty()) {
        double open = 0, last = 1;
        for (std::size_t i = 0; i < throttle.size(); ++i)
            if (std::isfinite(throttle[i])) {
                open = std::max(open, throttle[i]);
                last = throttle[i];
                if (throttle[i] < open - 0.1 && !d.from_rpm)
                    d.from_rpm = look.rpm()[i];
            }
        const bool at_once = d.from_rpm && look.rpm().back() - *d.from_rpm < 150;
        const double seen = last < open - 0.1 && at_once ? (a.curve.lifted ? 0.97 : 0.7) : 0.03;
        return conclude(t, PullChannel::Throttle, seen, d,
                        fmt::format("throttle {:.0f} % at its widest, {:.0f} % at the run's last reading",
                                    100 * open, 100 * last));
    }
    // Without it: power that is gone within the last readings, and speed that falls back.
    if (!a.curve.lifted)
        return;
    d.from_rpm = a.cut ? std::optional(a.cut->speed_rpm) : std::nullopt;
    conclude(t, PullChannel::Power, a.cut && a.curve.speed_rpm.back() - a.cut->speed_rpm < 150 ? 0.8 : 0.15,
             d,
             a.cut ? fmt::format("{:.0f} % of the power is gone at {:.0f} rev/min and the speed falls back",
                                 100 * a.cut->share, a.cut->speed_rpm)
                   : "the speed falls back after the run's end");
}

void test_limiter(const Look& look, ConfounderTest& t) {
    Drift d;
    d.usable = true;
    const std::vector<double>& rpm = look.pull[PullChannel::Speed];
    const std::vector<double>& limiter = look.pull[PullChannel::Limiter];
    if (!limiter.empty()) {
        // Up to the run's end: a control cuts fuel on the way back, too.
        for (std::size_t i = 0; i < look.analysis.curve.rows && !d.from_rpm; ++i)
            if (limiter[i] > 0.5)
                d.from_rpm = rpm[i];
        return conclude(t, PullChannel::Limiter, d.from_rpm ? 0.98 : 0.02, d,
                        d.from_rpm ? fmt::format("the control cuts from {:.0f} rev/min", *d.from_rpm)
                                   : "the control never cuts");
    }
    // Without it: the speed stands still at its highest while power jumps.
    const std::vector<double>& power = look.pull[PullChannel::Power];
    const double top = look.analysis.curve.speed_rpm.back();
    std::vector<double> standing;
    for (std::size_t i = 0; i < rpm.size(); ++i)
        if (rpm[i] > top * 0.994 && std::isfinite(power[i]))
            standing.push_back(power[i]);
    const double usual = 0.006 * top / std::max(1.0, look.analysis.curve.span_rpm());
    const bool still = standing.size() > 6 &&
                       static_cast<double>(standing.size()) > 3 * usual * static_cast<double>(rpm.size());
    double jumps_share = 0;
    if (still) {
        const MeanDeviation m = mean_deviation(standing);
        jumps_share = m.deviation / std::max(1.0, m.mean);
        d.from_rpm = top * 0.997;
    }
    conclude(t, PullChannel::Power, still && jumps_share > 0.1 ? 0.93 : 0.06, d,
             still ? fmt::format("the speed stands at {:.0f} rev/min while power jumps by {:.0f} %", top,
                                 100 * jumps_share)
                   : "the speed goes on rising to the end");
}

} // namespace

const ConfounderInfo& info(Confounder kind) {
    return kConfounderInfo[static_cast<std::size_t>(kind)];
}

std::vector<ConfounderTest> test_confounders(const Pull& pull, const PullAnalysis& analysis) {
    using Test = void (*)(const Look&, ConfounderTest&);
    constexpr Test kTests[kConfounders] = {test_belt,  test_mixture, test_spark,  test_intake, test_throttle,
                                           test_knock, test_oil,     test_driver, test_limiter};
    std::vector<ConfounderTest> out;
    for (std::size_t i = 0; i < kConfounders; ++i) {
        ConfounderTest& t = out.emplace_back(ConfounderTest{static_cast<Confounder>(i)});
        kTests[i]({pull, analysis}, t);
        if (t.status == TestStatus::NotLogged)
            t.text = fmt::format("not logged, cannot be excluded: {}", info(t.kind).settle);
    }
    return out;
}

std::vector<ConfounderTest> test_confounders(const std::vector<std::vector<ConfounderTest>>& pulls) {
    std::vector<ConfounderTest> out;
    for (std::size_t i = 0; i < kConfounders; ++i) {
        std::vector<const ConfounderTest*> told;
        for (const auto& pull : pulls)
            if (pull[i].status != TestStatus::NotLogged)
                told.push_back(&pull[i]);
        std::sort(told.begin(), told.end(), [](const auto* a, const auto* b) { return a->seen < b->seen; });
        if (!told.empty())
            out.push_back(*told[told.size() / 2]);
        else if (!pulls.empty())
            out.push_back(pulls.front()[i]);
        else
            out.push_back({static_cast<Confounder>(i),
                           TestStatus::NotLogged,
                           0,
                           {},
                           {},
                           fmt::format("not logged, cannot be excluded: {}", kConfounderInfo[i].settle)});
    }
    return out;
}

} // namespace bathmos
