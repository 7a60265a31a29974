#include "core/lobe/lobe_events.h"

#include "core/math/roots.h"
#include "core/units/units.h"

#include <cmath>

namespace bathmos {

const std::vector<double>& usual_check_heights_m() {
    static const std::vector<double> heights = {
        0.006 * kInch_m, 0.020 * kInch_m, 0.050 * kInch_m, 0.053 * kInch_m, 0.1e-3, 0.3e-3, 1.0e-3, 1.2e-3};
    return heights;
}

double Crossings::duration_crank_deg() const {
    return 2 * degrees(closing_rad - opening_rad);
}

std::optional<Crossings> crossings_at(const std::function<double(double)>& motion, double height_m) {
    constexpr double step = kPi / 1440;
    if (!(motion(0) > height_m))
        return std::nullopt;
    const auto cross = [&](double direction) -> std::optional<double> {
        for (int i = 1; i <= 1440; ++i) {
            const double theta = direction * i * step;
            if (motion(theta) <= height_m) {
                const double inner = direction * (i - 1) * step;
                return find_root([&](double t) { return motion(t) - height_m; }, std::min(inner, theta),
                                 std::max(inner, theta), 1e-10);
            }
        }
        return std::nullopt;
    };
    const auto opening = cross(-1), closing = cross(1);
    if (!opening || !closing)
        return std::nullopt;
    return Crossings{*opening, *closing};
}

std::optional<double> height_of_duration(const std::function<double(double)>& motion,
                                         double duration_crank_deg) {
    const double lift = motion(0), least = 1e-6, most = 0.9999 * lift;
    const auto excess = [&](double height) {
        const auto c = crossings_at(motion, height);
        return c ? c->duration_crank_deg() - duration_crank_deg : 720 - duration_crank_deg;
    };
    if (!(most > least) || excess(least) < 0 || excess(most) > 0)
        return std::nullopt;
    return find_root(excess, least, most, 1e-8);
}

LobePeaks peaks_of(const LobeCurve& curve) {
    constexpr int n = 7200; // 0.05 cam degree
    constexpr double step = 2 * kPi / n;
    LobePeaks out{};
    const auto take = [&](Peak& peak, bool better, double value, double theta) {
        if (better)
            peak = {value, theta, curve.at(theta)};
    };
    for (int i = 0; i < n; ++i) {
        const double theta = -kPi + i * step;
        const double v = curve.at(theta, 1), a = curve.at(theta, 2), j = curve.at(theta, 3);
        take(out.opening_velocity, v > out.opening_velocity.value, v, theta);
        take(out.closing_velocity, v < out.closing_velocity.value, v, theta);
        Peak& flank = theta < 0 ? out.opening_acceleration : out.closing_acceleration;
        take(flank, a > flank.value, a, theta);
        take(out.deceleration, a < out.deceleration.value, a, theta);
        take(out.jerk, std::abs(j) > std::abs(out.jerk.value), j, theta);
        out.lift_area_m_rad += curve.at(theta) * step;
    }
    return out;
}

} // namespace bathmos
