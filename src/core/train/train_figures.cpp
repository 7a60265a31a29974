#include "core/train/train_figures.h"

#include "core/train/assumed.h"
#include "core/train/unusual.h"
#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace bathmos {

namespace {

std::vector<Share> equivalent_mass(const Train& train, double ratio) {
    std::vector<Share> out = {{"valve", train.valve.mass_kg},
                              {"retainer", train.retainer_mass_kg},
                              {"locks", train.locks_mass_kg},
                              {"cap", train.cap_mass_kg}};
    for (const Spring& spring : train.springs) {
        const SpringStatics statics(spring);
        out.push_back({"spring " + spring.name, statics.active_mass_kg() / 3 + 0.5 * statics.dead_mass_kg()});
    }
    if (train.rocker)
        out.push_back({"rocker", train.rocker->inertia_kg_m2 / std::pow(train.rocker->output_arm_m, 2)});
    if (train.pushrod)
        out.push_back({"pushrod", train.pushrod->mass_kg / (ratio * ratio)});
    if (train.lifter && train.layout != Layout::Finger)
        out.push_back({"lifter", train.lifter->mass_kg / (ratio * ratio)});
    return out;
}

// A stiffness k on the input side takes part at the valve tip as k / R^2.
std::vector<Share> compliance(const Train& train, double ratio) {
    std::vector<Share> out = {{"cam", ratio * ratio / train.contacts.cam_stiffness_N_per_m}};
    if (train.pushrod)
        out.push_back({"pushrod", ratio * ratio / link_stiffness_N_per_m(*train.pushrod)});
    if (train.rocker)
        out.push_back({"rocker", 1 / train.rocker->stiffness_N_per_m});
    if (train.layout == Layout::Bucket)
        out.push_back({"tip", 1 / train.contacts.tip_stiffness_N_per_m});
    return out;
}

double sum_of(const std::vector<Share>& shares) {
    double sum = 0;
    for (const Share& share : shares)
        sum += share.value;
    return sum;
}

void find_ratio_mismatch(const Train& train, double ratio, std::vector<Finding>& out) {
    if (!train.rocker)
        return;
    const double arms = train.rocker->output_arm_m / train.rocker->input_arm_m;
    if (std::abs(arms / ratio - 1) > 0.01)
        out.push_back({Severity::Warn, "rocker.ratio", "the arms give a ratio of {}",
                       "over 1 % off the ratio given, {}: the inertia then counts at a wrong place",
                       Quantity::Count, arms, ratio, "rocker_arms"});
}

void find_geometry_gap(const Train& train, std::vector<Finding>& out) {
    const auto* geometry = train.rocker ? std::get_if<RockerGeometry>(&train.rocker->ratio) : nullptr;
    if (!geometry)
        return;
    const double gap = RockerLinkage(*geometry, train.rocker->input_arm_m, train.rocker->output_arm_m,
                                     train.pushrod->length_m)
                           .gap_m();
    if (std::abs(gap - train.effective_lash_m()) > 0.5e-3)
        out.push_back(
            {Severity::Warn, "rocker.geometry", "the geometry leaves {} between rocker and stem",
             "over half a millimetre off the lash of {}: check pushrod length, stand and stem height",
             Quantity::Length, gap, train.effective_lash_m(), "geometry_gap"});
}

void find_bind(double margin_m, std::vector<Finding>& out) {
    const auto add = [&](Severity severity, double limit_m, const char* reason) {
        out.push_back({severity, "installed_height_mm", "bind margin {} at peak lift", reason,
                       Quantity::Length, margin_m, limit_m, "coil_bind"});
    };
    if (margin_m <= 0)
        add(Severity::Stop, 0,
            "the coils are solid before full lift: retainer, locks or rocker give way; raise the height, "
            "reduce lift "
            "or change the spring");
    else if (margin_m < kBindClose_m)
        add(Severity::Warn, kBindClose_m,
            "below {} is less than the close school keeps: little is left for loft and for an error of the "
            "height");
    else if (margin_m > kBindRoomy_m)
        add(Severity::Note, kBindRoomy_m,
            "roomy, over {}: forgives loft and height errors, but leaves coils room to surge");
}

// Highest force of the pressure while the valve is asked to be closed.
double most_closed_gas_N(const Train& train, const RigidMotion& rigid) {
    double most = gas_force_N(train, 2 * kPi);
    for (int i = 0; train.pressure_table && i < 720; ++i) {
        const double theta = -kPi + 2 * kPi * i / 720;
        if (rigid.lift_m(theta) <= 0)
            most = std::max(most, gas_force_N(train, 2 * theta));
    }
    return most;
}

void find_seat_load(const TrainFigures& figures, std::vector<Finding>& out) {
    if (figures.net_seat_load_N <= 0)
        out.push_back({Severity::Stop, "back_pressure_kPa", "the pressure outweighs the seat load by {}",
                       "the valve is blown off its seat", Quantity::Force, -figures.net_seat_load_N, 0,
                       "blown_open"});
}

// One note for all that is assumed, and a word to each finding that hangs on such a number.
void tell_assumed(const std::vector<AssumedNumber>& assumed, std::vector<Finding>& findings) {
    constexpr std::size_t kNamed = 4;
    if (assumed.empty())
        return;
    for (Finding& finding : findings)
        if (std::any_of(assumed.begin(), assumed.end(),
                        [&](const AssumedNumber& one) { return one.key == finding.part; }))
            finding.reason += "; this number is assumed, not measured";
    std::string names;
    for (std::size_t i = 0; i < std::min(kNamed, assumed.size()); ++i)
        names += (i == 0 ? "" : ", ") + assumed[i].label;
    if (assumed.size() > kNamed)
        names += fmt::format(" and {} more", assumed.size() - kNamed);
    findings.push_back(
        {Severity::Note, assumed.front().key,
         assumed.size() == 1 ? "1 number is assumed, not measured: " + names
                             : fmt::format("{} numbers are assumed, not measured: {}", assumed.size(), names),
         "every speed computed from them is as sure as the rules behind them; Motion, Uncertainty "
         "says which of them matters most",
         Quantity::Count, 0, 0, "assumed"});
}

} // namespace

