#include "core/train/unusual.h"

#include "core/train/train_fields.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

// clang-format off
const std::vector<UsualRange> kUsual = {
    {"lobe.base_radius_mm", 6, 60, "a small motorcycle's cam to a large truck's"},
    {"lobe.follower.radius_mm", 2, 500, "a narrow roller to a crowned flat face"},
    {"lobe.analytic.lift_mm", 1.5, 25, "a small motorcycle's cam to a racing cam of pushrod engines"},
    {"lash_mm", 0, 1.5, "hydraulic to a loose racing setting"},
    {"lifter.mass_g", 4, 500, "a small bucket to a truck's roller lifter"},
    {"lifter.hydraulic.plunger_diameter_mm", 5, 40, "a small adjuster to a truck's lifter"},
    {"lifter.hydraulic.supply_kPa", 0, 1500, "no pressure to cold oil"},
    {"pushrod.mass_g", 5, 600, "a titanium tube to a truck's rod"},
    {"pushrod.length_mm", 40, 700, "a short overhead rod to a truck's"},
    {"pushrod.outer_diameter_mm", 4, 30, "a small tube to a truck's"},
    {"pushrod.youngs_modulus_GPa", 40, 500, "magnesium to carbon fibre"},
    {"pushrod.end_stiffness_N_per_mm", 500, 1e6, "oil between ball and cup to solid steel"},
    {"pushrod.stiffness_N_per_mm", 300, 1e6, "a thin long tube to a short solid rod"},
    {"rocker.ratio", 0.7, 3, "a finger that lowers the lift to a steep rocker"},
    {"rocker.inertia_kg_mm2", 0.3, 2000, "a motorcycle's finger to a truck's rocker"},
    {"rocker.input_arm_mm", 8, 120, "a motorcycle's finger to a truck's rocker"},
    {"rocker.output_arm_mm", 8, 150, "a motorcycle's finger to a truck's rocker"},
    {"rocker.stiffness_N_per_mm", 200, 1e6, "a stamped rocker on a stud to a solid one on a shaft"},
    {"valve.mass_g", 6, 500, "a small motorcycle's titanium valve to a truck's"},
    {"valve.head_diameter_mm", 10, 90, "a small motorcycle's to a truck's"},
    {"valve.stem_diameter_mm", 2.5, 16, "a small motorcycle's to a truck's"},
    {"retainer.mass_g", 1, 150, "titanium on a small valve to a truck's steel"},
    {"locks.mass_g", 0.1, 60, "beads on a small valve to a truck's"},
    {"cap.mass_g", 0, 50, "none to a truck's"},
    {"installed_height_mm", 12, 90, "a small motorcycle's to a truck's"},
    {"contacts.cam.stiffness_N_per_mm", 500, 2e6, "a long bent camshaft to a solid contact"},
    {"contacts.tip.stiffness_N_per_mm", 500, 2e6, "a thin bucket crown to solid steel"},
    {"contacts.seat.stiffness_N_per_mm", 1000, 5e6, "an elastic head to solid steel"},
    {"friction.coulomb_N", 0, 200, "none to a seizing guide"},
    {"back_pressure_kPa", -100, 1000, "vacuum to a highly charged engine"},
    {"wire_mm", 0.8, 10, "a motorcycle's inner spring to a truck's"},
    {"mean_diameter_mm", 6, 70, "a motorcycle's inner spring to a truck's"},
    {"active_coils", 1.5, 15, "a short stiff spring to a long soft one"},
    {"free_length_mm", 15, 130, "a small motorcycle's to a truck's"},
    {"shear_modulus_GPa", 30, 90, "titanium to spring steel"},
    {"density_kg_per_m3", 1500, 9000, "composite to steel"},
    {"moving_mass_g", 2, 500, "a motorcycle's inner spring to a truck's"},
    {"damping_ratio", 0.0005, 0.3, "a bare coil to a rubbing damper"},
    {"friction_N", 0, 300, "none to a tight flat damper"},
};
// clang-format on

constexpr double kLeastLift_m = 1.5e-3, kMostLift_m = 25e-3;

const UsualRange* find_range(std::string_view key) {
    const auto at =
        std::find_if(kUsual.begin(), kUsual.end(), [&](const UsualRange& row) { return row.key == key; });
    return at == kUsual.end() ? nullptr : &*at;
}

Finding asked_back(std::string key, std::string_view label, Quantity quantity, double value, double low,
                   double high, std::string_view why) {
    const double in_file = value / unit_of(quantity).to_si;
    const bool small = value < low;
    return {Severity::Warn,
            std::move(key),
            fmt::format("{} is {{}} ({:g} in the file): is its unit right?", label, in_file),
            fmt::format("{} {{}} are hardly known ({}); if it is so, waive this with a reason",
                        small ? "values under" : "values over", why),
            quantity,
            value,
            small ? low : high,
            std::string(kUnusual)};
}

template <class Owner>
void look_at(const Owner& owner, const std::vector<Field<Owner>>& fields, const std::string& prefix,
             std::vector<Finding>& out) {
    for (const Field<Owner>& field : fields) {
        const UsualRange* usual = find_range(field.key);
        const double* value = field.at_const(owner);
        if (!usual || !value)
            continue;
        const double to_si = unit_of(field.quantity).to_si;
        if (*value < usual->low * to_si * (1 - 1e-9) || *value > usual->high * to_si * (1 + 1e-9))
            out.push_back(asked_back(prefix + std::string(field.key), field.label, field.quantity, *value,
                                     usual->low * to_si, usual->high * to_si, usual->why));
    }
}

} // namespace

const std::vector<UsualRange>& usual_ranges() {
    return kUsual;
}

std::optional<Finding> unusual_lobe_lift(double lift_m) {
    if (lift_m >= kLeastLift_m && lift_m <= kMostLift_m)
        return std::nullopt;
    return asked_back("lobe", "the lobe's lift", Quantity::Length, lift_m, kLeastLift_m, kMostLift_m,
                      "a small motorcycle's cam to a racing cam of pushrod engines");
}

std::vector<Finding> unusual_numbers(const Train& train) {
    std::vector<Finding> out;
    look_at(train, train_fields(), "", out);
    for (std::size_t i = 0; i < train.springs.size(); ++i)
        look_at(train.springs[i], spring_fields(), fmt::format("springs[{}].", i), out);
    if (const auto* table = std::get_if<LobeTable>(&train.lobe.shape); table && !table->lift.empty()) {
        const auto [low, high] = std::minmax_element(table->lift.begin(), table->lift.end());
        const double to_m = table->lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m;
        if (const auto finding = unusual_lobe_lift((*high - *low) * to_m))
            out.push_back(*finding);
    }
    return out;
}

} // namespace bathmos
