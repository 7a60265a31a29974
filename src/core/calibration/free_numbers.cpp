#include "core/calibration/free_numbers.h"

#include "core/calibration/carried_fit.h"
#include "core/problem/input_error.h"
#include "core/train/train_fields.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

struct UsualNumber {
    std::string_view key, label;
    bool logarithmic;
    double prior_sd; ///< logarithm or SI
    std::string_view bench;
};

constexpr std::string_view kSprings = "springs.";

// Standard deviations of belief, as tried on engines of a richer model (docs/calibration.md).
// clang-format off
constexpr UsualNumber kNumbers[] = {
    {"pushrod.end_stiffness_N_per_mm", "Ball ends' stiffness", true, 0.12, "press the rod with its ends in a tester, load over give"},
    {"pushrod.stiffness_N_per_mm", "Link stiffness, given", true, 0.05, "press the rod in a tester, load over give"},
    {"rocker.stiffness_N_per_mm", "Rocker stiffness", true, 0.08, "load the tip against a blocked valve, dial gauge at the stand"},
    {"contacts.tip.stiffness_N_per_mm", "Tip stiffness", true, 0.08, "press the bucket's crown in a tester"},
    {"contacts.cam.stiffness_N_per_mm", "Cam stiffness", true, 0.10, "dial gauge at the camshaft's bearing while the spring is pressed"},
    {"contacts.seat.stiffness_N_per_mm", "Seat stiffness", true, 0.15, "a run with slow closing, or the maker's data of seat and head"},
    {"contacts.seat.damping_s_per_m", "Seat damping", true, 0.2, "a run up to where the valve bounces"},
    {"springs.load", "Loads of the springs, factor", true, 0.012, "test the springs' loads at two heights"},
    {"springs.free_length_mm", "Free length of the springs", false, 0.12e-3, "measure the springs' free length"},
    {"installed_height_mm", "Installed height", false, 0.15e-3, "measure the installed height with retainer and locks in place"},
    {"springs.damping_ratio", "Damping ratio of the springs", true, 0.25, "a run through the speeds where the springs surge"},
    {"springs.friction_N", "Coulomb friction of the springs", true, 0.3, "test the springs' loads up and down: half of the difference"},
    {"valve.mass_g", "Valve mass", true, 0.008, "weigh the valve"},
    {"rocker.inertia_kg_mm2", "Rocker inertia", true, 0.035, "swing the rocker on its pivot and time it"},
    {"friction.viscous_N_s_per_m", "Guide drag", true, 0.4, "a run with oil of another temperature"},
    {"lash_mm", "Lash", false, 0.015e-3, "set the lash anew with a feeler gauge, or run beyond the onset"},
    {"lifter.hydraulic.supply_kPa", "Oil supply (gauge)", true, 0.1, "a run at another oil pressure"},
    {"lifter.hydraulic.leak_mm3_per_s_per_kPa", "Leak", true, 0.3, "time the follower's leak-down under a weight"},
    {"camshaft.torsion_N_m_per_rad", "Camshaft's torsional stiffness", true, 0.4, "twist the camshaft with a lever against its blocked drive"},
    {"camshaft.frequency_Hz", "Camshaft's own frequency", true, 0.25, "a run with angle readings at both ends of the camshaft"},
    {"valve.stem_stiffness_N_per_mm", "Valve's axial stiffness", true, 0.25, "compute it from the stem's section and length"},
    {"drive_ripple.second_cos", "Drive ripple, 2nd order, cosine", false, 0.003, "an encoder's own time stamps show it"},
    {"drive_ripple.second_sin", "Drive ripple, 2nd order, sine", false, 0.003, "an encoder's own time stamps show it"},
    {"drive_ripple.third_cos", "Drive ripple, 3rd order, cosine", false, 0.002, "an encoder's own time stamps show it"},
    {"drive_ripple.third_sin", "Drive ripple, 3rd order, sine", false, 0.002, "an encoder's own time stamps show it"},
};
// clang-format on

bool moves_all_springs(std::string_view key) {
    return key.starts_with(kSprings);
}

// What the number moves, as keys of single numbers; a load table's factor among them.
std::vector<std::string> places_of(const Train& train, std::string_view key) {
    if (!moves_all_springs(key))
        return {std::string(key)};
    std::string_view own = key.substr(kSprings.size());
    std::vector<std::string> out;
    for (std::size_t i = 0; i < train.springs.size(); ++i) {
        const bool table = std::holds_alternative<LoadTable>(train.springs[i].kind);
        if (own == "free_length_mm" && table)
            continue; // its height: the installed one says the same
        const std::string_view place = own != "load" ? own : table ? "load_table" : "shear_modulus_GPa";
        out.push_back(fmt::format("springs[{}].{}", i, place));
    }
    return out;
}

bool is_table(const std::string& place) {
    return place.ends_with("load_table");
}

// A number of 0 cannot be moved by a factor; what the train does not have cannot be moved at all.
bool can_move(const Train& train, const UsualNumber& one) {
    if (one.key == "lash_mm" && train.hydraulic())
        return false;
    const std::vector<std::string> places = places_of(train, one.key);
    return !places.empty() && std::all_of(places.begin(), places.end(), [&](const std::string& place) {
        const std::optional<double> value = value_of(train, place);
        return value && (!one.logarithmic || *value > 0);
    });
}

