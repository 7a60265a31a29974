#include "core/train/train_check.h"

#include "core/train/train_fields.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace bathmos {

namespace {

/// A measured lobe's base circle is not exactly round; above this the valve counts as held open by it.
constexpr double kClosed_m = 0.03e-3;

using Problems = std::vector<InputProblem>;

template <class Owner>
void check_ranges(const Owner& owner, const std::vector<Field<Owner>>& fields, const std::string& prefix,
                  Problems& out) {
    for (const Field<Owner>& field : fields) {
        if (!field.at_const(owner))
            continue;
        const double value = field.file_value(owner);
        const std::string complaint = field.complaint(value);
        if (!complaint.empty())
            out.push_back({"", prefix + std::string(field.key), fmt::format("is {:g}", value), complaint});
    }
}

void check_parts(const Train& train, Problems& out) {
    const auto need = [&](bool present, const char* key) {
        if (!present)
            out.push_back({"", key, "is missing",
                           fmt::format("a {} layout needs this part", layout_name(train.layout))});
    };
    const bool pushrod = train.layout == Layout::Pushrod, bucket = train.layout == Layout::Bucket;
    if (pushrod || bucket)
        need(train.lifter.has_value(), "lifter");
    if (pushrod)
        need(train.pushrod.has_value(), "pushrod");
    if (!bucket)
        need(train.rocker.has_value(), "rocker");
    if (train.springs.empty())
        out.push_back({"", "springs", "the list is empty", "give at least one spring"});
    if (train.springs.size() > 3)
        out.push_back({"", "springs", fmt::format("{} springs", train.springs.size()), "a set has 1 to 3"});
}

void check_pairs(const std::vector<double>& x, const std::vector<double>& y, const std::string& key,
                 std::size_t least, bool rising, Problems& out) {
    if (x.size() != y.size() || x.size() < least) {
        out.push_back({"", key, fmt::format("{} and {} values", x.size(), y.size()),
                       fmt::format("give two lists of the same length, at least {}", least)});
        return;
    }
    std::vector<double> sorted = x;
    if (!rising)
        std::sort(sorted.begin(), sorted.end());
    for (std::size_t i = 0; i < x.size(); ++i) {
        const bool finite = std::isfinite(x[i]) && std::isfinite(y[i]);
        if (finite && (i == 0 || sorted[i] > sorted[i - 1]))
            continue;
        out.push_back({"", fmt::format("{}[{}]", key, i),
                       finite ? "two values are equal or out of order" : "is not a number",
                       rising ? "the first list must increase" : "each height may stand once"});
        return;
    }
}

void check_drive(const Train& train, Problems& out) {
    const bool geometry = train.rocker && std::holds_alternative<RockerGeometry>(train.rocker->ratio);
    if (geometry && train.layout != Layout::Pushrod)
        out.push_back({"", "rocker.geometry", "needs a pushrod", "give ratio or ratio_table in this layout"});
    if (!train.hydraulic())
        return;
    const HydraulicFollower& oil = *train.lifter->hydraulic;
    if (train.layout == Layout::Rocker)
        out.push_back({"", "lifter.hydraulic", "a rocker layout has no place for a hydraulic follower",
                       "take it out, or choose another layout"});
    if (train.layout != Layout::Finger && oil.plunger_mass_kg >= train.lifter->mass_kg)
        out.push_back({"", "lifter.hydraulic.plunger_mass_g",
                       fmt::format("{:g} g is not below the whole lifter's {:g} g", oil.plunger_mass_kg * 1e3,
                                   train.lifter->mass_kg * 1e3),
                       "the plunger is counted in the lifter's mass"});
    if (oil.preload_m > oil.travel_m)
        out.push_back({"", "lifter.hydraulic.preload_mm",
                       fmt::format("{:g} mm is more than the travel", oil.preload_m * 1e3),
                       "give at most travel_mm"});
    if (train.layout == Layout::Finger && out.empty() && !(train.rocker_map().ratio(0) > 1.02))
        out.push_back({"", "rocker.ratio", "an adjuster under the pivot needs a ratio above 1",
                       "else cam and valve cannot hold it down; check the ratio"});
}

void check_pressure(const Train& train, Problems& out) {
    if (!train.pressure_table)
        return;
    const PressureTable& table = *train.pressure_table;
    check_pairs(table.crank_rad, table.pressure_Pa, "pressure_table", 2, true, out);
    if (out.empty() && table.crank_rad.back() - table.crank_rad.front() >= 4 * kPi)
        out.push_back({"", "pressure_table.crank_deg", "spans more than one cycle",
                       "give angles within 720 degrees; the last and the first join"});
}

// Coils that lie on each other as they are wound are no spring.
void check_scatter(const CoilGeometry& coil, const std::string& key, Problems& out) {
    if (coil.pitch_scatter.value_or(0) <= 0 || !(coil.active_coils > 0))
        return;
    double least = (coil.free_length_m - axial_wire_m(coil) * coil.dead_coils) / coil.active_coils;
    for (const double pitch : coil.pitch_m)
        least = std::min(least, pitch);
    if (least * (1 - 2 * *coil.pitch_scatter) <= axial_wire_m(coil))
        out.push_back({"", key + ".pitch_scatter",
                       fmt::format("coils {:.2f} mm apart touch by such a scatter", least * 1e3),
                       "give a smaller one: 0.012 of the pitch is usual"});
}

void check_pitch(const CoilGeometry& coil, const std::string& key, Problems& out) {
    if (coil.pitch_m.empty())
        return;
    double sum = 0;
    for (double pitch : coil.pitch_m) {
        if (!(pitch > axial_wire_m(coil))) {
            out.push_back({"", key + ".pitch_mm", fmt::format("{:g} mm is not above the wire", pitch * 1e3),
                           "give the distance from coil to coil at free length"});
            return;
        }
        sum += pitch;
    }
    const double built = axial_wire_m(coil) * coil.dead_coils +
                         sum * coil.active_coils / static_cast<double>(coil.pitch_m.size());
    if (std::abs(built / coil.free_length_m - 1) > 0.03)
        out.push_back({"", key + ".pitch_mm",
                       fmt::format("pitches and dead coils add up to {:.2f} mm, the free length is {:.2f} mm",
                                   built * 1e3, coil.free_length_m * 1e3),
                       "they must agree within 3 %"});
}

bool coil_of(const Spring& spring) {
    return std::holds_alternative<CoilGeometry>(spring.kind);
}

void check_spring(const Spring& spring, std::size_t index, const Train& train, Problems& out) {
    const std::string key = fmt::format("springs[{}]", index);
    check_ranges(spring, spring_fields(), key + ".", out);
    double free_m = std::numeric_limits<double>::infinity();
    if (const auto* coil = std::get_if<CoilGeometry>(&spring.kind)) {
        free_m = coil->free_length_m;
        if (coil->mean_diameter_m.empty())
            out.push_back({"", key + ".mean_diameter_mm", "the list is empty", "give one or more diameters"});
        for (double diameter : coil->mean_diameter_m)
            if (!(diameter > 1.5 * coil->wire_m) || !std::isfinite(diameter)) {
                out.push_back({"", key + ".mean_diameter_mm",
                               fmt::format("{:g} mm on {:g} mm wire", diameter * 1e3, coil->wire_m * 1e3),
                               "must be above 1.5 times the wire"});
                break;
            }
        check_pitch(*coil, key, out);
        check_scatter(*coil, key, out);
    } else {
        const auto& table = std::get<LoadTable>(spring.kind);
        check_pairs(table.height_m, table.load_N, key + ".load_table", 2, false, out);
        if (out.empty()) {
            const SpringStatics statics(spring);
            const double chord =
                statics.chord_rate_N_per_m(train.installed_height_m, train.installed_height_m - 0.001);
            if (!(chord > 0))
                out.push_back({"", key + ".load_table", "the load does not rise as the height falls",
                               "check that height_mm and load_N are not exchanged"});
            const double least = *std::min_element(table.load_N.begin(), table.load_N.end());
            if (out.empty() && least < 0)
                out.push_back({"", key + ".load_table.load_N", fmt::format("holds {:g} N", least),
                               "a valve spring pushes only: loads are 0 or above; check the signs"});
            if (out.empty() && !(statics.load_N(train.installed_height_m) > 0))
                free_m = train.installed_height_m; // told below
        }
    }
    if (!out.empty())
        return;
    const double solid = SpringStatics(spring).solid_height_m();
    if (train.installed_height_m <= solid)
        out.push_back({"", "installed_height_mm",
                       fmt::format("{:g} mm is at or below the solid height {:.2f} mm of {}",
                                   train.installed_height_m * 1e3, solid * 1e3, key),
                       "give the height with the valve closed, or check wire and coils"});
    if (out.empty() && train.installed_height_m >= free_m)
        out.push_back(
            {"", "installed_height_mm",
             std::isfinite(free_m) && coil_of(spring)
                 ? fmt::format("{:g} mm is not below the free length {:g} mm of {}",
                               train.installed_height_m * 1e3, free_m * 1e3, key)
                 : fmt::format("{:g} mm leaves {} without load", train.installed_height_m * 1e3, key),
             "a spring pushes the valve shut only when it is shorter than free"});
    if (free_m <= solid)
        out.push_back({"", key + ".free_length_mm", fmt::format("{:g} mm is below solid", free_m * 1e3),
                       "check wire, coils and free length"});
}

void check_lobe(const Train& train, Problems& out) {
    try {
        const RigidMotion rigid(train, curve_of(train.lobe));
        if (rigid.peak_m() <= 0)
            out.push_back(
                {"", "lash_mm",
                 fmt::format("{:g} mm takes up the whole lift of {:.3f} mm at the valve",
                             train.effective_lash_m() * 1e3, rigid.map().travel(rigid.lobe().lift_m()) * 1e3),
                 "lash must be below the lift at the valve"});
        else if (rigid.lift_m(kPi) > kClosed_m)
            out.push_back({"", "lobe", "the valve never closes on the base circle",
                           "check the lobe table's zero, and the lash"});
        else if (train.installed_height_m <= rigid.peak_m())
            out.push_back({"", "installed_height_mm", "is below the valve lift", "check both numbers"});
    } catch (const InputError& error) {
        out.push_back(error.problem());
    }
}

} // namespace

std::vector<InputProblem> check_train(const Train& train) {
    Problems out;
    check_parts(train, out);
    check_ranges(train, train_fields(), "", out);
    if (train.pushrod && 2 * train.pushrod->wall_m > train.pushrod->outer_diameter_m)
        out.push_back({"", "pushrod.wall_mm",
                       fmt::format("{:g} mm is more than half the diameter", train.pushrod->wall_m * 1e3),
                       "give at most half the outer diameter (a solid rod)"});
    if (train.rocker)
        if (const auto* table = std::get_if<RatioTable>(&train.rocker->ratio))
            check_pairs(table->input_m, table->output_m, "rocker.ratio_table", 3, true, out);
    check_pressure(train, out);
    if (out.empty())
        check_drive(train, out);
    for (std::size_t i = 0; out.empty() && i < train.springs.size(); ++i)
        check_spring(train.springs[i], i, train, out);
    if (out.empty())
        check_lobe(train, out);
    return out;
}

void require_valid(const Train& train) {
    const Problems problems = check_train(train);
    if (!problems.empty())
        throw InputError(problems.front());
}

} // namespace bathmos