MeasuredText told(const Finding& f) {
    const auto with = [&](const std::string& text, double si) { // its value only where it speaks of it
        return text.find("{}") == std::string::npos ? MeasuredText(text)
                                                    : MeasuredText(text, {{f.quantity, si}});
    };
    return with(f.text, f.value) + " – " + with(f.reason, f.limit);
}

std::string in_words(const Finding& f, const UnitChoice& units) {
    return told(f).in_words(units);
}

double link_stiffness_N_per_m(const Pushrod& rod) {
    if (rod.stiffness_N_per_m)
        return *rod.stiffness_N_per_m;
    const double inner = rod.outer_diameter_m - 2 * rod.wall_m;
    const double area = kPi / 4 * (rod.outer_diameter_m * rod.outer_diameter_m - inner * inner);
    const double tube = rod.youngs_modulus_Pa * area / rod.length_m;
    return 1 / (1 / tube + 1 / rod.end_stiffness_N_per_m);
}

double gas_force_N(const Train& train, double crank_rad) {
    const double pressure =
        train.pressure_table ? train.pressure_table->at(crank_rad) : train.back_pressure_Pa;
    return pressure * kPi / 4 * train.valve.head_diameter_m * train.valve.head_diameter_m;
}

std::optional<Separation> separation_of(const Train& train, const RigidMotion& rigid,
                                        double equivalent_mass_kg) {
    std::vector<SpringStatics> springs;
    for (const Spring& spring : train.springs)
        springs.emplace_back(spring);
    const double floor = 0.1 * rigid.peak_m();
    const auto speed2 = [&](double theta) { // (rad/s)^2 at which the force is zero here
        const double lift = rigid.lift_m(theta), acceleration = rigid.acceleration_m_per_rad2(theta);
        if (lift < floor || acceleration >= 0)
            return std::numeric_limits<double>::infinity();
        double load = -gas_force_N(train, 2 * theta);
        for (const SpringStatics& spring : springs)
            load += spring.load_N(train.installed_height_m - lift);
        return std::max(0.0, load / (-equivalent_mass_kg * acceleration));
    };
    // Every half crank degree, then every 0.05 where the least may lie: acceleration bends little between.
    constexpr int steps = 14400, stride = 10;
    const auto theta_at = [](int i) { return -kPi + 2 * kPi * i / steps; };
    std::vector<double> coarse;
    for (int i = 0; i <= steps; i += stride)
        coarse.push_back(speed2(theta_at(i)));
    const double near_best = 1.1 * *std::min_element(coarse.begin(), coarse.end());
    double best = std::numeric_limits<double>::infinity(), where = 0;
    for (int i = 0; i <= steps; ++i) {
        const auto cell = static_cast<std::size_t>(i / stride);
        if (coarse[cell] > near_best && (cell + 1 == coarse.size() || coarse[cell + 1] > near_best))
            continue;
        if (const double s = speed2(theta_at(i)); s < best) {
            best = s;
            where = theta_at(i);
        }
    }
    if (!std::isfinite(best))
        return std::nullopt;
    return Separation{std::sqrt(best) * 120 / (2 * kPi), 2 * degrees(where)};
}

