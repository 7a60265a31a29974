#include "standin/bench/bench_instruments.h"

#include "core/units/units.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::standin {

namespace {

struct Named {
    Instrument kind;
    std::string_view name;
    InstrumentErrors usual;
};
// Zero, noise, drift, resolution, backlash in the unit shown.
constexpr std::array kInstruments = {
    Named{Instrument::SpringTester, "spring_tester", {2.0, 1.2, 0.3, 0.5, 0}},
    Named{Instrument::Scale, "scale", {0.2, 0.02, 0.01, 0.01, 0}},
    Named{Instrument::TwoDials, "two_dials", {0, 0.002, 0, 0.002, 0.003}},
    Named{Instrument::HeightMicrometer, "height_micrometer", {0, 0.006, 0, 0.01, 0}},
    Named{Instrument::BallGauge, "ball_gauge", {0, 0.004, 0, 0.005, 0}},
    Named{Instrument::ProfileGauge, "profile_gauge", {0, 0.0015, 0, 0.001, 0}},
    Named{Instrument::LoadAndDial, "load_and_dial", {0, 0.0008, 0, 0.001, 0}},
};
constexpr std::array kSlips = {
    std::pair{Slip::None, std::string_view("none")},
    std::pair{Slip::TiredSpring, std::string_view("tired_spring")},
    std::pair{Slip::WrongBall, std::string_view("wrong_ball")},
    std::pair{Slip::SwappedSteps, std::string_view("swapped_steps")},
    std::pair{Slip::DialMoved, std::string_view("dial_moved")},
    std::pair{Slip::BentRod, std::string_view("bent_rod")},
};

constexpr double kAstray_mm = 0.03;       // a hand comes so near to where it goes
constexpr double kAstrayDial_mm = 0.005;  // turned until the dial shows it
constexpr double kHeightNoise_mm = 0.003; // of the spring tester's scale, beside its step of 0.01
constexpr double kSolidRate = 40;         // times the spring's own: coils that lie on each other
constexpr double kTaper_rad = 5 * kPi / 180;

const Named& info(Instrument kind) {
    return *std::ranges::find(kInstruments, kind, &Named::kind);
}

double between(std::mt19937& draw, double least, double most) {
    return std::uniform_real_distribution<double>(least, most)(draw);
}

double normal(std::mt19937& draw, double sd) {
    return sd > 0 ? std::normal_distribution<double>(0, sd)(draw) : 0;
}

double rounded_to(double value, double step) {
    return step > 0 ? step * std::round(value / step) : value;
}

// Lift of a polynomial lobe over the cam's angle from the nose, mm.
double lobe_mm(double peak_mm, double angle_deg) {
    const double u = std::abs(angle_deg) / 72;
    return u >= 1 ? 0 : peak_mm * std::pow(1 - u * u, 3) * (1 + 1.1 * u * u);
}

} // namespace

std::string_view name_of(Instrument instrument) {
    return info(instrument).name;
}

std::optional<Instrument> find_instrument(std::string_view name) {
    const auto at = std::ranges::find(kInstruments, name, &Named::name);
    return at == kInstruments.end() ? std::nullopt : std::optional(at->kind);
}

const std::vector<Instrument>& all_instruments() {
    static const std::vector<Instrument> all = [] {
        std::vector<Instrument> out;
        for (const Named& one : kInstruments)
            out.push_back(one.kind);
        return out;
    }();
    return all;
}

std::string_view name_of(Slip slip) {
    return std::ranges::find(kSlips, slip, [](const auto& one) { return one.first; })->second;
}

std::optional<Slip> find_slip(std::string_view name) {
    const auto at = std::ranges::find(kSlips, name, [](const auto& one) { return one.second; });
    return at == kSlips.end() ? std::nullopt : std::optional(at->first);
}

double Truth::load_N(std::size_t i, double at_mm) const {
    const double pressed = 46 - std::max(at_mm, solid_mm[i]);
    return load_at_46_N[i] + rate_N_per_mm[i] * pressed * (1 + progress * pressed) +
           kSolidRate * rate_N_per_mm[i] * std::max(0.0, solid_mm[i] - at_mm);
}

BenchInstrument::BenchInstrument(const InstrumentSetup& setup)
    : setup_(setup), usual_(info(setup.kind).usual), draw_(setup.seed) {
    setup_.parts = std::clamp<std::size_t>(setup_.parts, 1, 1000);
    draw_part();
    make_programme();
    zero_ = between(draw_, -1, 1) * error(&InstrumentErrors::zero);
    drift_ = normal(draw_, error(&InstrumentErrors::drift));
    empty_ =
        setup_.kind == Instrument::SpringTester || setup_.kind == Instrument::Scale; // their zero is read
}

