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
        coil(spring).wire_m = 4e-3;
        coil(spring).mean_diameter_m = {32e-3};
        coil(spring).active_coils = 5;
        coil(spring).free_length_m = 60e-3;
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
        NEAR(std::accumulate(segments.free_m.begin(), segments.free_m.end(), segments.base_m),
             coil(spring).free_length_m, 1e-12);
        NEAR(segments.solid_m * segments.count + segments.base_m, s.solid_height_m(), 1e-12);
        NEAR(segments.top_share_kg, 0.5 * segments.mass_kg.back() + coil_mass_kg(coil(spring), 26e-3), 1e-12);
    }

    // An ellipse's torsion constant pi w^3 h^3 / (16 (w^2 + h^2)) against D, G and the arm D/2.
    void oval_wire_follows_the_torsion_of_an_ellipse() {
        Spring round = straight(), oval = straight();
        coil(oval).wire_height_m = coil(oval).wire_m;
        NEAR(SpringStatics(oval).rate_N_per_m(0.04), SpringStatics(round).rate_N_per_m(0.04), 1e-6);
        const double w = 5e-3, h = 4e-3, D = 31e-3;
        coil(oval).wire_m = w;
        coil(oval).wire_height_m = h;
        const double torsion = kPi * std::pow(w * h, 3) / (16 * (w * w + h * h));
        const double coil_twist = kPi * D * (D / 2) * (D / 2) / (coil(oval).shear_modulus_Pa * torsion);
        const SpringStatics s(oval);
        NEAR(s.rate_N_per_m(0.04), 1 / (coil_twist * 4.2), 1e-6 * s.rate_N_per_m(0.04));
        NEAR(s.solid_height_m(), h * 6.2, 1e-12); // flatter wire leaves room
        NEAR(coil_mass_kg(coil(oval), D), 7850 * kPi * w * h / 4 * kPi * D, 1e-12);
    }

    void even_pitches_are_an_even_spring() {
        Spring even = straight(), listed = straight();
        coil(listed).pitch_m = {10e-3, 10e-3, 10e-3};
        for (const double height : {50e-3, 43e-3, 32e-3})
            NEAR(SpringStatics(listed).load_N(height), SpringStatics(even).load_N(height), 1e-6);
        const SpringSegments a = segments_of(listed, 0.043, 0.012), b = segments_of(even, 0.043, 0.012);
        for (std::size_t j = 0; j < b.free_m.size(); ++j)
            NEAR(a.free_m[j], b.free_m[j], 1e-12);
    }

    void coils_of_uneven_pitch_close_one_after_another() {
        Spring spring = straight();
        coil(spring).pitch_m = {8e-3, 11e-3, 14e-3};
        const SpringStatics s(spring);
        const SpringSegments segments = segments_of(spring, 0.043, 0.012);
        const double open_rate = s.rate_N_per_m(coil(spring).free_length_m - 1e-3);
        NEAR(open_rate, SpringStatics(straight()).rate_N_per_m(0.04), 1e-6 * open_rate);
        // all open until the narrowest segment is solid, at the load k (free - solid) of that segment
        const double first_N =
            segments.stiffness_N_per_m.front() * (segments.free_m.front() - segments.solid_m);
        const double first_height = coil(spring).free_length_m - first_N / open_rate;
        NEAR(s.load_N(first_height), first_N, 1e-6 * first_N);
        QVERIFY(s.rate_N_per_m(first_height - 0.5e-3) > 1.1 * open_rate);
        double last = 0;
        for (double height = 56e-3; height > 31e-3; height -= 1e-3) { // the rate only rises
            QVERIFY(s.rate_N_per_m(height) >= last);
            last = s.rate_N_per_m(height);
        }
    }

    void scatter_gives_each_coil_a_pitch_of_its_own_and_keeps_the_spring() {
        Spring scattered = straight();
        coil(scattered).active_coils = 7;
        Spring even = scattered;
        coil(scattered).pitch_scatter = 0.02;
        const std::vector<double> pitches = pitches_of(coil(scattered));
        QCOMPARE(pitches.size(), std::size_t{7});
        double mean = 0, square = 0;
        for (const double p : pitches) {
            mean += p / 7;
            square += (p - 1) * (p - 1) / 7;
        }
        NEAR(mean, 1, 1e-12);
        NEAR(std::sqrt(square), 0.02, 0.003); // seven quantiles are a little narrower than all
        for (std::size_t i = 1; i < pitches.size(); ++i)
            QVERIFY(std::abs(pitches[i] - pitches[i - 1]) > 0.005); // unlike ones side by side
        const SpringSegments s = segments_of(scattered, 0.043, 0.012);
        NEAR(std::accumulate(s.free_m.begin(), s.free_m.end(), s.base_m), coil(even).free_length_m, 1e-12);
        const SpringStatics a(scattered), b(even);
        NEAR(a.load_N(0.05), b.load_N(0.05), 1e-6); // all coils open: the same spring
        NEAR(a.solid_height_m(), b.solid_height_m(), 1e-12);
        // the closest coils meet before the spring is solid, which an even one's never do
        const double near_solid = b.solid_height_m() + 0.3e-3;
        QVERIFY(a.rate_N_per_m(near_solid) > 1.1 * b.rate_N_per_m(near_solid));
        QVERIFY(!uneven_pitch(coil(even)) && uneven_pitch(coil(scattered)));
        coil(scattered).pitch_scatter = 0;
        QVERIFY(!uneven_pitch(coil(scattered)));
    }

    void scatter_lies_over_the_pitches_that_are_listed() {
        Spring spring = straight();
        coil(spring).active_coils = 6;
        coil(spring).pitch_m = {8e-3, 12e-3};
        coil(spring).pitch_scatter = 0.01;
        const std::vector<double> pitches = pitches_of(coil(spring));
        QCOMPARE(pitches.size(), std::size_t{6});
        for (std::size_t i = 0; i < 6; ++i)
            NEAR(pitches[i], i < 3 ? 8e-3 : 12e-3, 0.02 * 12e-3);
    }

    void a_chain_at_rest_fills_its_height_with_equal_forces() {
        Spring spring = straight();
        coil(spring).pitch_m = {8e-3, 11e-3, 14e-3};
        const SpringSegments s = segments_of(spring, 0.043, 0.012);
        for (const double height : {54e-3, 43e-3, 34e-3, 31e-3}) {
            const SegmentBalance b = balance_of(s, height);
            NEAR(std::accumulate(b.length_m.begin(), b.length_m.end(), s.base_m), height, 1e-11);
            for (std::size_t j = 0; j < b.length_m.size(); ++j) {
                const double squeeze = std::max(0.0, s.solid_m - b.length_m[j]);
                NEAR(s.stiffness_N_per_m[j] * (s.free_m[j] - b.length_m[j]) +
                         kClashStiffness_N_per_m * squeeze,
                     b.load_N, 1e-5);
            }
        }
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