TrainFigures figures_of(const Train& train, const RigidMotion& rigid) {
    TrainFigures out{};
    const double ratio = rigid.map().ratio(rigid.lobe().lift_m() / 2);
    out.peak_lift_m = rigid.peak_m();
    out.equivalent_mass_kg = equivalent_mass(train, ratio);
    out.equivalent_mass_total_kg = sum_of(out.equivalent_mass_kg);
    out.compliance_m_per_N = compliance(train, ratio);
    out.stiffness_N_per_m = 1 / sum_of(out.compliance_m_per_N);
    out.train_hz = std::sqrt(out.stiffness_N_per_m / out.equivalent_mass_total_kg) / (2 * kPi);
    if (train.pushrod)
        out.link_stiffness_N_per_m = link_stiffness_N_per_m(*train.pushrod);
    const double closed = train.installed_height_m, open = closed - out.peak_lift_m;
    out.bind_margin_m = std::numeric_limits<double>::infinity();
    for (const Spring& spring : train.springs) {
        const SpringStatics s(spring);
        SpringFigures f{spring.name,
                        s.rate_N_per_m(closed),
                        s.load_N(closed),
                        s.load_N(open),
                        s.surge_hz(s.chord_rate_N_per_m(closed, open)),
                        s.solid_height_m(),
                        open - s.solid_height_m(),
                        s.stress_Pa(open)};
        out.seat_load_N += f.seat_load_N;
        out.open_load_N += f.open_load_N;
        out.bind_margin_m = std::min(out.bind_margin_m, f.bind_margin_m);
        out.springs.push_back(std::move(f));
    }
    out.net_seat_load_N = out.seat_load_N - most_closed_gas_N(train, rigid);
    out.separation = separation_of(train, rigid, out.equivalent_mass_total_kg);
    find_ratio_mismatch(train, ratio, out.findings);
    find_bind(out.bind_margin_m, out.findings);
    find_seat_load(out, out.findings);
    find_geometry_gap(train, out.findings);
    for (Finding& finding : unusual_numbers(train))
        out.findings.push_back(std::move(finding));
    tell_assumed(assumed_numbers(train), out.findings);
    return out;
}

std::vector<Finding> cautions_of(const Train& train) {
    std::vector<Finding> out = figures_of(train, RigidMotion(train, curve_of(train.lobe))).findings;
    std::erase_if(out, [](const Finding& f) { return f.severity != Severity::Stop && f.rule != kUnusual; });
    return out;
}

} // namespace bathmos
