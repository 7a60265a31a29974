#include "core/bench/height_sheet.h"
#include "core/bench/keyed_kinds.h"
#include "core/math/robust.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <numeric>

namespace bathmos::bench {

namespace {

constexpr double kAllAlike_m = 0.1e-3; // heights of a head, and depths of a ball in its retainers
constexpr std::size_t kMostValves = 64, kMostStock = 40;

struct ShimmedValve {
    std::string name;
    Figure height_m;
    std::vector<double> shims_m;
    double after_m() const { return height_m.value - std::accumulate(shims_m.begin(), shims_m.end(), 0.0); }
};

std::vector<ShimmedValve> valves_of(const KeyedSheet& sheet) {
    if (sheet.rows.empty() || sheet.rows.size() > kMostValves)
        refuse("rows", fmt::format("{} valves", sheet.rows.size()),
               fmt::format("give 1 to {} of one head", kMostValves));
    std::vector<ShimmedValve> out;
    for (const KeyedSheet::Row& row : sheet.rows) {
        const auto height = row.find("height_mm");
        if (!height)
            refuse("rows.height_mm", fmt::format("is missing for \"{}\"", row.name), "read it");
        require_between("rows.height_mm", Quantity::Length, {height->value}, 1e-3, 0.5);
        out.push_back({row.name, *height, {}});
    }
    return out;
}

// Each shim once: the widest gap chooses first, as it has the fewest ways to be filled.
void share_out(std::vector<ShimmedValve>& valves, double wanted_m, std::vector<double> stock_m) {
    std::ranges::sort(stock_m, std::greater());
    std::vector<std::size_t> order(valves.size());
    std::iota(order.begin(), order.end(), std::size_t(0));
    std::ranges::stable_sort(order, std::greater(), [&](std::size_t i) { return valves[i].height_m.value; });
    for (const std::size_t i : order) {
        valves[i].shims_m = nearest_shims(stock_m, valves[i].height_m.value - wanted_m, false);
        for (const double shim : valves[i].shims_m)
            stock_m.erase(std::ranges::find(stock_m, shim));
    }
}

// Retainers over the same ball: which is not of the set.
void tell_of_depths(const KeyedSheet& sheet, KeyedAnswer& out) {
    std::vector<double> depths;
    for (const KeyedSheet::Row& row : sheet.rows)
        if (const auto depth = row.find("ball_depth_mm"))
            depths.push_back(depth->value);
    if (depths.size() < 3)
        return;
    const double middle_m = median(depths);
    for (const KeyedSheet::Row& row : sheet.rows)
        if (const auto depth = row.find("ball_depth_mm");
            depth && std::abs(depth->value - middle_m) > kAllAlike_m)
            out.told.push_back(
                {"retainer_differs", MeasuredText("retainer of valve " + row.name + ": ") +
                                         MeasuredText("the ball sits {} from where it sits in the others",
                                                      {{Quantity::Length, depth->value - middle_m}})});
}

} // namespace

KeyedAnswer head_shims(const KeyedSheet& sheet, const Train* train) {
    const double wanted_m = sheet.at("wanted_mm").value;
    require_between("wanted_mm", Quantity::Length, {wanted_m}, 1e-3, 0.5);
    const std::vector<double> stock = sheet.list("shims_mm");
    require_between("shims_mm", Quantity::Length, stock, 1e-5, 0.02);
    if (stock.size() > kMostStock)
        refuse("shims_mm", fmt::format("{} shims", stock.size()), fmt::format("give at most {}", kMostStock));
    std::vector<ShimmedValve> valves = valves_of(sheet);
    share_out(valves, wanted_m, stock);
    KeyedAnswer out;
    out.of_each = "valves";
    Figure sum;
    for (const ShimmedValve& valve : valves) {
        const double after_m = valve.after_m();
        AnswerItem item{
            valve.name,
            {{"shim_mm", "shims", Figure{valve.height_m.value - after_m, 0}, Quantity::Length},
             {"height_mm", "height with them", Figure{after_m, valve.height_m.sd}, Quantity::Length}}};
        if (train) {
            item.values.push_back({"before_N", "seat load before",
                                   Figure{load_of(train->springs, valve.height_m.value), 0},
                                   Quantity::Force});
            item.values.push_back(
                {"seat_N", "with them", Figure{load_of(train->springs, after_m), 0}, Quantity::Force});
        }
        out.items.push_back(std::move(item));
        if (valve.shims_m.size() > 1) {
            MeasuredText line("valve " + valve.name + ": ");
            for (std::size_t i = 0; i < valve.shims_m.size(); ++i)
                line += MeasuredText(i ? " + {}" : "{}", {{Quantity::Length, valve.shims_m[i]}});
            out.lines.push_back(std::move(line));
        }
        if (const double off = after_m - wanted_m; std::abs(off) > kAllAlike_m)
            out.told.push_back(
                {"out_of_reach",
                 MeasuredText("valve " + valve.name + ": ") +
                     MeasuredText(off < 0 ? "{} shorter than wanted: another step, lock or seat"
                                          : "{} taller than wanted: no shims left for it",
                                  {{Quantity::Length, std::abs(off)}})});
        sum = {sum.value + after_m, std::hypot(sum.sd, valve.height_m.sd)};
    }
    tell_of_depths(sheet, out);
    const auto n = static_cast<double>(valves.size());
    const Figure mean{sum.value / n, std::max(sum.sd / n, kAllAlike_m / 2)};
    out.values.push_back({"height_mm", "mean height", mean, Quantity::Length});
    out.found.push_back({"installed_height_mm", "Installed height", mean, Source::Gauge});
    if (out.told.empty())
        out.closes.push_back(Check::InstalledHeight);
    return out;
}

} // namespace bathmos::bench
