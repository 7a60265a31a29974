#include "core/project/assembly.h"

#include "core/train/train_fields.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace bathmos {

namespace {

using K = PartKind;

FittedPart fitted_part(Id id, const Part& part) {
    return {id, part.name, part.serial, part.history_known, part.facts};
}

std::string shape_words(const Lobe& lobe) {
    if (const auto* table = std::get_if<LobeTable>(&lobe.shape))
        return fmt::format("{}, table of {} points", lobe.name, table->angle.size());
    return lobe.name + ", analytic";
}

std::string ratio_words(const Rocker& rocker) {
    if (const auto* table = std::get_if<RatioTable>(&rocker.ratio))
        return fmt::format("table of {} points", table->input_m.size());
    return std::holds_alternative<RockerGeometry>(rocker.ratio) ? "planar geometry" : "fixed ratio";
}

std::string spring_words(const Spring& spring) {
    if (const auto* table = std::get_if<LoadTable>(&spring.kind))
        return fmt::format("load table of {} heights", table->height_m.size());
    const auto& coil = std::get<CoilGeometry>(spring.kind);
    return fmt::format("geometry, {} diameter(s), {} pitch(es)", coil.mean_diameter_m.size(),
                       coil.pitch_m.size());
}

class Comparison {
  public:
    void number(std::string key, std::string label, Quantity quantity, std::optional<double> before,
                std::optional<double> after) {
        const bool same = before.has_value() == after.has_value() &&
                          (!before || std::abs(*before - *after) <= 1e-12 * std::abs(*before));
        if (!same)
            out.push_back({std::move(key), std::move(label), quantity, before, after, "", ""});
    }
    // Where the words are the same but the thing is not, the words say so.
    void words(std::string key, std::string label, std::string before, std::string after, bool same) {
        if (same)
            return;
        if (before == after)
            after += ", other values";
        out.push_back(
            {std::move(key), std::move(label), Quantity::Count, {}, {}, std::move(before), std::move(after)});
    }
    template <class Owner>
    void fields(const std::vector<Field<Owner>>& list, const std::string& prefix, const std::string& label,
                const Owner* before, const Owner* after) {
        const auto value = [](const Field<Owner>& field, const Owner* owner) -> std::optional<double> {
            const double* at = owner ? field.at_const(*owner) : nullptr;
            return at ? std::optional(*at) : std::nullopt;
        };
        for (const Field<Owner>& field : list)
            number(prefix + std::string(field.key), label + std::string(field.label), field.quantity,
                   value(field, before), value(field, after));
    }
    std::vector<Difference> out;
};

template <class T>
const T* at(const std::vector<T>& list, std::size_t i) {
    return i < list.size() ? &list[i] : nullptr;
}

void compare_shapes(const Train& a, const Train& b, Comparison& to) {
    to.words("layout", "Layout", std::string(layout_name(a.layout)), std::string(layout_name(b.layout)),
             a.layout == b.layout);
    const bool tables =
        std::holds_alternative<LobeTable>(a.lobe.shape) || std::holds_alternative<LobeTable>(b.lobe.shape);
    to.words("lobe", "Lobe", shape_words(a.lobe), shape_words(b.lobe),
             a.lobe.name == b.lobe.name && (!tables || a.lobe.shape == b.lobe.shape));
    if (a.rocker && b.rocker) {
        const bool plain = a.rocker->ratio.index() == b.rocker->ratio.index() &&
                           !std::holds_alternative<RatioTable>(a.rocker->ratio);
        to.words("rocker.ratio", "Rocker ratio by", ratio_words(*a.rocker), ratio_words(*b.rocker),
                 plain || a.rocker->ratio == b.rocker->ratio);
    }
    to.words("pressure_table", "Pressure over crank angle", a.pressure_table ? "table" : "constant",
             b.pressure_table ? "table" : "constant", a.pressure_table == b.pressure_table);
    const auto lash_words = [](const Train& t) {
        return t.lash_at == LashAt::LoadedRest ? "the loaded rest" : "first touch";
    };
    to.words("lash_at", "Lash counted from", lash_words(a), lash_words(b), a.lash_at == b.lash_at);
    for (std::size_t i = 0; i < std::max(a.springs.size(), b.springs.size()); ++i) {
        const Spring *before = at(a.springs, i), *after = at(b.springs, i);
        const std::string key = fmt::format("springs[{}]", i);
        to.fields(spring_fields(), key + ".", fmt::format("{}: ", (after ? after : before)->name), before,
                  after);
        const bool lists =
            before && after &&
            (before->kind.index() != after->kind.index() || spring_words(*before) != spring_words(*after) ||
             (std::holds_alternative<LoadTable>(before->kind) && before->kind != after->kind));
        to.words(key, "Spring", before ? spring_words(*before) : "none",
                 after ? spring_words(*after) : "none", before && after && !lists);
    }
}

void compare_parts(const Assembly& a, const Assembly& b, Comparison& to) {
    const auto named = [](const FittedPart* part) {
        return !part                  ? std::string("no part of the shelf")
               : part->serial.empty() ? part->name
                                      : part->name + ", " + part->serial;
    };
    for (const PartKindInfo& kind : part_kinds()) {
        const FittedPart *before = a.find(kind.kind), *after = b.find(kind.kind);
        to.words("parts." + std::string(kind.key), std::string(kind.label) + " fitted", named(before),
                 named(after), (before ? before->part : 0) == (after ? after->part : 0));
        for (const PartFact& fact : part_facts()) {
            if (fact.kind != kind.kind)
                continue;
            const std::string key = fmt::format("parts.{}.{}", kind.key, fact.key);
            const std::string label = fmt::format("{}: {}", kind.label, fact.label);
            if (fact.choices.empty())
                to.number(key, label, fact.quantity, a.number(kind.kind, fact.key),
                          b.number(kind.kind, fact.key));
            else
                to.words(key, label, a.word(kind.kind, fact.key), b.word(kind.kind, fact.key),
                         a.word(kind.kind, fact.key) == b.word(kind.kind, fact.key));
        }
    }
}

} // namespace