// A place that refuses the whole move stays where it was; then as much of it as it takes.
Train moved_as_far_as_it_may(Train train, const std::string& place, double by) {
    const auto tried = [&](double share) {
        return moved(train, {place, "", {Source::Fitted, std::abs(share * by)}, false}, by < 0 ? -1 : 1);
    };
    const auto before = value_of(train, place);
    Train out = tried(1);
    if (by == 0 || is_table(place) || value_of(out, place) != before)
        return out;
    double share = 0;
    for (double more = 0.5; more > 1e-9; more /= 2)
        if (Train next = tried(share + more); value_of(next, place) != before) {
            share += more;
            out = std::move(next);
        }
    return out;
}

double prior_of(const Train& train, const UsualNumber& one) {
    for (const std::string& place : places_of(train, one.key))
        if (const auto given = train.tolerances.find(place); given != train.tolerances.end()) {
            const double sd = given->second.plus_minus / 2;
            return std::max(one.logarithmic ? sd / *value_of(train, place) : sd, 1e-3 * one.prior_sd);
        }
    return one.prior_sd;
}

} // namespace

Train with_run_options(Train train) {
    if (!train.camshaft)
        train.camshaft.emplace();
    if (!train.valve.elastic)
        train.valve.elastic.emplace();
    if (!train.drive_ripple)
        train.drive_ripple.emplace();
    if (!train.hydraulic())
        train.lash_at = LashAt::LoadedRest;
    return train;
}

std::vector<FreeNumber> free_numbers(const Train& train, const std::vector<std::string>& keys) {
    for (const std::string& key : keys) {
        const auto found = std::find_if(std::begin(kNumbers), std::end(kNumbers),
                                        [&](const UsualNumber& r) { return r.key == key; });
        if (found == std::end(kNumbers) || !can_move(train, *found)) {
            std::string known;
            for (const UsualNumber& one : kNumbers)
                if (can_move(train, one))
                    known += (known.empty() ? "" : ", ") + std::string(one.key);
            throw InputError(
                {"", key, "is no number that a calibration can move here", "give one of: " + known});
        }
    }
    std::vector<FreeNumber> out;
    for (const UsualNumber& one : kNumbers) {
        const bool chosen = keys.empty() || std::find(keys.begin(), keys.end(), one.key) != keys.end();
        if (!chosen || !can_move(train, one))
            continue;
        const Quantity quantity = one.key == "springs.load"
                                      ? Quantity::Count
                                      : quantity_of_value(train, places_of(train, one.key)[0]);
        out.push_back({std::string(one.key), std::string(one.label), one.logarithmic, prior_of(train, one),
                       quantity, std::string(one.bench)});
    }
    return out;
}

std::vector<FreeNumber> joint_numbers(const Train& first, const Train& second,
                                      const std::vector<std::string>& keys) {
    std::vector<FreeNumber> a = free_numbers(first), b = free_numbers(second);
    const auto has = [](const std::vector<FreeNumber>& list, const std::string& key) {
        return std::any_of(list.begin(), list.end(), [&](const FreeNumber& n) { return n.key == key; });
    };
    for (const std::string& key : keys)
        if (!has(b, key))
            free_numbers(first, {key}); // throws where neither has it
    for (std::vector<FreeNumber>* list : {&a, &b})
        std::erase_if(*list, [&](const FreeNumber& n) {
            return !keys.empty() && std::find(keys.begin(), keys.end(), n.key) == keys.end();
        });
    const auto same_key = [](const std::vector<FreeNumber>& list, const FreeNumber& one) {
        return std::find_if(list.begin(), list.end(), [&](const FreeNumber& n) { return n.key == one.key; });
    };
    std::vector<FreeNumber> out;
    for (const FreeNumber& one : a) {
        out.push_back(one);
        const auto other = same_key(b, one);
        if (other != b.end() && shares_number(first, second, one.key))
            continue;
        out.back().only = 0;
        if (other != b.end()) {
            out.push_back(*other);
            out.back().only = 1;
        }
    }
    for (const FreeNumber& one : b)
        if (!has(a, one.key)) {
            out.push_back(one);
            out.back().only = 1;
        }
    return out;
}

double value_of(const Train& train, const FreeNumber& number) {
    if (number.key == "springs.load")
        return 1;
    return value_of(train, places_of(train, number.key).front()).value_or(0);
}

std::string name_of(const FreeNumber& number) {
    return (number.of_other() ? "other." : "") + number.key;
}

std::string label_of(const FreeNumber& number) {
    return number.label + (number.of_other() ? ", other" : "");
}

void move_number(Train& train, const FreeNumber& number, double offset) {
    for (const std::string& place : places_of(train, number.key)) {
        const double value = value_of(train, place).value_or(0);
        const double by = number.logarithmic ? value * std::expm1(offset) : offset;
        train = moved_as_far_as_it_may(std::move(train), place, by);
    }
}

void note_tolerance(Train& train, const FreeNumber& number, double sd) {
    for (const std::string& place : places_of(train, number.key)) {
        const double value = value_of(train, place).value_or(0);
        train.tolerances[place] = {Source::Fitted,
                                   2 * (number.logarithmic ? sd * (is_table(place) ? 1 : value) : sd)};
    }
}

} // namespace bathmos
