#include "standin/rig/live_rig.h"

#include "core/calibration/free_numbers.h"
#include "core/motion/motion.h"
#include "core/problem/input_error.h"
#include "core/train/train_figures.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <numbers>
#include <random>
#include <utility>

namespace bathmos::standin {

namespace {

constexpr double kSpeedStep_rpm = 50; // between motions that the model runs
constexpr double kSlowest_rpm = 1000; // that the model is run at
constexpr double kPhase_deg = 37;     // of the nose after the index, crank
constexpr double kBlock_s = 0.02, kReading_s = 0.1;
constexpr double kLeast_rpm = 60;                                         // slower: it stands
constexpr double kLashStep_m = 15e-6, kWarm_s = 90, kWarmLash_m = -30e-6; // a warm train has less of it
constexpr double kAmbient_C = 25, kHot_C = 65;
constexpr double kRipple = 0.002; // of the speed, twice a crank turn
constexpr std::array kFaults = {
    std::pair{RigFault::None, std::string_view("none")},
    std::pair{RigFault::DropOuts, std::string_view("drop_outs")},
    std::pair{RigFault::LostTarget, std::string_view("lost_target")},
    std::pair{RigFault::Saturation, std::string_view("saturation")},
    std::pair{RigFault::ZeroJump, std::string_view("zero_jump")},
    std::pair{RigFault::MissedIndex, std::string_view("missed_index")},
    std::pair{RigFault::Creep, std::string_view("creep")},
    std::pair{RigFault::Bounce, std::string_view("bounce")},
};
constexpr double kGap = 0.1, kMissed = 1.0 / 40, kClipped = 0.9, kJump_mm = 0.25, kJump_s = 20,
                 kLost_rpm = 5000;

using Dice = std::mt19937_64;

double unit_of_mm(const std::string& unit) {
    return 1 / live::lift_unit_mm(unit).value_or(1);
}

} // namespace

std::string_view name_of(RigFault fault) {
    return kFaults[static_cast<std::size_t>(fault)].second;
}

std::optional<RigFault> find_rig_fault(std::string_view name) {
    const auto at = std::ranges::find(kFaults, name, [](const auto& one) { return one.second; });
    return at == kFaults.end() ? std::nullopt : std::optional(at->first);
}

const std::vector<RigFault>& all_rig_faults() {
    static const std::vector<RigFault> all = [] {
        std::vector<RigFault> out;
        for (const auto& one : kFaults)
            out.push_back(one.first);
        return out;
    }();
    return all;
}

Train hidden_twin(const Train& believed, Dice& dice) {
    const auto off = [&] { return std::clamp(std::normal_distribution<double>()(dice), -2.0, 2.0); };
    Train out = with_run_options(believed);
    const std::vector<FreeNumber> fitted = free_numbers(out);
    for (const UncertainInput& input : uncertain_inputs(out))
        if (std::ranges::none_of(fitted, [&](const FreeNumber& n) { return n.key == input.key; }) &&
            !input.key.starts_with("springs["))
            out = moved(std::move(out), input, 0.5 * off());
    for (const FreeNumber& number : fitted)
        move_number(out, number, number.prior_sd * off());
    return out;
}

// The motion of the train at any speed, as cycles that follow one another.
class LiveRig::Twin {
  public:
    explicit Twin(Train truth) : truth_(std::move(truth)), model_(truth_) {}
    const Train& truth() const { return truth_; }
    /// Lash has grown by so much with heat.
    void warm(double lash_m) {
        const double lash = std::max(0.0, truth_.lash_m + kLashStep_m * std::round(lash_m / kLashStep_m));
        if (truth_.hydraulic() || lash == now_m_.value_or(truth_.lash_m))
            return;
        Train warmer = truth_;
        warmer.lash_m = lash;
        now_m_ = lash;
        model_ = MotionModel(warmer);
        at_.clear();
    }
    /// A new cycle begins: where motion does not repeat, one of those that were seen.
    void next_cycle(Dice& dice) { cycle_ = dice(); }
    /// Lift at a crank angle from the nose, m.
    double lift_m(double rpm, double crank_deg) {
        // Slower than that nothing swings: the motion is that of the slowest that is run.
        const double below = std::max(kSlowest_rpm, std::floor(rpm / kSpeedStep_rpm) * kSpeedStep_rpm),
                     share = std::clamp((rpm - below) / kSpeedStep_rpm, 0.0, 1.0);
        if (below != below_rpm_) {
            below_rpm_ = below;
            low_ = &motion(below);
            high_ = nullptr;
        }
        const double low = at(*low_, crank_deg);
        if (share < 0.02)
            return low;
        if (!high_)
            high_ = &motion(below + kSpeedStep_rpm);
        return low + share * (at(*high_, crank_deg) - low);
    }
    void forget_place() { below_rpm_ = 0; }

