#include "io/sheet/sheet_summary.h"

#include "io/json/json.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

using bench::Figure;

constexpr int kDecimals = 6;

// Gathers values twice: for the file, and for a person.
class SummaryWriter {
  public:
    explicit SummaryWriter(std::string kind) { out_["kind"] = kind_ = std::move(kind); }

    /// In the unit that `quantity` has in files; null where it is not there.
    void value(const std::string& key, const std::string& words, const std::optional<Figure>& value,
               Quantity quantity) {
        out_[key] = value ? json_of(*value, quantity) : Json(nullptr);
        values_.push_back({key, words, value, quantity});
        if (!value)
            lines_.emplace_back(words + ": not known");
        else if (number_text(quantity, 2 * value->sd) != number_text(quantity, 0)) // else no digit shows it
            lines_.emplace_back(words + ": {} ± {}",
                                std::vector<Measured>{{quantity, value->value}, {quantity, 2 * value->sd}});
        else
            lines_.emplace_back(words + ": {}", std::vector<Measured>{{quantity, value->value}});
    }
    static Json json_of(const Figure& value, Quantity quantity) {
        const double unit_si = unit_of(quantity).to_si;
        return {{"value", rounded(value.value / unit_si, kDecimals)},
                {"sd", rounded(value.sd / unit_si, kDecimals)}};
    }
    Json& operator[](const std::string& key) { return out_[key]; }
    void line(MeasuredText text) { lines_.push_back(std::move(text)); }

    SheetSummary finish(const std::vector<bench::Told>& told) {
        out_["told"] = Json::array();
        for (const bench::Told& one : told)
            out_["told"].push_back({{"rule", one.rule}, {"text", one.text.in_words()}});
        return {kind_, json_text(out_, 1) + "\n", std::move(lines_), std::move(values_), told};
    }

  private:
    std::string kind_;
    Json out_;
    std::vector<MeasuredText> lines_;
    std::vector<bench::AnswerValue> values_;
};

// The coils' share of the mass is the train's.
bench::SpringSheet for_train(bench::SpringSheet sheet, const Train* train) {
    if (train && !train->springs.empty()) {
        const SpringStatics statics(train->springs.front());
        sheet.active_share = statics.active_mass_kg() / (statics.active_mass_kg() + statics.dead_mass_kg());
    }
    return sheet;
}

SheetSummary summary(const bench::SpringSheet& sheet, const Train* train) {
    const bench::SpringFigures f = bench::figures_of(for_train(sheet, train));
    SummaryWriter out("spring");
    out.value("seat_N", "seat load", f.seat_N, Quantity::Force);
    out.value("open_N", "open load", f.open_N, Quantity::Force);
    out.value("rate_N_per_mm", "rate", f.rate_N_per_m, Quantity::Stiffness);
    out.value("solid_mm", "solid height", f.solid_m, Quantity::Length);
    out.value("friction_N", "rub", f.friction_N, Quantity::Force);
    out.value("margin_mm", "margin to solid at full lift", f.margin_m, Quantity::Length);
    if (f.surge_Hz)
        out.value("surge_Hz", "first surge", Figure{*f.surge_Hz, 0}, Quantity::Frequency);
    return out.finish(f.told);
}

SheetSummary summary(const bench::SpringSet& set) {
    const bench::SpringSetFigures f = bench::figures_of(set);
    double square = 0;
    const auto n = static_cast<double>(f.load_N.size());
    for (const double load : f.load_N)
        square += (load - f.mean_N) * (load - f.mean_N);
    SummaryWriter out("spring_set");
    out.value("mean_N", "mean load at " + quantity_text(Quantity::Length, f.height_m),
              Figure{f.mean_N, std::sqrt(square / (n - 1) / n)}, Quantity::Force);
    out["height_mm"] = rounded(1e3 * f.height_m, kDecimals);
    out["reject"] = f.reject;
    out["tired"] = f.tired;
    out["pairs"] = Json::array();
    for (const bench::PlacedSpring& one : f.pairs) {
        out["pairs"].push_back({{"valve", one.valve}, {"serial", one.serial}});
        out.line(fmt::format("valve {}: spring {}", one.valve, one.serial));
    }
    const auto named = [](const std::vector<std::string>& list, const std::string& serial) {
        return std::ranges::find(list, serial) != list.end();
    };
    for (std::size_t i = 0; i < set.springs.size(); ++i) {
        const std::string& serial = set.springs[i].serial;
        if (named(f.reject, serial))
            out.line(fmt::format("spring {}: {:+.1f} % off the set, out", serial, 100 * f.off[i]));
        if (named(f.tired, serial))
            out.line(fmt::format("spring {}: has lost {:.1f} %, tired", serial, 100 * f.lost[i]));
    }
    return out.finish(f.told);
}

