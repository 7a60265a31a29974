#include "core/uncertainty/uncertain_inputs.h"

#include "core/train/train_fields.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

std::string_view source_name(Source source) {
    constexpr std::array<std::string_view, 6> names = {"scale", "gauge",    "tester",
                                                       "sheet", "estimate", "fitted"};
    return names[static_cast<std::size_t>(source)];
}

namespace {

// Share of the value, or SI amount, whichever is larger.
struct UsualTolerance {
    std::string_view key; ///< end of the key
    Source source;
    double share, amount;
};

// clang-format off
constexpr UsualTolerance kUsualTolerances[] = {
    {"half_duration_cam_deg", Source::Gauge, 0.003, 0},
    {"analytic.lift_mm", Source::Gauge, 0, 0.01e-3},
    {"lash_mm", Source::Gauge, 0, 0.03e-3},
    {"installed_height_mm", Source::Gauge, 0, 0.15e-3},
    {"torsion_N_m_per_rad", Source::Estimate, 0.6, 0},
    {"camshaft.frequency_Hz", Source::Estimate, 0.4, 0},
    {"stem_stiffness_N_per_mm", Source::Estimate, 0.4, 0},
    {"pushrod.length_mm", Source::Gauge, 0, 0.1e-3},
    {"outer_diameter_mm", Source::Gauge, 0, 0.03e-3},
    {"wall_mm", Source::Gauge, 0, 0.05e-3},
    {"youngs_modulus_GPa", Source::Sheet, 0.02, 0},
    {"end_stiffness_N_per_mm", Source::Estimate, 0.3, 0},
    {"pushrod.stiffness_N_per_mm", Source::Tester, 0.05, 0},
    {"pushrod.damping_s", Source::Estimate, 0.5, 0},
    {"rocker.ratio", Source::Gauge, 0.005, 0},
    {"inertia_kg_mm2", Source::Estimate, 0.05, 0},
    {"rocker.stiffness_N_per_mm", Source::Estimate, 0.15, 0},
    {"plunger_mass_g", Source::Scale, 0.002, 0.1e-3},
    {"lifter.mass_g", Source::Scale, 0.002, 0.1e-3},
    {"pushrod.mass_g", Source::Scale, 0.002, 0.1e-3},
    {"valve.mass_g", Source::Scale, 0.002, 0.1e-3},
    {"retainer.mass_g", Source::Scale, 0.002, 0.1e-3},
    {"locks.mass_g", Source::Scale, 0.002, 0.1e-3},
    {"head_diameter_mm", Source::Gauge, 0, 0.05e-3},
    {"cam.stiffness_N_per_mm", Source::Estimate, 0.25, 0},
    {"tip.stiffness_N_per_mm", Source::Estimate, 0.15, 0},
    {"seat.stiffness_N_per_mm", Source::Estimate, 0.3, 0},
    {"damping_s_per_m", Source::Estimate, 0.4, 0},
    {"viscous_N_s_per_m", Source::Estimate, 0.5, 0},
    {"coulomb_N", Source::Estimate, 0.5, 0},
    {"follower_N_s_per_m", Source::Estimate, 0.5, 0},
    {"rocker_N_s_per_m", Source::Estimate, 0.5, 0},
    {"back_pressure_kPa", Source::Gauge, 0.05, 0},
    {"plunger_diameter_mm", Source::Gauge, 0, 0.02e-3},
    {"chamber_volume_mm3", Source::Estimate, 0.1, 0},
    {"supply_kPa", Source::Gauge, 0.1, 0},
    {"leak_mm3_per_s_per_kPa", Source::Estimate, 0.3, 0},
    {"check_area_mm2", Source::Estimate, 0.1, 0},
    {"bulk_modulus_GPa", Source::Sheet, 0.1, 0},
    {"air_fraction", Source::Estimate, 0.5, 0},
    {"plunger_spring_N", Source::Tester, 0.1, 0},
    {"wire_mm", Source::Gauge, 0, 0.02e-3},
    {"mean_diameter_mm", Source::Gauge, 0, 0.1e-3},
    {"active_coils", Source::Estimate, 0.02, 0},
    {"free_length_mm", Source::Gauge, 0, 0.2e-3},
    {"shear_modulus_GPa", Source::Sheet, 0.015, 0},
    {"moving_mass_g", Source::Scale, 0.005, 0.2e-3},
    {"damping_ratio", Source::Estimate, 0.5, 0},
    {"friction_N", Source::Estimate, 0.4, 0},
    {"load_table", Source::Tester, 0.015, 0},
};
// clang-format on

void add(const Train& train, std::string key, std::string label, double value,
         std::vector<UncertainInput>& out) {
    UncertainInput input{std::move(key), std::move(label), {}, true};
    if (const auto given = train.tolerances.find(input.key); given != train.tolerances.end()) {
        input.tolerance = given->second;
        input.usual = false;
    } else {
        const auto* usual = std::find_if(std::begin(kUsualTolerances), std::end(kUsualTolerances),
                                         [&](const UsualTolerance& u) { return input.key.ends_with(u.key); });
        if (usual == std::end(kUsualTolerances))
            return;
        input.tolerance = {usual->source, std::max(usual->share * std::abs(value), usual->amount)};
    }
    if (input.tolerance.plus_minus > 0 || !input.usual)
        out.push_back(std::move(input));
}

std::string spring_key(std::size_t index, std::string_view key) {
    return fmt::format("springs[{}].{}", index, key);
}

// The spring's number, and its field, that a key names.
struct SpringPlace {
    Spring* spring = nullptr;
    const SpringField* field = nullptr; ///< null for a load table
};
SpringPlace spring_place(Train& train, const std::string& key) {
    for (std::size_t i = 0; i < train.springs.size(); ++i) {
        if (key == spring_key(i, "load_table"))
            return {&train.springs[i], nullptr};
        for (const SpringField& field : spring_fields())
            if (key == spring_key(i, field.key))
                return {&train.springs[i], &field};
    }
    return {};
}

template <class Owner>
void move_field(Owner& owner, const Field<Owner>& field, double by) {
    double* value = field.at(owner);
    if (!value)
        return;
    const double before = *value;
    *value += by;
    if (!field.complaint(field.file_value(owner)).empty())
        *value = before;
}

} // namespace