double BenchInstrument::error(double InstrumentErrors::*which) const {
    const double given = setup_.errors.*which;
    return given >= 0 ? given : usual_.*which;
}

void BenchInstrument::draw_part() {
    const double load = between(draw_, 250, 420), rate = between(draw_, 25, 50),
                 solid = between(draw_, 26, 31);
    for (std::size_t i = 0; i < setup_.parts; ++i) {
        truth_.load_at_46_N.push_back(load * (1 + normal(draw_, 0.004)));
        truth_.rate_N_per_mm.push_back(rate * (1 + normal(draw_, 0.004)));
        truth_.solid_mm.push_back(solid + normal(draw_, 0.1));
        truth_.rub_N.push_back(between(draw_, 1, 12));
        truth_.mass_g.push_back(between(draw_, 20, 120));
    }
    truth_.progress = between(draw_, 0, 1) < 0.5 ? 0 : between(draw_, 0.001, 0.006);
    truth_.tired = std::uniform_int_distribution<std::size_t>(0, setup_.parts - 1)(draw_);
    truth_.lost_share = between(draw_, 0.06, 0.12);
    if (setup_.kind == Instrument::Scale && setup_.parts > 1)
        for (double& mass : truth_.mass_g) // a set of the same part
            mass = truth_.mass_g.front() * (1 + normal(draw_, 0.006));
    if (setup_.slip == Slip::TiredSpring) {
        truth_.load_at_46_N[truth_.tired] *= 1 - truth_.lost_share;
        truth_.rate_N_per_mm[truth_.tired] *= 1 - 0.3 * truth_.lost_share;
    }
    truth_.ratio = between(draw_, 1.35, 1.95);
    truth_.stiffness_N_per_mm = between(draw_, 4000, 20000);
    truth_.lobe_lift_mm = between(draw_, 7.5, 9.5);
    truth_.height_mm = between(draw_, 42, 50);
    truth_.old_step_mm = between(draw_, 3, 6);
    truth_.old_depth_mm = between(draw_, 1, 3);
    truth_.new_step_mm =
        truth_.old_step_mm + (between(draw_, 0, 1) < 0.5 ? -1 : 1) * between(draw_, 0.25, 1.2);
    truth_.new_depth_mm = truth_.old_depth_mm + between(draw_, -0.6, 0.6);
    truth_.ball_smaller_mm = (between(draw_, 0, 1) < 0.5 ? -1 : 1) * between(draw_, 0.04, 0.2);
    truth_.new_height_mm = truth_.height_mm + (truth_.new_depth_mm - truth_.old_depth_mm) -
                           (truth_.new_step_mm - truth_.old_step_mm);
}

void BenchInstrument::make_programme() {
    const auto there_and_back = [this](const std::vector<double>& places) {
        for (const double at : places)
            programme_.push_back({at, false});
        for (std::size_t i = places.size(); i-- > 0;)
            programme_.push_back({places[i], true});
    };
    std::vector<double> places = setup_.at_mm;
    switch (setup_.kind) {
    case Instrument::SpringTester:
        if (!places.empty()) {
            for (const double at : places)
                programme_.push_back({at, false});
            return;
        }
        for (double at = 48; at > truth_.solid_mm.front() + 0.5; at -= 2)
            places.push_back(at);
        for (const double beyond : {0.06, 0.14, 0.22})
            places.push_back(truth_.solid_mm.front() - beyond);
        there_and_back(places);
        programme_.erase(programme_.begin() +
                         static_cast<std::ptrdiff_t>(places.size())); // the shortest once
        return;
    case Instrument::TwoDials:
        for (double rise = 0; rise < truth_.lobe_lift_mm - 0.3; rise += 1)
            places.push_back(rise);
        places.push_back(truth_.lobe_lift_mm);
        there_and_back(places);
        programme_.erase(programme_.begin() + static_cast<std::ptrdiff_t>(places.size())); // the peak once
        return;
    case Instrument::ProfileGauge:
        for (double at = -90; at <= 90; at += 5)
            programme_.push_back({at, false});
        return;
    case Instrument::LoadAndDial:
        for (double at = 0; at <= 2000; at += 200)
            programme_.push_back({at, false});
        return;
    case Instrument::BallGauge: // old step, old depth, new step, new depth
        programme_.assign(4, {});
        return;
    case Instrument::HeightMicrometer: // old height, new height
        programme_.assign(2, {});
        return;
    case Instrument::Scale:
        programme_.assign(setup_.parts, {});
        return;
    }
}

double BenchInstrument::with_errors(double value) {
    const double over =
        programme_.empty() ? 0 : static_cast<double>(taken_) / static_cast<double>(programme_.size());
    return rounded_to(value + zero_ + drift_ * over + normal(draw_, error(&InstrumentErrors::noise)),
                      error(&InstrumentErrors::resolution));
}