  private:
    struct Cycles {
        std::vector<std::vector<double>> lift_m;
    };
    double at(const Cycles& cycles, double crank_deg) const {
        return channel_at(cycles.lift_m[cycle_ % cycles.lift_m.size()], crank_deg);
    }
    const Cycles& motion(double rpm) {
        auto found = at_.find(rpm);
        if (found != at_.end())
            return found->second;
        CycleRule rule;
        rule.most = 24;
        const Motion run = std::move(model_.run({rpm}, {}, rule).front());
        if (!run.finite)
            throw InputError(
                {truth_.name, fmt::format("{:.0f} rev/min", rpm), run.trouble, "spin it slower"});
        Cycles cycles{run.cloud_m};
        if (cycles.lift_m.empty())
            cycles.lift_m.push_back(run[Channel::Lift]);
        return at_.emplace(rpm, std::move(cycles)).first->second;
    }

    Train truth_;
    MotionModel model_;
    std::map<double, Cycles> at_;
    std::optional<double> now_m_;
    double below_rpm_ = 0;
    const Cycles *low_ = nullptr, *high_ = nullptr;
    std::uint64_t cycle_ = 0;
};

struct LiveRig::State {
    explicit State(const LiveRigSetup& given)
        : setup(given), dice(given.seed),
          twin(given.as_believed ? given.believed : hidden_twin(given.believed, dice)),
          to_unit(unit_of_mm(given.lift_unit)),
          peak_mm(1e3 * RigidMotion(given.believed, curve_of(given.believed.lobe)).peak_m()),
          rpm(given.from_rpm), target_rpm(given.from_rpm) {}

