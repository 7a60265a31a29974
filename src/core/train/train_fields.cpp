#include "core/train/train_fields.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

using Q = Quantity;

// Addresses of numbers inside optional parts and variants.
template <auto Part, auto Member>
double* part(Train& t) {
    auto& owner = t.*Part;
    return owner ? &(*owner.*Member) : nullptr;
}
template <auto Part, auto Member>
double* member(Train& t) {
    return &(t.*Part.*Member);
}
template <auto Member>
double* direct(Train& t) {
    return &(t.*Member);
}
template <auto Member>
double* oil(Train& t) {
    return t.hydraulic() ? &(*t.lifter->hydraulic.*Member) : nullptr;
}
template <auto Member>
double* analytic(Train& t) {
    auto* lobe = std::get_if<AnalyticLobe>(&t.lobe.shape);
    return lobe ? &(lobe->*Member) : nullptr;
}
template <std::size_t I>
double* exponent(Train& t) {
    auto* lobe = std::get_if<AnalyticLobe>(&t.lobe.shape);
    return lobe ? &lobe->exponents[I] : nullptr;
}
// In a finger layout the lifter is only the adjuster under the pivot: it has no mass of its own.
double* lifter_mass(Train& t) {
    return t.lifter && t.layout != Layout::Finger ? &t.lifter->mass_kg : nullptr;
}
double* fixed_ratio(Train& t) {
    return t.rocker ? std::get_if<double>(&t.rocker->ratio) : nullptr;
}
template <auto Member>
double* geometry(Train& t) {
    auto* g = t.rocker ? std::get_if<RockerGeometry>(&t.rocker->ratio) : nullptr;
    return g ? &(g->*Member) : nullptr;
}
double* constant_pressure(Train& t) {
    return t.pressure_table ? nullptr : &t.back_pressure_Pa;
}
double* rod_stiffness(Train& t) {
    return t.pushrod && t.pushrod->stiffness_N_per_m ? &*t.pushrod->stiffness_N_per_m : nullptr;
}
template <auto Member>
double* elastic(Train& t) {
    return t.valve.elastic ? &(*t.valve.elastic.*Member) : nullptr;
}
double* table_noise(Train& t) {
    auto* table = std::get_if<LobeTable>(&t.lobe.shape);
    return table && table->noise_m ? &*table->noise_m : nullptr;
}
double* bucket_tip(Train& t) {
    return t.layout == Layout::Bucket ? &t.contacts.tip_stiffness_N_per_m : nullptr;
}
template <auto Member>
double* coil(Spring& s) {
    auto* geometry = std::get_if<CoilGeometry>(&s.kind);
    return geometry ? &(geometry->*Member) : nullptr;
}
double* straight_diameter(Spring& s) {
    auto* geometry = std::get_if<CoilGeometry>(&s.kind);
    return geometry && geometry->mean_diameter_m.size() == 1 ? &geometry->mean_diameter_m[0] : nullptr;
}
double* oval_height(Spring& s) {
    auto* geometry = std::get_if<CoilGeometry>(&s.kind);
    return geometry && geometry->wire_height_m ? &*geometry->wire_height_m : nullptr;
}
double* coil_scatter(Spring& s) {
    auto* geometry = std::get_if<CoilGeometry>(&s.kind);
    return geometry && geometry->pitch_scatter ? &*geometry->pitch_scatter : nullptr;
}
template <auto Member>
double* table(Spring& s) {
    auto* loads = std::get_if<LoadTable>(&s.kind);
    return loads ? &(loads->*Member) : nullptr;
}
template <auto Member>
double* spring(Spring& s) {
    return &(s.*Member);
}

