#include "core/lobe/reconcile.h"

#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr std::size_t kFewestGauged = 20;
constexpr int kMachineNumbers = 5, kMachineRounds = 12;
constexpr double kMachineTail = 2.5;            // noises from where on a reading counts less
constexpr double kLeastMachineNoise_m = 0.2e-6; // two formulas have none
constexpr double kScaleTold = 0.001, kRunoutTold_m = 2e-6, kMachineSure = 3;
constexpr double kLeftWithin = 1.3, kLeftFar = 3, kLeftFar_m = 5e-6;
constexpr std::size_t kMeanOf = 5;
constexpr double kStretch = 7, kStretch_m = 6e-6; // of a mean of so many

struct MachineReading {
    double theta_rad, rise_m;
};

// Readings of a machine as its own smoothing has them, from its own nose; of a formula, every degree.
std::vector<MachineReading> machine_readings(const LobeCurve& curve) {
    std::vector<MachineReading> out;
    if (const auto& report = curve.smoothing()) {
        for (std::size_t i = 0; i < report->angle_rad.size(); ++i)
            out.push_back({report->angle_rad[i], curve.at(report->angle_rad[i]) + report->residual_m[i]});
    } else {
        for (int degree = -180; degree < 180; ++degree)
            out.push_back({radians(degree), curve.at(radians(degree))});
    }
    std::sort(out.begin(), out.end(),
              [](const MachineReading& a, const MachineReading& b) { return a.theta_rad < b.theta_rad; });
    return out;
}

double machine_noise(const LobeCurve& curve) {
    return curve.smoothing() ? curve.smoothing()->noise_m : 0;
}

using MachineNumbers = Eigen::Matrix<double, kMachineNumbers, 1>; // shift, scale, offset, a, b
using MachineSquare = Eigen::Matrix<double, kMachineNumbers, kMachineNumbers>;

struct MachineFit {
    MachineNumbers p = (MachineNumbers() << 0, 1, 0, 0, 0).finished();
    MachineSquare covariance = MachineSquare::Zero();
    std::vector<double> left, noise;
    double left_rms() const {
        double sum = 0;
        for (const double one : left)
            sum += one * one;
        return std::sqrt(sum / static_cast<double>(left.size()));
    }
};

class MachineFitting {
  public:
    MachineFitting(const LobeCurve& first, const LobeCurve& second, bool mirrored)
        : first_(first), readings_(machine_readings(second)), sign_(mirrored ? -1 : 1) {
        for (const MachineReading& r : readings_)
            noise_.push_back(
                std::max(kLeastMachineNoise_m, std::hypot(machine_noise(second),
                                                          first.standard_deviation(sign_ * r.theta_rad, 0))));
        find_inflation(second);
    }

    MachineFit run() const {
        MachineFit fit;
        fit.noise = noise_;
        for (int round = 0; round < kMachineRounds; ++round)
            step(fit);
        look(fit);
        return fit;
    }

    const std::vector<MachineReading>& readings() const { return readings_; }

  private:
    double model(const MachineNumbers& p, double theta) const {
        return p[1] * first_.at(sign_ * (theta - p[0])) + p[2] + p[3] * std::cos(theta) +
               p[4] * std::sin(theta);
    }
    void look(MachineFit& fit) const {
        fit.left.clear();
        for (const MachineReading& r : readings_)
            fit.left.push_back(r.rise_m - model(fit.p, r.theta_rad));
    }
    void step(MachineFit& fit) const {
        look(fit);
        MachineSquare normal = MachineSquare::Zero();
        MachineNumbers right = MachineNumbers::Zero();
        double weighted = 0;
        for (std::size_t i = 0; i < readings_.size(); ++i) {
            const double theta = readings_[i].theta_rad, at = sign_ * (theta - fit.p[0]);
            const double off = std::abs(fit.left[i]) / noise_[i];
            const double weight = (off > kMachineTail ? kMachineTail / off : 1) / (noise_[i] * noise_[i]);
            const MachineNumbers row = (MachineNumbers() << -sign_ * fit.p[1] * first_.at(at, 1),
                                        first_.at(at), 1, std::cos(theta), std::sin(theta))
                                           .finished();
            normal += weight * row * row.transpose();
            right += weight * fit.left[i] * row;
            weighted += weight * fit.left[i] * fit.left[i];
        }
        const Eigen::LDLT<MachineSquare> solver(normal);
        fit.p += solver.solve(right);
        fit.covariance = solver.solve(MachineSquare::Identity()) * inflation_ *
                         std::max(1.0, weighted / (static_cast<double>(readings_.size()) - kMachineNumbers));
    }

    // What the first curve is off by is alike over neighbouring readings, so that they tell less than so many
    // readings of their own would: as if its machine's noise lay on each of the second's.
    void find_inflation(const LobeCurve& second) {
        double used = 0;
        for (const double one : noise_)
            used += one * one / static_cast<double>(noise_.size());
        const double share = static_cast<double>(readings_.size()) /
                             static_cast<double>(std::max<std::size_t>(1, machine_readings(first_).size()));
        const double honest = std::pow(machine_noise(second), 2) + std::pow(machine_noise(first_), 2) * share;
        inflation_ = std::max(1.0, honest / used);
    }

    const LobeCurve& first_;
    std::vector<MachineReading> readings_;
    double sign_;
    std::vector<double> noise_;
    double inflation_ = 1;
};