SheetSummary summary(const bench::HeightSheet& sheet) {
    const bench::HeightFigures f = bench::figures_of(sheet);
    SummaryWriter out("height");
    out.value("height_mm", "installed height", f.height_m, Quantity::Length);
    out["terms"] = {{"step_mm", SummaryWriter::json_of(f.step_m, Quantity::Length)},
                    {"lock_mm", SummaryWriter::json_of(f.lock_m, Quantity::Length)}};
    out.line({"of which the step {}, the locks {}",
              {{Quantity::Length, f.step_m.value}, {Quantity::Length, f.lock_m.value}}});
    out["shims"] = Json::array();
    MeasuredText shims;
    for (const double shim : f.shims_m) {
        out["shims"].push_back(rounded(1e3 * shim, kDecimals));
        shims += MeasuredText(shims.empty() ? "shims {}" : " + {}", {{Quantity::Length, shim}});
    }
    if (f.height_m)
        out.line(shims.empty() ? "no shim"
                               : shims + MeasuredText(" make {}", {{Quantity::Length, f.shimmed_m}}));
    out.value("seat_N", "seat load with them", f.seat_N, Quantity::Force);
    return out.finish(f.told);
}

SheetSummary summary(const bench::RatioSheet& sheet) {
    const bench::RatioFigures f = bench::figures_of(sheet);
    SummaryWriter out("ratio");
    out.value("ratio", "ratio at the peak", f.ratio, Quantity::Count);
    out["local"] = Json::array();
    for (const bench::LocalRatio& one : f.local) {
        out["local"].push_back({{"rise_mm", rounded(1e3 * one.rise_m, kDecimals)},
                                {"ratio", rounded(one.ratio.value, kDecimals)},
                                {"sd", rounded(one.ratio.sd, kDecimals)}});
        out.line({"at a rise of {}: {} ± {}",
                  {{Quantity::Length, one.rise_m},
                   {Quantity::Count, one.ratio.value},
                   {Quantity::Count, 2 * one.ratio.sd}}});
    }
    if (sheet.working)
        out.value("stiffness_N_per_mm", "stiffness of the train", f.stiffness_N_per_m, Quantity::Stiffness);
    return out.finish(f.told);
}

SheetSummary summary(const bench::StiffnessSheet& sheet) {
    const bench::StiffnessFigures f = bench::figures_of(sheet);
    SummaryWriter out("stiffness");
    out.value("stiffness_N_per_mm", "stiffness", f.stiffness_N_per_m, Quantity::Stiffness);
    out["r_squared"] = rounded(f.r_squared, kDecimals);
    out.value("slack_mm", "slack before it takes load", f.slack_m, Quantity::Length);
    return out.finish(f.told);
}

SheetSummary summary(const bench::SwingSheet& sheet) {
    SummaryWriter out("rocker_inertia");
    out.value("inertia_kg_mm2", "inertia about the pivot", bench::inertia_kg_m2(sheet), Quantity::Inertia);
    return out.finish({});
}

SheetSummary summary(const bench::KeyedSheet& sheet, const Train* train) {
    const bench::KeyedAnswer answer = bench::answer_of(sheet, train);
    SummaryWriter out(sheet.kind);
    for (const bench::AnswerValue& one : answer.values)
        out.value(one.key, one.label, one.figure, one.quantity);
    if (!answer.of_each.empty())
        out[answer.of_each] = Json::array();
    for (const bench::AnswerItem& item : answer.items) {
        Json json{{"name", item.name}};
        MeasuredText line(item.name + ":");
        for (const bench::AnswerValue& one : item.values) {
            json[one.key] = SummaryWriter::json_of(*one.figure, one.quantity);
            line += MeasuredText((&one == &item.values.front() ? " " : ", ") + one.label + " {}",
                                 {{one.quantity, one.figure->value}});
        }
        out[answer.of_each].push_back(std::move(json));
        out.line(std::move(line));
    }
    for (const MeasuredText& line : answer.lines)
        out.line(line);
    return out.finish(answer.told);
}

} // namespace

SheetSummary summary_of(const BenchSheet& sheet, const Train* train) {
    return std::visit(
        [train](const auto& one) {
            using Sheet = std::decay_t<decltype(one)>;
            if constexpr (std::is_same_v<Sheet, bench::KeyedSheet> ||
                          std::is_same_v<Sheet, bench::SpringSheet>)
                return summary(one, train);
            else
                return summary(one);
        },
        sheet);
}

} // namespace bathmos::io