std::vector<UncertainInput> uncertain_inputs(const Train& train) {
    std::vector<UncertainInput> out;
    for (const TrainField& field : train_fields())
        if (const double* value = field.at_const(train))
            add(train, std::string(field.key), std::string(field.label), *value, out);
    for (std::size_t i = 0; i < train.springs.size(); ++i) {
        const Spring& spring = train.springs[i];
        for (const SpringField& field : spring_fields())
            if (const double* value = field.at_const(spring))
                add(train, spring_key(i, field.key), fmt::format("{}, {}", field.label, spring.name), *value,
                    out);
        if (std::holds_alternative<LoadTable>(spring.kind))
            add(train, spring_key(i, "load_table"), fmt::format("Loads, {}", spring.name), 1, out);
    }
    return out;
}

Train moved(Train train, const UncertainInput& input, double off) {
    const double by = off * input.tolerance.plus_minus;
    const SpringPlace place = spring_place(train, input.key);
    if (place.field) {
        move_field(*place.spring, *place.field, by);
    } else if (place.spring) {
        for (double& load : std::get<LoadTable>(place.spring->kind).load_N)
            load *= 1 + by;
    } else if (const TrainField* field = find_train_field(input.key)) {
        move_field(train, *field, by);
    }
    return train;
}

std::optional<double> value_of(const Train& train, const std::string& key) {
    Train& owner = const_cast<Train&>(train);
    const SpringPlace place = spring_place(owner, key);
    if (place.spring && !place.field)
        return 1.0;
    const double* value = nullptr;
    if (place.field)
        value = place.field->at(*place.spring);
    else if (const TrainField* field = find_train_field(key))
        value = field->at(owner);
    return value ? std::optional(*value) : std::nullopt;
}

void set_value(Train& train, const std::string& key, double si) {
    const SpringPlace place = spring_place(train, key);
    double* at = nullptr;
    if (place.field)
        at = place.field->at(*place.spring);
    else if (const TrainField* field = place.spring ? nullptr : find_train_field(key))
        at = field->at(train);
    if (at)
        *at = si;
}

Quantity quantity_of_value(const Train& train, const std::string& key) {
    const SpringPlace place = spring_place(const_cast<Train&>(train), key);
    if (place.field)
        return place.field->quantity;
    const TrainField* field = find_train_field(key);
    return field && !place.spring ? field->quantity : Quantity::Count;
}

std::optional<double> unit_of_value(const Train& train, const std::string& key) {
    if (!value_of(train, key))
        return std::nullopt;
    return unit_of(quantity_of_value(train, key)).to_si;
}

} // namespace bathmos
