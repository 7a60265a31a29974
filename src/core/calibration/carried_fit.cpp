#include "core/calibration/carried_fit.h"

#include "core/train/train_check.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <fmt/format.h>

namespace bathmos {

namespace {

bool same_parts(const Train& a, const Train& b) {
    Train bare = b;
    bare.name = a.name;
    bare.tolerances = a.tolerances;
    return a == bare;
}

// An option of the model that the fit switched on, where the train has as much of it as was believed.
template <class T>
void switch_on(T& of, const T& believed, const T& fitted) {
    if (of == believed && !believed)
        of = fitted;
}

// The factor of a load table has no number of its own: the loads of the fitted one.
void carry_number(const std::string& key, const Train& fitted, Train& out) {
    for (std::size_t i = 0; i < out.springs.size() && i < fitted.springs.size(); ++i)
        if (key == fmt::format("springs[{}].load_table", i))
            out.springs[i].kind = fitted.springs[i].kind;
    if (const auto value = value_of(fitted, key))
        set_value(out, key, *value);
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

std::vector<std::string> found_numbers(const CarriedFit& fit) {
    std::vector<std::string> out;
    for (const auto& [key, tolerance] : fit.fitted.tolerances) {
        const auto before = fit.believed.tolerances.find(key);
        if (tolerance.source == Source::Fitted &&
            (before == fit.believed.tolerances.end() || before->second != tolerance))
            out.push_back(key);
    }
    return out;
}

std::vector<std::string> carried_numbers(const Train& train, const CarriedFit& fit) {
    std::vector<std::string> out = found_numbers(fit);
    std::erase_if(out, [&](const std::string& key) { return !shares_number(train, fit.believed, key); });
    return out;
}

Train with_fit(const Train& train, const CarriedFit& fit) {
    Train out = train;
    if (found_numbers(fit).empty())
        return out;
    switch_on(out.camshaft, fit.believed.camshaft, fit.fitted.camshaft);
    switch_on(out.drive_ripple, fit.believed.drive_ripple, fit.fitted.drive_ripple);
    const bool same_valve = train.valve == fit.believed.valve;
    switch_on(out.valve.elastic, fit.believed.valve.elastic, fit.fitted.valve.elastic);
    if (out.valve.elastic != train.valve.elastic && !same_valve)
        out.valve.elastic.emplace(); // as elastic as is usual: that one was not run
    if (out.lash_at == fit.believed.lash_at)
        out.lash_at = fit.fitted.lash_at;
    for (const std::string& key : carried_numbers(train, fit)) {
        carry_number(key, fit.fitted, out);
        out.tolerances[key] = fit.fitted.tolerances.at(key);
    }
    return check_train(out).empty() ? out : train;
}

} // namespace bathmos
