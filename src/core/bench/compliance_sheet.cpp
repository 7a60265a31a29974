// The compliance of a train part by part: each by a load and a dial, or by its geometry, in series seen from
// the valve.
#include "core/bench/keyed_kinds.h"
#include "core/whatif/stiffness_gain.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::bench {

namespace {

constexpr double kSteel_Pa = 205e9;
constexpr double kByGeometry = 0.1; // one deviation: of ends that are not quite built in, of section
constexpr double kMost_N_per_m = 1e10;

// Which of the train's numbers a part belongs to, by how its name begins.
struct Link {
    std::string_view key, label;
    std::array<std::string_view, 5> names;
};
constexpr Link kLinks[] = {
    {"rocker.stiffness_N_per_mm", "Rocker stiffness", {"rocker", "stand", "stud", "fastener", "tip"}},
    {"pushrod.stiffness_N_per_mm", "Link stiffness", {"pushrod", "rod", "ball", "cup", "tube"}},
    {"contacts.cam.stiffness_N_per_mm", "Cam stiffness", {"cam", "lifter", "follower", "wheel", "bearing"}},
};

const Link* link_of(std::string name) {
    std::ranges::transform(name, name.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    for (const Link& link : kLinks)
        for (const std::string_view word : link.names)
            if (name.starts_with(word))
                return &link;
    return nullptr;
}

double length_of(const KeyedSheet::Row& row, const char* key) {
    const auto read = row.find(key);
    if (!read)
        refuse(std::string("rows.") + key, fmt::format("is missing at \"{}\"", row.name),
               "give its stiffness, a tube by length and outer diameter, or a beam by arm, width and depth");
    require_between(std::string("rows.") + key, Quantity::Length, {read->value}, 1e-4, 1);
    return read->value;
}

// A tube in compression, E A / l; a beam that is built in at its end, 3 E I / l^3 [Young & Budynas 2002].
double by_geometry(const KeyedSheet::Row& row, double modulus_Pa) {
    const double length_m = length_of(row, "length_mm");
    if (row.find("outer_mm")) {
        const double outer_m = length_of(row, "outer_mm"),
                     inner_m = row.find("inner_mm") ? row.find("inner_mm")->value : 0;
        if (!(inner_m >= 0 && inner_m < outer_m))
            refuse("rows.inner_mm", fmt::format("\"{}\" has no wall", row.name),
                   "give an inner diameter under the outer one, or none for a solid rod");
        return modulus_Pa * kPi / 4 * (outer_m * outer_m - inner_m * inner_m) / length_m;
    }
    const double width_m = length_of(row, "width_mm"), depth_m = length_of(row, "depth_mm");
    return 3 * modulus_Pa * width_m * std::pow(depth_m, 3) / 12 / std::pow(length_m, 3);
}

// Where the part itself is loaded.
Figure stiffness_of(const KeyedSheet::Row& row) {
    if (const auto read = row.find("stiffness_N_per_mm")) {
        require_between("rows.stiffness_N_per_mm", Quantity::Stiffness, {read->value}, 1e4, kMost_N_per_m);
        return *read;
    }
    const auto modulus = row.find("modulus_GPa");
    if (modulus)
        require_between("rows.modulus_GPa", Quantity::Modulus, {modulus->value}, 1e9, 1e12);
    const double out = by_geometry(row, modulus ? modulus->value : kSteel_Pa);
    return {out, kByGeometry * out};
}

double ratio_of(const KeyedSheet::Row& row) {
    const auto read = row.find("ratio");
    if (!read)
        return 1;
    require_between("rows.ratio", Quantity::Count, {read->value}, 0.3, 4);
    return read->value;
}

// One over a figure, and back.
Figure inverse(const Figure& of) {
    return {1 / of.value, of.sd / (of.value * of.value), of.freedom};
}

} // namespace

KeyedAnswer compliance_by_part(const KeyedSheet& sheet, const Train* train) {
    if (sheet.rows.empty())
        refuse("rows", "no part", "one row a part between cam and valve");
    struct Part {
        std::string name;
        Figure stiffness, compliance; ///< of its own; m/N at the valve
        const Link* link;
        double ratio;
    };
    std::vector<Part> parts;
    Figure compliance;
    for (const KeyedSheet::Row& row : sheet.rows) {
        const Figure own = stiffness_of(row);
        const double ratio = ratio_of(row);
        parts.push_back({row.name, own, times(ratio * ratio, inverse(own)), link_of(row.name), ratio});
        compliance = parts.size() == 1 ? parts.back().compliance : plus(compliance, parts.back().compliance);
    }
    KeyedAnswer out;
    out.of_each = "parts";
    out.values.push_back(
        {"valve_N_per_mm", "stiffness at the valve", inverse(compliance), Quantity::Stiffness});
    const Part* softest = &parts.front();
    for (const Part& part : parts) {
        softest = part.compliance.value > softest->compliance.value ? &part : softest;
        out.items.push_back(
            {part.name,
             {{"part_N_per_mm", "its own", part.stiffness, Quantity::Stiffness},
              {"at_valve_N_per_mm", "at the valve", inverse(part.compliance), Quantity::Stiffness},
              {"share", "share of the compliance", Figure{part.compliance.value / compliance.value, 0},
               Quantity::Count}}});
        if (!part.link)
            out.told.push_back(
                {"nowhere", MeasuredText(part.name + ": ") +
                                MeasuredText("counts in the sum, but is no number of the train: "
                                             "begin its name with rocker, stand, pushrod, ball, "
                                             "lifter or cam")});
    }
    if (parts.size() > 1 && softest->compliance.value > kMendFirst * compliance.value)
        out.lines.push_back(MeasuredText(softest->name + ": ") + MeasuredText("the one to mend first"));
    for (const Link& link : kLinks) {
        Figure sum;
        bool any = false;
        for (const Part& part : parts)
            if (part.link == &link) { // at the place of the link's number: the valve, or the rod's side
                const bool at_valve = link.key.starts_with("rocker");
                const Figure one =
                    at_valve ? part.compliance : times(1 / (part.ratio * part.ratio), part.compliance);
                sum = any ? plus(sum, one) : one;
                any = true;
            }
        if (!any)
            continue;
        if (link.key.starts_with("pushrod") && train && train->pushrod && !train->pushrod->stiffness_N_per_m)
            out.lines.push_back(
                MeasuredText("the train computes its rod from tube and ends: give it a stiffness "
                             "of its own in the form to take over {}",
                             {{Quantity::Stiffness, inverse(sum).value}}));
        out.found.push_back({std::string(link.key), std::string(link.label), inverse(sum), Source::Gauge});
    }
    return out;
}

} // namespace bathmos::bench