std::string BenchInstrument::show_spring() {
    if (empty_)
        return fmt::format("H --- mm  F {:.1f} N", with_errors(0));
    const Place here = programme_[step_];
    const double height = elsewhere_.value_or(here.at + astray_);
    const double rub = (here.back ? -1 : 1) * truth_.rub_N[part_];
    return fmt::format("H {:.2f} mm  F {:.1f} N", height + normal(draw_, kHeightNoise_mm),
                       with_errors(truth_.load_N(part_, height) + rub));
}

// Dial A on the lobe or lifter, dial B at the valve. Under the working spring the train gives, a bent rod
// more at first.
std::string BenchInstrument::show_dials() {
    const Place here = programme_[step_];
    const double rise = elsewhere_.value_or(here.at + (here.at > 0 ? astray_ : 0));
    double lift = truth_.ratio * rise;
    if (working_) {
        const double force = truth_.load_at_46_N[part_] + truth_.rate_N_per_mm[part_] * lift;
        lift -= force / truth_.stiffness_N_per_mm;
        if (setup_.slip == Slip::BentRod)
            lift -= 0.12 * (1 - std::exp(-force / 300));
    }
    if (setup_.slip == Slip::DialMoved && 3 * step_ > programme_.size())
        lift += 0.12;
    if (here.back)
        lift += error(&InstrumentErrors::backlash);
    return fmt::format("A {:.3f} mm  B {:.3f} mm", with_errors(rise), with_errors(lift));
}

std::string BenchInstrument::line() {
    switch (setup_.kind) {
    case Instrument::SpringTester:
        return show_spring();
    case Instrument::TwoDials:
        return show_dials();
    case Instrument::Scale:
        return fmt::format("{:.2f} g", with_errors(empty_ ? 0 : truth_.mass_g[step_]));
    case Instrument::HeightMicrometer:
        return fmt::format("{:.2f} mm", with_errors(step_ == 0 ? truth_.height_mm : truth_.new_height_mm));
    case Instrument::BallGauge: {
        double depths[] = {truth_.old_step_mm, truth_.old_depth_mm, truth_.new_step_mm, truth_.new_depth_mm};
        if (setup_.slip == Slip::SwappedSteps)
            std::swap(depths[0], depths[2]);
        if (setup_.slip ==
            Slip::WrongBall) // a smaller one sits deeper, by its radius over the taper's sine too
            depths[3] += truth_.ball_smaller_mm / 2 * (1 / std::sin(kTaper_rad) + 1);
        return fmt::format("{:.3f} mm", with_errors(depths[step_]));
    }
    case Instrument::ProfileGauge: {
        const double at = elsewhere_.value_or(programme_[step_].at);
        return fmt::format("A {:.1f} deg  L {:.4f} mm", at, with_errors(lobe_mm(truth_.lobe_lift_mm, at)));
    }
    case Instrument::LoadAndDial: {
        const double force = elsewhere_.value_or(programme_[step_].at);
        double dial = 0.05 + force / truth_.stiffness_N_per_mm;
        if (setup_.slip == Slip::BentRod)
            dial += 0.12 * (1 - std::exp(-force / 600));
        return fmt::format("F {:.0f} N  D {:.4f} mm", force, with_errors(dial));
    }
    }
    return {};
}

bool BenchInstrument::done() const {
    return step_ + 1 >= programme_.size();
}

std::string BenchInstrument::command(std::string_view text) {
    elsewhere_.reset();
    const double most = setup_.kind == Instrument::TwoDials ? kAstrayDial_mm : kAstray_mm;
    astray_ = between(draw_, -most, most);
    if (text == "next") {
        ++taken_;
        if (empty_) {
            empty_ = false;
        } else if (done() && setup_.kind == Instrument::SpringTester && part_ + 1 < setup_.parts) {
            ++part_; // of a set
            step_ = 0;
        } else {
            step_ = std::min(step_ + 1, programme_.size() - 1);
        }
    } else if (text == "part") {
        part_ = std::min(part_ + 1, setup_.parts - 1);
        step_ = 0;
        empty_ = false;
    } else if (text == "working" || text == "again") {
        working_ = text == "working";
        step_ = 0;
    } else if (text == "zero") {
        empty_ = true;
    } else if (text.starts_with("to ")) {
        double value = 0;
        const std::string_view number = text.substr(3);
        const auto [end, error] = std::from_chars(number.data(), number.data() + number.size(), value);
        if (error != std::errc() || end != number.data() + number.size() || !(std::abs(value) < 1e5))
            return "no number after \"to\"";
        elsewhere_ = value;
        empty_ = false;
    } else {
        return "next, part, working, again, zero, to NUMBER";
    }
    return "";
}

} // namespace bathmos::standin