// clang-format off
const std::vector<TrainField> kTrainFields = {
    {"lobe.base_radius_mm", "Base circle radius", Q::Length, member<&Train::lobe, &Lobe::base_radius_m>, 0, true, 100, {}, "Radius of the cam where the follower does not move."},
    {"lobe.follower.radius_mm", "Follower radius", Q::Length, member<&Train::lobe, &Lobe::follower_radius_m>, 0, true, 1000, {}, "Roller radius, or the radius of a flat follower's face."},
    {"lobe.table.noise_um", "Gauge noise", Q::FineLength, table_noise, 0, true, 1000, {}, "Standard deviation of the gauge's readings."},
    {"lobe.analytic.half_duration_cam_deg", "Half duration (cam)", Q::Angle, analytic<&AnalyticLobe::half_duration_rad>, 10, false, 170, {}, "Cam degrees from the nose to the top of the ramp."},
    {"lobe.analytic.lift_mm", "Lobe lift", Q::Length, analytic<&AnalyticLobe::lift_m>, 0, true, 50, {}, "Largest cam lift off the base circle, at the follower."},
    {"lobe.analytic.exponents.0", "Exponent p", Q::Count, exponent<0>, 3, false, 100, {}, "Shape of the polynomial; higher is fuller and harsher."},
    {"lobe.analytic.exponents.1", "Exponent q", Q::Count, exponent<1>, 3, false, 100, {}, "Shape of the polynomial."},
    {"lobe.analytic.exponents.2", "Exponent r", Q::Count, exponent<2>, 3, false, 100, {}, "Shape of the polynomial."},
    {"lobe.analytic.exponents.3", "Exponent t", Q::Count, exponent<3>, 3, false, 100, {}, "Shape of the polynomial."},
    {"lobe.analytic.ramp_height_mm", "Ramp height", Q::Length, analytic<&AnalyticLobe::ramp_height_m>, 0, true, 5, {}, "Rise at the top of the ramp, at the follower."},
    {"lobe.analytic.ramp_velocity_mm_per_deg", "Ramp velocity", Q::LiftPerDegree, analytic<&AnalyticLobe::ramp_velocity_m_per_rad>, 0, true, 1, {}, "Rise per cam degree on the ramp."},
    {"lash_mm", "Lash", Q::Length, direct<&Train::lash_m>, 0, false, 10, {}, "Clearance at the valve tip, cold train at rest, valve closed."},
    {"camshaft.torsion_N_m_per_rad", "Camshaft's torsional stiffness", Q::Torsion, part<&Train::camshaft, &CamshaftTorsion::stiffness_N_m_per_rad>, 10, false, 1e7, 7000.0, "From the drive to this lobe; an option of the model."},
    {"camshaft.frequency_Hz", "Camshaft's own frequency", Q::Frequency, part<&Train::camshaft, &CamshaftTorsion::frequency_Hz>, 20, false, 5000, 750.0, "In torsion, without the valve train."},
    {"camshaft.damping_ratio", "Camshaft's damping ratio", Q::Count, part<&Train::camshaft, &CamshaftTorsion::damping_ratio>, 0, false, 1, 0.05, "In torsion."},
    {"drive_ripple.second_cos", "Drive ripple, 2nd order, cosine", Q::Count, part<&Train::drive_ripple, &DriveRipple::second_cos>, -0.1, false, 0.1, 0.0, "Share of the speed; of a rig's drive."},
    {"drive_ripple.second_sin", "Drive ripple, 2nd order, sine", Q::Count, part<&Train::drive_ripple, &DriveRipple::second_sin>, -0.1, false, 0.1, 0.0, "Share of the speed; of a rig's drive."},
    {"drive_ripple.third_cos", "Drive ripple, 3rd order, cosine", Q::Count, part<&Train::drive_ripple, &DriveRipple::third_cos>, -0.1, false, 0.1, 0.0, "Share of the speed; of a rig's drive."},
    {"drive_ripple.third_sin", "Drive ripple, 3rd order, sine", Q::Count, part<&Train::drive_ripple, &DriveRipple::third_sin>, -0.1, false, 0.1, 0.0, "Share of the speed; of a rig's drive."},
    {"lifter.mass_g", "Lifter mass", Q::Mass, lifter_mass, 0, true, 5000, {}, "Lifter or bucket, with its plunger if hydraulic."},
    {"lifter.hydraulic.plunger_diameter_mm", "Plunger diameter", Q::Length, oil<&HydraulicFollower::plunger_diameter_m>, 0, true, 100, {}, ""},
    {"lifter.hydraulic.chamber_volume_mm3", "Chamber volume", Q::Volume, oil<&HydraulicFollower::chamber_volume_m3>, 0, true, 1e6, {}, "Oil under the plunger when it is down."},
    {"lifter.hydraulic.travel_mm", "Plunger travel", Q::Length, oil<&HydraulicFollower::travel_m>, 0, true, 50, {}, ""},
    {"lifter.hydraulic.preload_mm", "Preload", Q::Length, oil<&HydraulicFollower::preload_m>, 0, false, 50, {}, "How far the plunger is pushed down when the train is set."},
    {"lifter.hydraulic.supply_kPa", "Oil supply (gauge)", Q::Pressure, oil<&HydraulicFollower::supply_Pa>, 0, false, 5000, {}, ""},
    {"lifter.hydraulic.leak_mm3_per_s_per_kPa", "Leak", Q::Leakage, oil<&HydraulicFollower::leak_m3_per_s_per_Pa>, 0, false, 100, {}, ""},
    {"lifter.hydraulic.check_area_mm2", "Check valve area", Q::Area, oil<&HydraulicFollower::check_area_m2>, 0, true, 1000, {}, ""},
    {"lifter.hydraulic.bulk_modulus_GPa", "Oil bulk modulus", Q::Modulus, oil<&HydraulicFollower::bulk_modulus_Pa>, 0, true, 10, {}, ""},
    {"lifter.hydraulic.air_fraction", "Air in the oil", Q::Count, oil<&HydraulicFollower::air_fraction>, 0, false, 0.5, {}, "Share of volume at ambient pressure."},
    {"lifter.hydraulic.oil_density_kg_per_m3", "Oil density", Q::Density, oil<&HydraulicFollower::oil_density_kg_m3>, 0, true, 3000, {}, ""},
    {"lifter.hydraulic.plunger_mass_g", "Plunger mass", Q::Mass, oil<&HydraulicFollower::plunger_mass_kg>, 0, true, 5000, {}, "Counted in the lifter's mass."},
    {"lifter.hydraulic.plunger_spring_N", "Plunger spring", Q::Force, oil<&HydraulicFollower::plunger_spring_N>, 0, false, 1000, {}, ""},
    {"pushrod.mass_g", "Pushrod mass", Q::Mass, part<&Train::pushrod, &Pushrod::mass_kg>, 0, true, 5000, {}, ""},
    {"pushrod.length_mm", "Pushrod length", Q::Length, part<&Train::pushrod, &Pushrod::length_m>, 0, true, 2000, {}, ""},
    {"pushrod.outer_diameter_mm", "Pushrod diameter", Q::Length, part<&Train::pushrod, &Pushrod::outer_diameter_m>, 0, true, 100, {}, ""},
    {"pushrod.wall_mm", "Pushrod wall", Q::Length, part<&Train::pushrod, &Pushrod::wall_m>, 0, true, 50, {}, ""},
    {"pushrod.youngs_modulus_GPa", "Pushrod modulus", Q::Modulus, part<&Train::pushrod, &Pushrod::youngs_modulus_Pa>, 0, true, 2000, {}, "205 for steel, 70 for aluminium, 110 for titanium."},
    {"pushrod.end_stiffness_N_per_mm", "Ball ends' stiffness", Q::Stiffness, part<&Train::pushrod, &Pushrod::end_stiffness_N_per_m>, 0, true, 1e8, {}, "Both ball ends and cups together; often far softer than a sheet says."},
    {"pushrod.damping_s", "Link damping", Q::Time, part<&Train::pushrod, &Pushrod::damping_s>, 0, false, 1, {}, "Damping force over stiffness force, per 1/s."},
    {"pushrod.stiffness_N_per_mm", "Link stiffness, given", Q::Stiffness, rod_stiffness, 0, true, 1e8, {}, "Replaces the stiffness computed from tube and ends."},
    {"rocker.ratio", "Rocker ratio", Q::Count, fixed_ratio, 0, true, 10, {}, "Valve-tip travel per lifter-side travel."},
    {"rocker.geometry.arms_angle_deg", "Angle between arms", Q::Angle, geometry<&RockerGeometry::arms_angle_rad>, 90, false, 180, {}, "From the line pivot to cup to the line pivot to tip."},
    {"rocker.geometry.tip_radius_mm", "Tip radius", Q::Length, geometry<&RockerGeometry::tip_radius_m>, 0, false, 100, {}, "Roller or pad at the valve."},
    {"rocker.geometry.lifter_x_mm", "Lifter seat x", Q::Length, geometry<&RockerGeometry::lifter_x_m>, -1000, false, 1000, {}, "Pushrod's seat in the lifter on the base circle, from the pivot."},
    {"rocker.geometry.lifter_y_mm", "Lifter seat y", Q::Length, geometry<&RockerGeometry::lifter_y_m>, -1000, false, 1000, {}, "Pushrod's seat in the lifter on the base circle, from the pivot."},
    {"rocker.geometry.lifter_angle_deg", "Lifter direction", Q::Angle, geometry<&RockerGeometry::lifter_angle_rad>, -360, false, 360, {}, "The way the lifter lifts; 90 is straight up."},
    {"rocker.geometry.valve_x_mm", "Stem tip x", Q::Length, geometry<&RockerGeometry::valve_x_m>, -1000, false, 1000, {}, "Tip of the stem with the valve closed, from the pivot."},
    {"rocker.geometry.valve_y_mm", "Stem tip y", Q::Length, geometry<&RockerGeometry::valve_y_m>, -1000, false, 1000, {}, "Tip of the stem with the valve closed, from the pivot."},
    {"rocker.geometry.valve_angle_deg", "Valve direction", Q::Angle, geometry<&RockerGeometry::valve_angle_rad>, -360, false, 360, {}, "The way the valve opens; -90 is straight down."},
    {"rocker.inertia_kg_mm2", "Rocker inertia", Q::Inertia, part<&Train::rocker, &Rocker::inertia_kg_m2>, 0, true, 1e5, {}, "About the pivot."},
    {"rocker.input_arm_mm", "Input arm", Q::Length, part<&Train::rocker, &Rocker::input_arm_m>, 0, true, 500, {}, "Pivot to cup, or to the cam's contact."},
    {"rocker.output_arm_mm", "Output arm", Q::Length, part<&Train::rocker, &Rocker::output_arm_m>, 0, true, 500, {}, "Pivot to valve tip."},
    {"rocker.stiffness_N_per_mm", "Rocker stiffness", Q::Stiffness, part<&Train::rocker, &Rocker::stiffness_N_per_m>, 0, true, 1e8, {}, "Rocker, stand and tip contact, at the valve tip."},
    {"valve.mass_g", "Valve mass", Q::Mass, member<&Train::valve, &Valve::mass_kg>, 0, true, 5000, {}, ""},
    {"valve.head_diameter_mm", "Head diameter", Q::Length, member<&Train::valve, &Valve::head_diameter_m>, 0, true, 300, {}, "The pressure acts on it."},
    {"valve.stem_diameter_mm", "Stem diameter", Q::Length, member<&Train::valve, &Valve::stem_diameter_m>, 0, true, 50, {}, ""},
    {"valve.stem_stiffness_N_per_mm", "Valve's axial stiffness", Q::Stiffness, elastic<&ElasticValve::stiffness_N_per_m>, 100, false, 1e7, 40000.0, "Between head and stem end; an option of the model."},
    {"valve.head_share", "Head's share of the mass", Q::Count, elastic<&ElasticValve::head_share>, 0.05, false, 0.95, 0.52, "Of the valve alone; the rest moves with the stem end."},
    {"valve.stem_damping_ratio", "Valve's axial damping ratio", Q::Count, elastic<&ElasticValve::damping_ratio>, 0, false, 1, 0.01, "Of head against stem end."},
    {"retainer.mass_g", "Retainer mass", Q::Mass, direct<&Train::retainer_mass_kg>, 0, false, 1000, {}, ""},
    {"locks.mass_g", "Locks mass", Q::Mass, direct<&Train::locks_mass_kg>, 0, false, 1000, {}, "Both halves."},
    {"locks.angle_deg", "Lock angle", Q::Angle, direct<&Train::locks_angle_rad>, 0, false, 45, {}, "Must be the retainer's."},
    {"cap.mass_g", "Lash cap mass", Q::Mass, direct<&Train::cap_mass_kg>, 0, false, 1000, 0.0, ""},
    {"installed_height_mm", "Installed height", Q::Length, direct<&Train::installed_height_m>, 0, true, 300, {}, "Spring height with the valve closed."},
    {"contacts.cam.stiffness_N_per_mm", "Cam stiffness", Q::Stiffness, member<&Train::contacts, &Contacts::cam_stiffness_N_per_m>, 0, true, 1e8, 40000.0, "Cam contact with camshaft bending and bearings."},
    {"contacts.cam.damping_s_per_m", "Cam damping", Q::ContactDamping, member<&Train::contacts, &Contacts::cam_damping_s_per_m>, 0, false, 100, 1.0, ""},
    {"contacts.tip.stiffness_N_per_mm", "Tip stiffness", Q::Stiffness, bucket_tip, 0, true, 1e8, {}, "Bucket crown at the valve tip."},
    {"contacts.tip.damping_s_per_m", "Tip damping", Q::ContactDamping, member<&Train::contacts, &Contacts::tip_damping_s_per_m>, 0, false, 100, 1.0, ""},
    {"contacts.seat.stiffness_N_per_mm", "Seat stiffness", Q::Stiffness, member<&Train::contacts, &Contacts::seat_stiffness_N_per_m>, 0, true, 1e8, 50000.0, ""},
    {"contacts.seat.damping_s_per_m", "Seat damping", Q::ContactDamping, member<&Train::contacts, &Contacts::seat_damping_s_per_m>, 0, false, 100, 1.5, ""},
    {"friction.viscous_N_s_per_m", "Guide drag", Q::Viscous, member<&Train::friction, &Friction::viscous_N_s_per_m>, 0, false, 1e5, 2.0, "Viscous, on the valve."},
    {"friction.coulomb_N", "Guide Coulomb friction", Q::Force, member<&Train::friction, &Friction::coulomb_N>, 0, false, 1e4, 0.0, "Dry friction on the valve."},
    {"friction.follower_N_s_per_m", "Follower drag", Q::Viscous, member<&Train::friction, &Friction::follower_N_s_per_m>, 0, false, 1e5, 10.0, ""},
    {"friction.rocker_N_s_per_m", "Rocker drag", Q::Viscous, member<&Train::friction, &Friction::rocker_N_s_per_m>, 0, false, 1e5, 10.0, ""},
    {"back_pressure_kPa", "Pressure on the head", Q::Pressure, constant_pressure, -1000, false, 5000, 0.0, "Pushes the valve open: boost behind an intake, back pressure behind an exhaust valve."},
};

