#include "core/spring/spring.h"
#include "support.h"

#include <numeric>

using namespace bathmos;

namespace {
Spring straight() {
    return starter_spring();
}
CoilGeometry& coil(Spring& s) {
    return std::get<CoilGeometry>(s.kind);
}
} // namespace

class TestSpring : public QObject {
    Q_OBJECT
  private slots:
    void rate_mass_surge_and_solid_follow_the_closed_forms() {
        Spring spring = straight();
        const CoilGeometry& c = coil(spring);
        const SpringStatics s(spring);
        const double d = c.wire_m, D = c.mean_diameter_m[0];
        const double rate = c.shear_modulus_Pa * std::pow(d, 4) / (8 * std::pow(D, 3) * c.active_coils);
        NEAR(s.rate_N_per_m(0.04), rate, 1e-6 * rate);
        const double mass = c.density_kg_m3 * kPi * d * d / 4 * kPi * D * c.active_coils;
        NEAR(s.active_mass_kg(), mass, 1e-9);
        NEAR(s.surge_hz(rate), 0.5 * std::sqrt(rate / mass), 1e-6);
        // the same frequency from wire and diameter alone: d / (2 pi n D^2) sqrt(G / (2 rho)) [Wahl]
        NEAR(s.surge_hz(rate),
             d / (2 * kPi * c.active_coils * D * D) * std::sqrt(c.shear_modulus_Pa / (2 * c.density_kg_m3)),
             0.5);
        NEAR(s.solid_height_m(), d * (c.active_coils + c.dead_coils), 1e-12);
        NEAR(s.load_N(c.free_length_m), 0, 1e-9);
        NEAR(s.load_N(0.04), rate * (c.free_length_m - 0.04), 1e-9);
    }

    void wahl_stress_of_a_known_spring() {
        Spring spring = straight();
        coil(spring) = {4e-3, {32e-3}, 5, 2, 60e-3, 79.3e9, 7850};
        const SpringStatics s(spring);
        const double load = s.load_N(0.04), index = 8;
        const double factor = (4 * index - 1) / (4 * index - 4) + 0.615 / index; // 1.184
        NEAR(factor, 1.184, 1e-3);
        NEAR(*s.stress_Pa(0.04), factor * 8 * load * 32e-3 / (kPi * std::pow(4e-3, 3)), 1);
    }

    void beehive_segments_are_in_series_and_add_up() {
        Spring spring = straight();
        coil(spring).mean_diameter_m = {32e-3, 32e-3, 30e-3, 26e-3};
        const SpringStatics s(spring);
        const SpringSegments segments = segments_of(spring, 0.042, 0.012);
        QCOMPARE(segments.count, 9); // twice 4.2 active coils, rounded up
        double compliance = 0;
        for (double k : segments.stiffness_N_per_m)
            compliance += 1 / k;
        NEAR(1 / compliance, s.rate_N_per_m(0.04), 1e-6 * s.rate_N_per_m(0.04));
        NEAR(std::accumulate(segments.mass_kg.begin(), segments.mass_kg.end(), 0.0), s.active_mass_kg(),
             1e-12);
        QVERIFY(segments.stiffness_N_per_m.back() >
                segments.stiffness_N_per_m.front()); // narrow at the retainer
        NEAR(segments.free_m * segments.count + segments.base_m, coil(spring).free_length_m, 1e-12);
        NEAR(segments.solid_m * segments.count + segments.base_m, s.solid_height_m(), 1e-12);
        NEAR(segments.top_share_kg, 0.5 * segments.mass_kg.back() + coil_mass_kg(coil(spring), 26e-3), 1e-12);
    }

    void few_coils_still_make_eight_segments() {
        Spring spring = straight();
        coil(spring).active_coils = 3.0;
        QCOMPARE(segments_of(spring, 0.042, 0.012).count, 8);
        coil(spring).active_coils = 6.0;
        QCOMPARE(segments_of(spring, 0.042, 0.012).count, 12); // not 13 by rounding
    }

    void load_table_in_any_order_is_interpolated_without_overshoot() {
        Spring spring = starter_table_spring(0.042);
        auto& table = std::get<LoadTable>(spring.kind);
        std::swap(table.height_m[0], table.height_m[2]);
        std::swap(table.load_N[0], table.load_N[2]);
        const SpringStatics s(spring);
        for (std::size_t i = 0; i < table.height_m.size(); ++i)
            NEAR(s.load_N(table.height_m[i]), table.load_N[i], 1e-9);
        for (double h = 0.026; h < 0.047; h += 1e-4)
            QVERIFY(s.rate_N_per_m(h) > 0);
        const double chord = (s.load_N(0.030) - s.load_N(0.042)) / 0.012;
        NEAR(s.chord_rate_N_per_m(0.042, 0.030), chord, 1e-6);
        const SpringSegments segments = segments_of(spring, 0.042, 0.012);
        QCOMPARE(segments.count, 12);
        QVERIFY(segments.from_table);
        NEAR(segments.stiffness_N_per_m[0], 12 * chord, 1e-6);
        NEAR(segments.damping_s, 2 * 0.01 / (2 * kPi * s.surge_hz(chord)), 1e-15);
    }
};

QTEST_APPLESS_MAIN(TestSpring)
#include "tst_spring.moc"
