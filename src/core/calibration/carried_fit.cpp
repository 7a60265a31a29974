#include "core/calibration/carried_fit.h"

#include "core/train/train_check.h"
#include "core/uncertainty/uncertain_inputs.h"

namespace bathmos {

namespace {

bool same_parts(const Train& a, const Train& b) {
    Train bare = b;
    bare.name = a.name;
    bare.tolerances = a.tolerances;
    return a == bare;
}

// A whole part or option, where it is as believed.
template <class T>
void carry(T Train::*part, const CarriedFit& fit, Train& out) {
    if (out.*part == fit.believed.*part)
        out.*part = fit.fitted.*part;
}

} // namespace

bool shares_number(const Train& a, const Train& b, std::string_view key) {
    if (key == "lash_mm") // set anew with every part
        return same_parts(a, b);
    if (key.starts_with("pushrod."))
        return a.pushrod == b.pushrod;
    if (key.starts_with("rocker."))
        return a.rocker == b.rocker;
    if (key.starts_with("lifter."))
        return a.lifter == b.lifter;
    if (key.starts_with("valve."))
        return a.valve == b.valve;
    if (key.starts_with("springs"))
        return a.springs == b.springs;
    if (key.starts_with("contacts.seat.") && !(a.valve == b.valve))
        return false;
    if (key == "installed_height_mm")
        return a.springs == b.springs && a.retainer_mass_kg == b.retainer_mass_kg &&
               a.locks_mass_kg == b.locks_mass_kg && a.installed_height_m == b.installed_height_m;
    return value_of(a, std::string(key)) == value_of(b, std::string(key));
}

std::vector<std::string> carried_numbers(const Train& train, const CarriedFit& fit) {
    std::vector<std::string> out;
    for (const auto& [key, tolerance] : fit.fitted.tolerances)
        if (tolerance.source == Source::Fitted && shares_number(train, fit.believed, key))
            out.push_back(key);
    return out;
}

Train with_fit(const Train& train, const CarriedFit& fit) {
    Train out = train;
    carry(&Train::springs, fit, out); // a load table's factor has no number of its own
    carry(&Train::valve, fit, out);
    carry(&Train::camshaft, fit, out);
    carry(&Train::drive_ripple, fit, out);
    carry(&Train::lash_at, fit, out);
    for (const std::string& key : carried_numbers(train, fit)) {
        if (const auto value = value_of(fit.fitted, key))
            set_value(out, key, *value);
        out.tolerances[key] = fit.fitted.tolerances.at(key);
    }
    return check_train(out).empty() ? out : train;
}

} // namespace bathmos
