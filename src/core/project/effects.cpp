#include "core/project/effects.h"

namespace bathmos {

std::vector<Difference> effects(const TrainFigures& a, const TrainFigures& b, const LimitsKnown& known_before,
                                const LimitsKnown& known_after) {
    std::vector<Difference> out;
    const auto add = [&](const char* key, const char* label, Quantity quantity, std::optional<double> before,
                         std::optional<double> after) {
        out.push_back({key, label, quantity, before, after, "", ""});
    };
    add("equivalent_mass", "Equivalent mass", Quantity::Mass, a.equivalent_mass_total_kg,
        b.equivalent_mass_total_kg);
    add("stiffness", "Stiffness at the tip", Quantity::Stiffness, a.stiffness_N_per_m, b.stiffness_N_per_m);
    add("natural_frequency", "Natural frequency, Hz", Quantity::Count, a.train_hz, b.train_hz);
    if (!a.springs.empty() && !b.springs.empty())
        add("surge", "First surge, Hz", Quantity::Count, a.springs.front().surge_hz,
            b.springs.front().surge_hz);
    add("seat_load", "Seat load", Quantity::Force, a.seat_load_N, b.seat_load_N);
    add("open_load", "Open load", Quantity::Force, a.open_load_N, b.open_load_N);
    add("peak_lift", "Peak lift", Quantity::Length, a.peak_lift_m, b.peak_lift_m);
    add("bind_margin", "Bind margin", Quantity::Length, a.bind_margin_m, b.bind_margin_m);
    const auto speed = [](const TrainFigures& f) {
        return f.separation ? std::optional(f.separation->speed_rpm) : std::nullopt;
    };
    add("separation", "Separation, rev/min", Quantity::Count, speed(a), speed(b));
    add("limit", "Limit speed, rev/min", Quantity::Count, known_before.limit_rpm, known_after.limit_rpm);
    const auto if_known = [&](const char* key, const char* label, std::optional<double> before,
                              std::optional<double> after) {
        if (before || after)
            add(key, label, Quantity::Count, before, after);
    };
    if_known("contact_loss", "Limit by contact loss, rev/min", known_before.contact_loss_rpm,
             known_after.contact_loss_rpm);
    if_known("onset", "Onset that a rig could see, rev/min", known_before.onset_rpm, known_after.onset_rpm);
    return out;
}

} // namespace bathmos