const std::vector<SpringField> kSpringFields = {
    {"wire_mm", "Wire", Q::Length, coil<&CoilGeometry::wire_m>, 0, true, 30, {}, ""},
    {"wire_height_mm", "Wire height (oval)", Q::Length, oval_height, 0, true, 30, {}, "Oval wire: its height along the spring's axis; Wire is then its width. Stiffness by the torsion constant of an ellipse."},
    {"mean_diameter_mm", "Mean diameter", Q::Length, straight_diameter, 0, true, 200, {}, "Outer diameter less one wire."},
    {"active_coils", "Active coils", Q::Count, coil<&CoilGeometry::active_coils>, 0.5, false, 30, {}, ""},
    {"dead_coils", "Dead coils", Q::Count, coil<&CoilGeometry::dead_coils>, 0, false, 10, {}, "Both ends together; take room at solid, no deflection."},
    {"free_length_mm", "Free length", Q::Length, coil<&CoilGeometry::free_length_m>, 0, true, 500, {}, ""},
    {"pitch_scatter", "Pitch scatter", Q::Count, coil_scatter, 0, false, 0.05, kUsualPitchScatter, "From coil to coil, one standard deviation over the pitch; coils then meet one after another. 0.012 is usual; an option of the model."},
    {"shear_modulus_GPa", "Shear modulus", Q::Modulus, coil<&CoilGeometry::shear_modulus_Pa>, 0, true, 500, {}, "79.3 for spring steel."},
    {"density_kg_per_m3", "Density", Q::Density, coil<&CoilGeometry::density_kg_m3>, 0, true, 30000, {}, "7850 for steel."},
    {"moving_mass_g", "Moving mass", Q::Mass, table<&LoadTable::moving_mass_kg>, 0, true, 5000, {}, "Active coils on the scale."},
    {"dead_mass_g", "Dead coils' mass", Q::Mass, table<&LoadTable::dead_mass_kg>, 0, false, 5000, 0.0, "Both ends together; half of it rides with the retainer."},
    {"solid_height_mm", "Solid height", Q::Length, table<&LoadTable::solid_height_m>, 0, true, 300, {}, ""},
    {"damping_ratio", "Damping ratio", Q::Count, spring<&Spring::damping_ratio>, 0, false, 1, {}, "Of the first surge mode; about 0.01 for one spring."},
    {"friction_N", "Damper or Coulomb friction", Q::Force, spring<&Spring::friction_N>, 0, false, 1e4, {}, "Friction of a damper or of nested coils."},
};
// clang-format on

} // namespace

template <class Owner>
std::string Field<Owner>::complaint(double value) const {
    if (!std::isfinite(value))
        return "must be a finite number";
    if (above_minimum ? value <= minimum : value < minimum)
        return fmt::format("must be {} {:g}", above_minimum ? "above" : "at least", minimum);
    if (value > maximum)
        return fmt::format("must be at most {:g}", maximum);
    return {};
}

template struct Field<Train>;
template struct Field<Spring>;

const std::vector<TrainField>& train_fields() {
    return kTrainFields;
}
const std::vector<SpringField>& spring_fields() {
    return kSpringFields;
}

const TrainField* find_train_field(std::string_view key) {
    for (const TrainField& field : kTrainFields)
        if (field.key == key)
            return &field;
    return nullptr;
}

std::string_view layout_name(Layout layout) {
    switch (layout) {
    case Layout::Pushrod:
        return "pushrod";
    case Layout::Rocker:
        return "rocker";
    case Layout::Finger:
        return "finger";
    case Layout::Bucket:
        break;
    }
    return "bucket";
}

} // namespace bathmos