const FittedPart* Assembly::find(PartKind kind) const {
    const auto at = parts.find(kind);
    return at == parts.end() ? nullptr : &at->second;
}
std::optional<double> Assembly::number(PartKind kind, std::string_view fact) const {
    const FittedPart* part = find(kind);
    return part ? part->facts.number(fact) : std::nullopt;
}
std::string Assembly::word(PartKind kind, std::string_view fact) const {
    const FittedPart* part = find(kind);
    return part ? part->facts.word(fact) : std::string();
}

std::optional<double> height_share_m(PartKind kind, const Facts& facts) {
    if (kind == K::Shim || kind == K::Seat || kind == K::Seal) {
        const auto thickness = facts.number("thickness_mm");
        return thickness ? std::optional(-*thickness) : std::nullopt;
    }
    if (kind == K::Retainer) {
        const auto depth = facts.number("seat_depth_mm"), step = facts.number("step_mm");
        return depth && step ? std::optional(*depth - *step) : std::nullopt;
    }
    return std::nullopt;
}

Assembly fitted(Assembly assembly, Id id, const Part& part) {
    if (!takes(assembly.train.layout, part.kind))
        throw InputError({part.name, std::string(info(part.kind).key),
                          fmt::format("a {} layout has no place for it", layout_name(assembly.train.layout)),
                          "choose a build with another layout"});
    const FittedPart* old = assembly.find(part.kind);
    const auto before = old ? height_share_m(part.kind, old->facts) : std::nullopt;
    const auto after = height_share_m(part.kind, part.facts);
    if (before && after)
        assembly.train.installed_height_m += *after - *before;
    else if (after && part.kind == K::Shim && !old) // a first shim takes its whole thickness
        assembly.train.installed_height_m += *after;
    put_into(assembly.train, part);
    assembly.parts[part.kind] = fitted_part(id, part);
    return assembly;
}

Assembly unfitted(Assembly assembly, PartKind kind) {
    if (const FittedPart* old = assembly.find(kind); old && kind == K::Shim)
        assembly.train.installed_height_m -= height_share_m(kind, old->facts).value_or(0);
    assembly.parts.erase(kind);
    return assembly;
}

bool departs_from(const Assembly& assembly, const Part& part) {
    Train same = assembly.train;
    put_into(same, part);
    same.tolerances = assembly.train.tolerances;
    const FittedPart* here = assembly.find(part.kind);
    return !(same == assembly.train) || (here && !(here->facts == part.facts));
}

std::vector<Difference> differences(const Assembly& before, const Assembly& after) {
    Comparison to;
    to.fields(train_fields(), "", "", &before.train, &after.train);
    compare_shapes(before.train, after.train, to);
    compare_parts(before, after, to);
    return std::move(to.out);
}

MeasuredText told(const Difference& d) {
    if (!d.before && !d.after)
        return MeasuredText(d.label + ": " + (d.words_before.empty() ? "–" : d.words_before) + " → " +
                            (d.words_after.empty() ? "–" : d.words_after));
    MeasuredText out(d.label + " ");
    const auto add = [&](const std::optional<double>& si) {
        out += si ? MeasuredText("{}", {{d.quantity, *si, Measured::As::Typed}}) : MeasuredText("–");
    };
    add(d.before);
    out += " → ";
    add(d.after);
    return out += MeasuredText("{}", {{d.quantity, 0, Measured::As::UnitOnly}});
}

std::string in_words(const Difference& d, const UnitChoice& units) {
    return told(d).in_words(units);
}

} // namespace bathmos