// Most of what is left, where five neighbours say so together.
void find_most_left(Reconciled& out) {
    for (std::size_t i = 0; i + kMeanOf <= out.difference_m.size(); ++i) {
        double mean = 0;
        for (std::size_t k = 0; k < kMeanOf; ++k)
            mean += out.difference_m[i + k] / kMeanOf;
        if (std::abs(mean) > std::abs(out.worst_m)) {
            out.worst_m = mean;
            out.worst_rad = out.theta_rad[i + kMeanOf / 2];
        }
    }
}

void tell_machines(Reconciled& out) {
    const bool scaled = std::abs(out.scale.value - 1) > std::max(kScaleTold, kMachineSure * out.scale.sd);
    const bool held_out = out.runout_m.value > std::max(kRunoutTold_m, kMachineSure * out.runout_m.sd);
    const bool more = out.left_m > kLeftWithin * out.expected_m;
    const bool stretch =
        std::abs(out.worst_m) >
        std::max(kStretch * out.expected_m / std::sqrt(static_cast<double>(kMeanOf)), kStretch_m);
    const bool far = stretch || out.left_m > std::max(kLeftFar * out.expected_m, kLeftFar_m);
    if (far)
        out.told.push_back(
            {"what is left between them is {}, their noise makes {}: not one lobe, or one of the "
             "machines slips",
             {{Quantity::FineLength, out.left_m}, {Quantity::FineLength, out.expected_m}}});
    else if (more)
        out.told.push_back({"what is left between them, {}, is more than their noise, {}",
                            {{Quantity::FineLength, out.left_m}, {Quantity::FineLength, out.expected_m}}});
    if (more || far)
        out.told.push_back(
            {fmt::format("most, {{}}, at {:.0f} crank degrees from the nose", 2 * degrees(out.worst_rad)),
             {{Quantity::FineLength, out.worst_m}}});
    if (scaled && !far)
        out.told.push_back(
            fmt::format("the second shows {:.2f} % {} lift: a gauge block under both dials tells "
                        "which is right",
                        100 * std::abs(out.scale.value - 1), out.scale.value > 1 ? "more" : "less"));
    if (held_out && !far)
        out.told.push_back({"once a turn they differ by {} either way: one of the cams was held out of true",
                            {{Quantity::FineLength, out.runout_m.value}}});
    if (out.mirrored)
        out.told.push_back("the second was gauged against the rotation of the first");
    out.one_lobe = !far;
    out.agree = !more && !far && !scaled && !held_out;
    if (out.agree)
        out.told.push_back(
            {"both machines say the same within their noise, {}", {{Quantity::FineLength, out.expected_m}}});
}

} // namespace

Reconciled reconcile(const Lobe& first, const Lobe& second) {
    const LobeCurve a = curve_of(first), b = curve_of(second);
    const MachineFitting straight(a, b, false), turned(a, b, true);
    if (straight.readings().size() < kFewestGauged)
        throw InputError({"", "lobe.table", fmt::format("only {} readings", straight.readings().size()),
                          fmt::format("two machines are compared over at least {}", kFewestGauged)});
    MachineFit fit = straight.run();
    Reconciled out;
    if (const MachineFit other = turned.run(); other.left_rms() < 0.7 * fit.left_rms()) {
        fit = other;
        out.mirrored = true;
    }
    const auto found = [&](int i) { return FoundNumber{fit.p[i], std::sqrt(fit.covariance(i, i))}; };
    out.shift_rad = found(0);
    out.scale = found(1);
    out.offset_m = found(2);
    out.runout_m = {std::hypot(fit.p[3], fit.p[4]),
                    std::sqrt((fit.covariance(3, 3) + fit.covariance(4, 4)) / 2)};
    out.left_m = fit.left_rms();
    double expected = 0;
    for (const double one : fit.noise)
        expected += one * one;
    out.expected_m = std::sqrt(expected / static_cast<double>(fit.noise.size()));
    const double sign = out.mirrored ? -1 : 1;
    for (std::size_t i = 0; i < straight.readings().size(); ++i) {
        out.theta_rad.push_back(sign * (straight.readings()[i].theta_rad - fit.p[0]));
        out.difference_m.push_back(fit.left[i] / fit.p[1]);
    }
    find_most_left(out);
    tell_machines(out);
    return out;
}

CombinedPasses joined(const Lobe& first, const Reconciled& found) {
    if (!found.one_lobe)
        throw InputError({"", "lobe.table", "these are not two gaugings of one lobe, or one machine slips",
                          "gauge once more, or choose the other gauging of this lobe"});
    const LobeCurve a = curve_of(first);
    GaugePass one, other;
    for (const MachineReading& r : machine_readings(a)) {
        one.angle.push_back(degrees(r.theta_rad));
        one.lift.push_back(r.rise_m * 1e3);
    }
    for (std::size_t i = 0; i < found.theta_rad.size(); ++i) {
        other.angle.push_back(degrees(found.theta_rad[i]));
        other.lift.push_back((a.at(found.theta_rad[i]) + found.difference_m[i]) * 1e3);
    }
    if (found.mirrored) {
        std::reverse(other.angle.begin(), other.angle.end());
        std::reverse(other.lift.begin(), other.lift.end());
    }
    return combine({one, other}, AngleUnit::CamDegree, LiftUnit::Millimetre, false);
}

} // namespace bathmos
