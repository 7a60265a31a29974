#include "standin/dyno/dyno.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <random>

namespace bathmos::standin {

namespace {

// Torque without weather, faults and valves.
double healthy_Nm(const EngineModel& e, double rpm) {
    const double off = (rpm - e.torque_peak_rpm) / e.hump_rpm;
    const double breathing = 1 / (1 + off * off);
    const double friction = 0.06 * (std::pow(rpm / 6000, 2) - std::pow(e.torque_peak_rpm / 6000, 2));
    const double wave = e.wave_share * std::sin(2 * kPi * (rpm / e.wave_rpm + e.wave_phase));
    return e.torque_peak_Nm * (breathing - friction + wave);
}

MotionLoss loss_at(const std::vector<MotionLoss>& loss, double rpm) {
    if (loss.empty() || rpm <= loss.front().speed_rpm)
        return {rpm, loss.empty() ? 0 : loss.front().lost, loss.empty() ? 0 : loss.front().rough};
    const auto at = std::upper_bound(loss.begin(), loss.end(), rpm,
                                     [](double v, const MotionLoss& l) { return v < l.speed_rpm; });
    if (at == loss.end())
        return {rpm, loss.back().lost, loss.back().rough};
    const MotionLoss &a = *(at - 1), &b = *at;
    const double t = (rpm - a.speed_rpm) / (b.speed_rpm - a.speed_rpm);
    return {rpm, a.lost + t * (b.lost - a.lost), a.rough + t * (b.rough - a.rough)};
}

// What the engine does at one speed, before anything is read.
struct Moment {
    double torque_Nm = 0, manifold_Pa = 0, inlet_Pa = 0, lambda = 0, fuel_Pa = 400e3, blower_rpm = 0;
    double throttle = 1, spark_rad = 0, knock_rad = 0, oil_Pa = 0, misfire = 0;
    double lambda_noise = 0.004, rough = 0;
    bool limiter = false;
};

// Grows from 0 at the onset: a share for every 1000 rev/min beyond it.
double beyond(const Fault& f, double rpm) {
    return f.strength * std::max(0.0, rpm - f.onset_rpm) / 1000;
}

void apply(const Fault& f, double rpm, const EngineModel& e, double baro_Pa, Moment& m) {
    const double by = beyond(f, rpm);
    switch (f.kind) {
    case Confounder::BeltSlip: {
        const double slip = std::min(0.35, 0.11 * by);
        m.blower_rpm *= 1 - slip;
        const double lost = 1.5 * slip * (m.manifold_Pa - baro_Pa);
        m.torque_Nm *= 1 - lost / m.manifold_Pa;
        m.manifold_Pa -= lost;
        break;
    }
    case Confounder::Mixture: {
        const double short_of = std::min(0.45, 0.16 * by);
        m.fuel_Pa *= 1 - short_of;
        const double lean = e.lambda * (1 / std::sqrt(1 - short_of) - 1);
        m.lambda += lean;
        m.torque_Nm *= 1 - std::min(0.35, 0.5 * lean + 4.5 * lean * lean);
        m.rough += 0.02 * std::min(1.0, lean / 0.1);
        break;
    }
    case Confounder::SparkBreakUp:
        m.misfire += std::min(0.25, 0.07 * by);
        m.torque_Nm *= 1 - 0.9 * std::min(0.25, 0.07 * by);
        m.lambda += 0.35 * std::min(0.25, 0.07 * by); // unburnt air passes the probe
        m.lambda_noise += 0.06 * std::min(0.5, by);
        m.rough += 0.03 * std::min(1.2, by);
        break;
    case Confounder::IntakeLoss: {
        const double lost = std::min(25e3, 7e3 * by);
        m.inlet_Pa -= lost;
        m.torque_Nm *= 1 - 1.1 * lost / m.manifold_Pa;
        m.manifold_Pa -= lost;
        break;
    }
    case Confounder::ThrottleClosing: {
        const double closed = std::min(0.6, 0.28 * by);
        m.throttle -= closed;
        const double lost = m.manifold_Pa * 0.3 * closed * closed + m.manifold_Pa * 0.05 * closed;
        m.torque_Nm *= 1 - 1.15 * lost / m.manifold_Pa;
        m.manifold_Pa -= lost;
        break;
    }
    case Confounder::KnockRetard: {
        const double late = std::min(radians(12), radians(6) * by);
        m.knock_rad += late;
        m.spark_rad -= late;
        m.torque_Nm *= 1 - 0.0012 * std::pow(degrees(late), 2) - 0.004 * degrees(late);
        break;
    }
    case Confounder::OilPressure:
        m.oil_Pa *= 1 - std::min(0.75, 0.35 * by);
        m.torque_Nm *= 1 - std::min(0.10, 0.035 * by);
        break;
    case Confounder::DriverLift: // by rows, see run_pull
    case Confounder::RevLimiter:
        break;
    case Confounder::Count:
        break;
    }
}

Moment moment_at(const PullSetup& s, double rpm) {
    const EngineModel& e = s.engine;
    Moment m;
    m.inlet_Pa = s.weather_Pa - 1.2e3 * std::pow(rpm / 8000, 2);
    m.manifold_Pa = m.inlet_Pa - 1.5e3 * std::pow(rpm / 8000, 2);
    m.blower_rpm = e.blower_ratio * rpm;
    if (e.charged)
        m.manifold_Pa += e.boost_Pa * std::pow(rpm / 8000, 0.3);
    m.lambda = e.lambda;
    m.spark_rad = radians(26 + 4 * rpm / 8000);
    m.oil_Pa = e.oil_Pa * std::min(1.0, 0.82 + 0.2 * rpm / 5500);
    const MotionLoss motion = loss_at(s.loss, rpm);
    m.torque_Nm = healthy_Nm(e, rpm) * (1 - motion.lost);
    if (e.charged)
        m.torque_Nm *= m.manifold_Pa / s.weather_Pa;
    m.rough = motion.rough;
    for (const Fault& fault : s.faults)
        apply(fault, rpm, e, s.weather_Pa, m);
    return m;
}

// The run in rows: speed, and what driver or limiter do from a row on.
struct Row {
    double rpm = 0, throttle = 1;
    bool limiter = false;
};

std::vector<Row> rows_of(const PullSetup& s, std::mt19937_64& dice) {
    std::vector<Row> out;
    const double step = (s.last_rpm - s.first_rpm) / static_cast<double>(s.rows - 1);
    for (std::size_t i = 0; i < s.rows; ++i)
        out.push_back({s.first_rpm + step * static_cast<double>(i)});
    std::uniform_real_distribution<double> evenly(0, 1);
    for (const Fault& f : s.faults) {
        if (f.kind != Confounder::DriverLift && f.kind != Confounder::RevLimiter)
            continue;
        // The foot is never lifted at the same speed twice; the limiter always comes in at its own.
        const bool lift = f.kind == Confounder::DriverLift;
        const double from = f.onset_rpm + (lift ? 90 * (evenly(dice) - 0.5) : 0.0);
        while (!out.empty() && out.back().rpm > from)
            out.pop_back();
        if (lift) {
            for (int k = 1; k <= 5; ++k)
                out.push_back({from + 0.5 * step * k, 1 - 0.15 * k * std::min(1.2, f.strength)});
            for (int k = 1; k <= 15; ++k)
                out.push_back({from - 2 * step * k, 0.1});
        } else {
            for (int k = 0; k < 25; ++k)
                out.push_back({from + 25 * (evenly(dice) - 0.5), 1, k % 3 != 0});
        }
    }
    return out;
}

} // namespace

std::vector<MotionLoss> motion_loss(const std::vector<SpeedMetrics>& rows) {
    std::vector<MotionLoss> out;
    const auto over = [](std::optional<double> value, double free) {
        return std::max(0.0, value.value_or(0) - free);
    };
    for (const SpeedMetrics& row : rows) {
        const Metrics& m = row.metrics;
        MotionLoss loss{row.speed_rpm};
        // A valve that lets go for over a quarter of the nose, or lands twice, no longer fills the cylinder.
        loss.lost =
            std::min(0.30, 90 * over(m[Metric::Bounce], 0.06e-3) + 70 * over(m[Metric::Loft], 0.06e-3) +
                               0.0012 * over(m[Metric::ContactLoss], 8) +
                               0.003 * over(m[Metric::DurationChange], 1.5) +
                               400 * over(m[Metric::HeldOpen], 0.03e-3));
        loss.rough = std::min(0.05, 60 * over(m[Metric::CycleVariation], 0.01e-3) + 0.15 * loss.lost);
        out.push_back(loss);
    }
    return out;
}

std::set<PullChannel> all_channels(const EngineModel& engine) {
    std::set<PullChannel> out;
    for (std::size_t c = static_cast<std::size_t>(PullChannel::Manifold); c < kPullChannels; ++c)
        out.insert(static_cast<PullChannel>(c));
    out.erase(PullChannel::Vapour);
    if (!engine.charged)
        out.erase(PullChannel::Blower);
    return out;
}

Pull run_pull(const PullSetup& s) {
    std::mt19937_64 dice(s.seed);
    std::normal_distribution<double> normal;
    const double gain = (1 + s.scatter * normal(dice)) / j1349_factor(s.weather_Pa, s.weather_K);
    // Pulls of one state differ in shape, too: a slow wander beside the shift.
    const double tilt = 0.4 * s.scatter * normal(dice);
    Pull out;
    const auto put = [&](PullChannel c, double value) {
        if (s.logged.contains(c))
            out[c].push_back(value);
    };
    double drift = 0;
    const std::vector<Row> rows = rows_of(s, dice);
    const double step = (s.last_rpm - s.first_rpm) / static_cast<double>(s.rows - 1);
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const double share = static_cast<double>(i) / static_cast<double>(s.rows - 1);
        const double rpm = rows[i].rpm;
        Moment m = moment_at(s, rpm);
        m.throttle *= rows[i].throttle;
        m.limiter = rows[i].limiter;
        m.manifold_Pa *= 1 - 0.5 * (1 - rows[i].throttle);
        m.torque_Nm *= rows[i].limiter ? 0.45 : 1 - 0.9 * (1 - rows[i].throttle);
        drift = 0.6 * drift + 0.8 * normal(dice); // unevenness that lasts over a few readings
        double torque = m.torque_Nm * gain * (1 + tilt * (2 * share - 1));
        torque *= 1 + s.noise * normal(dice) + 0.6 * m.rough * drift;
        const double seen = rpm + 0.2 * step * normal(dice);
        out[PullChannel::Speed].push_back(seen);
        out[PullChannel::Torque].push_back(torque);
        out[PullChannel::Power].push_back(torque * seen * kPi / 30);
        put(PullChannel::Manifold, m.manifold_Pa + 450 * normal(dice));
        put(PullChannel::Inlet, m.inlet_Pa + 200 * normal(dice));
        put(PullChannel::Lambda, m.lambda + m.lambda_noise * normal(dice));
        put(PullChannel::FuelPressure, m.fuel_Pa + 3e3 * normal(dice));
        put(PullChannel::Blower, m.blower_rpm * (1 + 0.002 * normal(dice)));
        put(PullChannel::Throttle, std::clamp(m.throttle + 0.003 * normal(dice), 0.0, 1.0));
        put(PullChannel::Spark, m.spark_rad + radians(0.15) * normal(dice));
        put(PullChannel::Knock, std::max(0.0, m.knock_rad + radians(0.15) * normal(dice)));
        put(PullChannel::Oil, m.oil_Pa + 5e3 * normal(dice));
        put(PullChannel::Air, s.weather_K + 0.1 * normal(dice));
        put(PullChannel::Barometer, s.weather_Pa + 15 * normal(dice));
        put(PullChannel::Misfire, std::max(0.0, m.misfire + 0.002 * normal(dice)));
        put(PullChannel::Limiter, m.limiter ? 1 : 0);
    }
    return out;
}

} // namespace bathmos::standin
