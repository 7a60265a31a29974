// A lobe of 3600 readings: import, smoothing and full curves; and the smoothing's ring of bands against the
// same matrix solved as a full one.
#include "core/cam/lobe_compare.h"
#include "core/cam/lobe_design.h"
#include "core/lobe/lobe_fit.h"
#include "core/train/train_starter.h"
#include "core/units/units.h"
#include "io/lobe/lobe_file.h"
#include "timing.h"

#include <Eigen/Dense>
#include <cstdio>
#include <filesystem>
#include <fmt/format.h>
#include <fstream>
#include <random>

using namespace bathmos;
using namespace bathmos::bench;

namespace {

double kept = 0; // so that nothing is left out as unused

void curves(const LobeCurve& curve) {
    const LobeMotion motion(curve);
    kept += samples_of(motion).sd[3].back() + lobe_figures(motion).back().value;
}

} // namespace

int main() {
    const LobeCurve truth = curve_of(starter_train().lobe);
    const std::filesystem::path path = std::filesystem::temp_directory_path() / "bathmos-bench-lobe.csv";
    {
        std::ofstream file(path);
        std::mt19937 random(1);
        std::normal_distribution<double> noise(0, 2e-3);
        file << "cam_deg,lift_mm\n";
        for (int i = 0; i < 3600; ++i)
            file << fmt::format("{:.1f},{:.3f}\n", 0.1 * i,
                                truth.at(radians(0.1 * i - 180)) * 1e3 + noise(random));
    }
    const Lobe lobe = io::read_lobe_csv(path).lobe;
    const auto& table = std::get<LobeTable>(lobe.shape);
    const LobeCurve curve = smooth_lobe(table);
    fmt::print("3600 readings, median of 41 runs\n");
    fmt::print("import, smoothing and full curves {:6.1f} ms (asked: 50)\n",
               median_ms(41, [&] { curves(curve_of(io::read_lobe_csv(path).lobe)); }));
    fmt::print("  import                          {:6.1f} ms\n",
               median_ms(41, [&] { kept += static_cast<double>(io::read_lobe_csv(path).lobes); }));
    fmt::print("  smoothing                       {:6.1f} ms\n",
               median_ms(41, [&] { kept += smooth_lobe(table).lift_m(); }));
    fmt::print("  curves, bands and figures       {:6.1f} ms\n", median_ms(41, [&] { curves(curve); }));

    PeriodicBand band(kLobeKnots);
    Eigen::MatrixXd full = Eigen::MatrixXd::Zero(kLobeKnots, kLobeKnots);
    for (std::size_t i = 0; i < kLobeKnots; ++i)
        for (std::size_t k = 0; k <= PeriodicBand::kReach; ++k) {
            band.at(i, k) = k == 0 ? 4 : 0.3;
            const auto a = static_cast<int>(i), b = static_cast<int>((i + k) % kLobeKnots);
            full(a, b) = full(b, a) = band.at(i, k);
        }
    const std::vector<double> right(kLobeKnots, 1.0);
    const double ring = median_ms(41, [&] {
        const PeriodicBandFactor factor(band);
        kept += factor.solve(right)[0] + factor.inverse_band().at(0, 0);
    });
    const double dense = median_ms(11, [&] {
        const Eigen::LLT<Eigen::MatrixXd> factor(full);
        kept += factor.solve(Eigen::MatrixXd::Identity(kLobeKnots, kLobeKnots))(0, 0);
    });
    fmt::print("one round of the smoothing {:.2f} ms, as a full matrix {:.1f} ms: {:.0f} times\n", ring,
               dense, dense / ring);

    LobeGoals goals;
    goals.low_height_m = 0.2e-3;
    goals.low_duration_crank_rad = radians(300);
    goals.high_duration_crank_rad = radians(248);
    goals.ramp_velocity_m_per_rad = 0.012e-3 * 180 / kPi;
    goals.most_acceleration_m_per_rad2 = 0.02e-3 * 180 / kPi * 180 / kPi;
    fmt::print("a new lobe from goals {:.0f} ms\n",
               median_ms(11, [&] { kept += design_lobe(goals).area_m_rad; }));
    std::filesystem::remove(path);
    return kept == 0.123 ? 1 : 0;
}