    LiveRigSetup setup;
    Dice dice;
    std::normal_distribution<double> normal;
    Twin twin;
    double to_unit, peak_mm;
    double rpm, target_rpm, rpm_per_s = 0;
    double time_s = 0, said_s = 0, held_s = 0, run_s = 0; ///< run: turning
    double crank_deg = 0;                                 ///< since the index of the cam turn, 0..720
    double zero_mm = 0.2, jumped_mm = 0;
    double sample_left = 0; ///< share of a sample that is due
    std::uint64_t samples = 0;
    bool gap = false, lost = false, said_arrived = true;
    std::uint64_t gap_at = 0;
    live::Block block;
    std::vector<live::Message> said;
};

LiveRig::LiveRig(const LiveRigSetup& setup) {
    LiveRigSetup checked = setup;
    if (checked.fault == RigFault::Bounce)
        checked.believed.contacts.seat_damping_s_per_m *= 0.05;
    state_ = std::make_unique<State>(checked);
    live::lift_channel(hello());
}

LiveRig::~LiveRig() = default;

double LiveRig::rpm() const {
    return state_->rpm;
}

const Train& LiveRig::truth() const {
    return state_->twin.truth();
}

live::Hello LiveRig::hello() const {
    const LiveRigSetup& s = state_->setup;
    live::Hello out;
    out.rig = "stand-in rig";
    out.valve = "intake 1";
    out.channels = {{"motor_A", "A"}, {"lift", s.lift_unit}}; // in any order
    out.once_per_crank_turn = s.once_per_crank_turn;
    out.samples_a_turn = s.rate_Hz > 0 ? 0 : s.once_per_crank_turn ? s.samples_a_turn / 2 : s.samples_a_turn;
    out.rate_Hz = s.rate_Hz;
    out.most_rpm = s.most_rpm;
    return out;
}

live::Answer LiveRig::ask(const live::Request& request) {
    State& s = *state_;
    if (request.kind == live::Request::Kind::Stop) {
        s.target_rpm = 0;
        s.rpm_per_s = 2 * s.setup.rpm_per_s;
        return {request.number, true, "coming down"};
    }
    if (request.kind == live::Request::Kind::Hold)
        return {request.number, true, "holding"};
    if (!(request.rpm >= kLeast_rpm && request.rpm <= s.setup.most_rpm))
        return {request.number, false,
                fmt::format("{:.0f} rev/min: this rig turns {:.0f} to {:.0f}", request.rpm, kLeast_rpm,
                            s.setup.most_rpm)};
    if (request.rpm != s.target_rpm) {
        s.zero_mm += 1e3 * s.setup.zero_walk_m * s.normal(s.dice);
        s.said_arrived = false;
    }
    s.target_rpm = request.rpm;
    s.rpm_per_s = request.rpm_per_s > 0 ? std::min(request.rpm_per_s, s.setup.rpm_per_s) : s.setup.rpm_per_s;
    return {request.number, true, fmt::format("to {:.0f} rev/min", request.rpm)};
}

void LiveRig::turn_motor(double seconds) {
    State& s = *state_;
    const double far = s.target_rpm - s.rpm, most = s.rpm_per_s * seconds;
    s.rpm += std::clamp(far, -most, most);
    const bool there = std::abs(s.target_rpm - s.rpm) < 1;
    s.held_s = there ? s.held_s + seconds : 0;
    if (there && !s.said_arrived) {
        s.said_arrived = true;
        s.said.push_back(live::RigEvent{"holding", fmt::format("{:.0f} rev/min", s.rpm)});
    }
    if (s.rpm > kLeast_rpm)
        s.run_s += seconds;
    if (s.setup.fault == RigFault::ZeroJump && s.run_s > kJump_s)
        s.jumped_mm = kJump_mm;
    s.twin.warm(kWarmLash_m * (1 - std::exp(-s.run_s / kWarm_s)));
    s.twin.forget_place();
}

// One sample of the sensor, in the unit of its channel.
float LiveRig::reading(double crank_deg) {
    State& s = *state_;
    if (s.setup.fault == RigFault::LostTarget && s.rpm > kLost_rpm)
        return static_cast<float>((s.zero_mm - 3) * s.to_unit);
    if (s.gap && s.samples >= s.gap_at && s.samples < s.gap_at + 40)
        return std::nanf("");
    double from_nose = crank_deg - kPhase_deg;
    from_nose -= from_nose > 360 ? 720 : 0;
    double lift_m = s.twin.lift_m(s.rpm, from_nose);
    if (s.setup.fault == RigFault::Creep && lift_m > 1e-4)
        lift_m -= s.setup.creep_m_per_s * s.held_s;
    double mm =
        1e3 * ((1 + s.setup.gain) * lift_m + s.setup.noise_m * s.normal(s.dice)) + s.zero_mm + s.jumped_mm;
    if (s.setup.fault == RigFault::Saturation)
        mm = std::min(mm, s.zero_mm + kClipped * s.peak_mm);
    return static_cast<float>(mm * s.to_unit);
}

std::vector<live::Message> LiveRig::advance(double seconds) {
    State& s = *state_;
    const double index_deg = s.setup.once_per_crank_turn ? 360 : 720;
    for (double left = seconds; left > 1e-9;) {
        const double now_s = std::min(left, kBlock_s);
        left -= now_s;
        s.time_s += now_s;
        turn_motor(now_s);
        s.block = {};
        s.block.first = s.samples;
        const bool turns = s.rpm > kLeast_rpm;
        const double deg_per_s = turns ? 6 * s.rpm : 0;
        const double per_s = s.setup.rate_Hz > 0 ? s.setup.rate_Hz : s.setup.samples_a_turn / 720 * deg_per_s;
        s.sample_left += per_s * now_s;
        const double step_deg = per_s > 0 ? deg_per_s / per_s : 0;
        for (; s.sample_left >= 1; s.sample_left -= 1) {
            const double before = s.crank_deg;
            const double ripple =
                s.setup.rate_Hz > 0 ? 1 + kRipple * std::sin(before * std::numbers::pi / 90) : 1;
            s.crank_deg += step_deg * ripple;
            const bool pulse =
                std::floor((s.crank_deg + 1e-7) / index_deg) > std::floor((before + 1e-7) / index_deg);
            if (s.crank_deg >= 720 - 1e-7) {
                s.crank_deg = std::max(0.0, s.crank_deg - 720);
                s.twin.next_cycle(s.dice);
                s.gap = s.setup.fault == RigFault::DropOuts &&
                        std::uniform_real_distribution<double>()(s.dice) < kGap;
                s.gap_at = s.samples + 100;
            }
            if (pulse && !(s.setup.fault == RigFault::MissedIndex &&
                           std::uniform_real_distribution<double>()(s.dice) < kMissed)) {
                s.block.pulses.push_back(static_cast<std::uint32_t>(s.samples - s.block.first));
                if (s.setup.rate_Hz <= 0)
                    s.block.pulse_rpm.push_back(static_cast<float>(s.rpm));
            }
            s.block.samples.push_back(static_cast<float>(2 + s.rpm / 1000)); // the motor's current
            s.block.samples.push_back(reading(s.crank_deg));
            ++s.samples;
        }
        if (!s.block.samples.empty())
            s.said.push_back(std::move(s.block));
        if (s.time_s - s.said_s >= kReading_s) {
            s.said_s = s.time_s;
            const double warm = 1 - std::exp(-s.run_s / kWarm_s);
            s.said.push_back(live::Reading{s.time_s, s.rpm, kAmbient_C + warm * kHot_C});
        }
    }
    return std::exchange(s.said, {});
}

} // namespace bathmos::standin
