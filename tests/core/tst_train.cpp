#include "core/train/train_check.h"
#include "core/train/train_drawing.h"
#include "core/train/train_fields.h"
#include "core/train/train_figures.h"
#include "support.h"

using namespace bathmos;
using namespace bathmos::test;

namespace {

TrainFigures figures(const Train& train) {
    return figures_of(train, RigidMotion(train, curve_of(train.lobe)));
}

// Size of a lobe's lift and of its derivatives by angle, m.
double whole_scale(int order) {
    return 8e-3 * std::pow(3, order);
}

bool has_problem(const Train& train, const std::string& place) {
    for (const InputProblem& problem : check_train(train))
        if (problem.location == place && !problem.what.empty() && !problem.mend.empty())
            return true;
    return false;
}

bool has_finding(const Train& train, const std::string& part, Severity severity) {
    for (const Finding& finding : figures(train).findings)
        if (finding.part == part && finding.severity == severity && !finding.reason.empty())
            return true;
    return false;
}

} // namespace

class TestTrain : public QObject {
    Q_OBJECT
  private slots:
    void starter_is_valid_in_every_layout() {
        for (const Layout layout : {Layout::Pushrod, Layout::Rocker, Layout::Finger, Layout::Bucket}) {
            const Train train = with_layout(starter_train(), layout);
            const auto problems = check_train(train);
            QVERIFY2(problems.empty(), problems.empty() ? "" : problems.front().sentence().c_str());
        }
    }

    void equivalent_mass_is_the_sum_of_its_parts_seen_at_the_valve() {
        const Train t = starter_train();
        const SpringStatics s(t.springs[0]);
        const double expected = t.valve.mass_kg + t.retainer_mass_kg + t.locks_mass_kg +
                                s.active_mass_kg() / 3 + s.dead_mass_kg() / 2 +
                                t.rocker->inertia_kg_m2 / std::pow(t.rocker->output_arm_m, 2) +
                                (t.lifter->mass_kg + t.pushrod->mass_kg) / (1.5 * 1.5);
        NEAR(figures(t).equivalent_mass_total_kg, expected, 1e-9);
    }

    void link_is_tube_and_ends_in_series() {
        Pushrod rod = *starter_train().pushrod;
        const double area =
            kPi / 4 *
            (std::pow(rod.outer_diameter_m, 2) - std::pow(rod.outer_diameter_m - 2 * rod.wall_m, 2));
        const double tube = rod.youngs_modulus_Pa * area / rod.length_m;
        NEAR(link_stiffness_N_per_m(rod), 1 / (1 / tube + 1 / rod.end_stiffness_N_per_m), 1);
        rod.stiffness_N_per_m = 12e6;
        NEAR(link_stiffness_N_per_m(rod), 12e6, 0);
    }

    // Against every twentieth of a degree, none left out, over lobes whose noses are flat, split or pointed.
    void separation_is_the_least_over_the_whole_turn() {
        for (const std::array<double, 4>& exponents :
             {std::array{6.0, 10.0, 14.0, 18.0}, {4.0, 8.5, 30.0, 60.0}, {10.0, 22.0, 40.0, 80.0}}) {
            Train t = starter_train();
            std::get<AnalyticLobe>(t.lobe.shape).exponents = exponents;
            const RigidMotion rigid(t, curve_of(t.lobe));
            const TrainFigures f = figures_of(t, rigid);
            const SpringStatics spring(t.springs[0]);
            double least = 1e99;
            for (int i = 0; i <= 14400; ++i) {
                const double theta = -kPi + 2 * kPi * i / 14400, lift = rigid.lift_m(theta),
                             a = rigid.acceleration_m_per_rad2(theta);
                if (lift >= 0.1 * rigid.peak_m() && a < 0)
                    least = std::min(least, spring.load_N(t.installed_height_m - lift) / -a);
            }
            NEAR(f.separation->speed_rpm, std::sqrt(least / f.equivalent_mass_total_kg) * 60 / kPi, 1e-6);
        }
    }

    // Exponents that are whole are computed in another way than those between.
    void whole_exponents_give_the_curve_of_their_neighbours() {
        Lobe whole = starter_train().lobe, beside = whole;
        for (double& exponent : std::get<AnalyticLobe>(beside.shape).exponents)
            exponent += 1e-9;
        const LobeCurve a = curve_of(whole), b = curve_of(beside);
        for (int order = 0; order <= 3; ++order)
            for (int i = -180; i <= 180; ++i)
                NEAR(a.at(radians(i), order), b.at(radians(i), order), 1e-6 * whole_scale(order));
    }

    void separation_is_where_spring_and_inertia_balance() {
        const Train t = starter_train();
        const RigidMotion rigid(t, curve_of(t.lobe));
        const TrainFigures f = figures_of(t, rigid);
        QVERIFY(f.separation.has_value());
        const double w = cam_speed_rad_s(f.separation->speed_rpm),
                     theta = radians(f.separation->crank_deg / 2);
        const double spring = SpringStatics(t.springs[0]).load_N(t.installed_height_m - rigid.lift_m(theta));
        NEAR(spring + f.equivalent_mass_total_kg * rigid.acceleration_m_per_rad2(theta) * w * w, 0,
             1e-3 * spring);
        Train boosted = t;
        boosted.back_pressure_Pa = 100e3;
        QVERIFY(figures(boosted).separation->speed_rpm < f.separation->speed_rpm);
        Train heavy = t;
        heavy.valve.mass_kg *= 2;
        NEAR(figures(heavy).separation->speed_rpm,
             f.separation->speed_rpm *
                 std::sqrt(f.equivalent_mass_total_kg / (f.equivalent_mass_total_kg + t.valve.mass_kg)),
             0.5);
    }

    void loads_and_margin_follow_from_height_and_lift() {
        const Train t = starter_train();
        const TrainFigures f = figures(t);
        const SpringStatics s(t.springs[0]);
        NEAR(f.peak_lift_m, 1.5 * 8e-3 - 0.3e-3, 1e-9);
        NEAR(f.seat_load_N, s.load_N(43e-3), 1e-9);
        NEAR(f.open_load_N, s.load_N(43e-3 - f.peak_lift_m), 1e-9);
        NEAR(f.bind_margin_m, 43e-3 - f.peak_lift_m - s.solid_height_m(), 1e-12);
    }

    void bind_margin_findings_follow_their_limits_data() {
        QTest::addColumn<double>("margin_mm");
        QTest::addColumn<int>("severity");
        QTest::newRow("solid before full lift") << -0.1 << static_cast<int>(Severity::Stop);
        QTest::newRow("little") << 0.7 << static_cast<int>(Severity::Warn);
        QTest::newRow("just under the close school") << 1.26 << static_cast<int>(Severity::Warn);
        QTest::newRow("close") << 1.28 << -1;
        QTest::newRow("still close") << 2.53 << -1;
        QTest::newRow("roomy") << 2.55 << static_cast<int>(Severity::Note);
    }
    void bind_margin_findings_follow_their_limits() {
        QFETCH(double, margin_mm);
        QFETCH(int, severity);
        Train t = starter_train();
        t.installed_height_m =
            figures(t).peak_lift_m + SpringStatics(t.springs[0]).solid_height_m() + margin_mm * 1e-3;
        for (const Severity s : {Severity::Stop, Severity::Warn, Severity::Note})
            QCOMPARE(has_finding(t, "installed_height_mm", s), severity == static_cast<int>(s));
    }

    void findings_speak_in_the_units_asked_for() {
        Train t = starter_train();
        t.installed_height_m = figures(t).peak_lift_m + SpringStatics(t.springs[0]).solid_height_m() + 1.0e-3;
        const Finding finding = figures(t).findings.at(0);
        QCOMPARE(QString::fromStdString(in_words(finding)),
                 QStringLiteral("bind margin 1.000 mm at peak lift – below 1.270 mm is less than the close "
                                "school keeps: little is left for loft and for an error of the height"));
        CONTAINS(in_words(finding, UnitSystem::Inch), " .039 in");
        QVERIFY(!contains(in_words(finding, UnitSystem::Inch), "mm"));
    }

    void arms_that_contradict_the_ratio_are_found() {
        Train t = starter_train();
        QVERIFY(!has_finding(t, "rocker.ratio", Severity::Warn));
        t.rocker->output_arm_m *= 1.02;
        QVERIFY(has_finding(t, "rocker.ratio", Severity::Warn));
    }

    void pressure_beyond_the_seat_load_is_a_stop_finding() {
        Train t = starter_train();
        t.back_pressure_Pa = 2000e3;
        QVERIFY(has_finding(t, "back_pressure_kPa", Severity::Stop));
    }

    void impossible_values_are_named_with_their_key() {
        using Spoil = std::function<void(Train&)>;
        const std::vector<std::pair<std::string, Spoil>> cases = {
            {"valve.mass_g", [](Train& t) { t.valve.mass_kg = -0.01; }},
            {"valve.mass_g", [](Train& t) { t.valve.mass_kg = std::nan(""); }},
            {"rocker.stiffness_N_per_mm", [](Train& t) { t.rocker->stiffness_N_per_m = 0; }},
            {"lash_mm",
             [](Train& t) { // 5 mm at the lobe are 7.5 mm at the valve
                 std::get<AnalyticLobe>(t.lobe.shape).lift_m = 5e-3;
                 t.lash_m = 9e-3;
             }},
            {"installed_height_mm", [](Train& t) { t.installed_height_m = 20e-3; }},
            {"pushrod.wall_mm", [](Train& t) { t.pushrod->wall_m = 6e-3; }},
            {"springs", [](Train& t) { t.springs.clear(); }},
            {"springs[0].mean_diameter_mm",
             [](Train& t) { std::get<CoilGeometry>(t.springs[0].kind).mean_diameter_m = {3e-3}; }},
            {"springs[0].free_length_mm",
             [](Train& t) { std::get<CoilGeometry>(t.springs[0].kind).free_length_m = 10e-3; }},
            {"lifter", [](Train& t) { t.lifter.reset(); }},
            {"rocker.ratio_table[2]",
             [](Train& t) {
                 t.rocker->ratio = RatioTable{{0, 1e-3, 1e-3, 2e-3}, {0, 1e-3, 2e-3, 3e-3}};
             }},
        };
        for (const auto& [place, spoil] : cases) {
            Train t = starter_train();
            spoil(t);
            QVERIFY2(has_problem(t, place), place.c_str());
        }
        QVERIFY(check_train(starter_train()).empty());
    }

    void load_table_that_does_not_rise_is_refused() {
        Train t = starter_train();
        t.springs = {starter_table_spring(t.installed_height_m)};
        QVERIFY(check_train(t).empty());
        auto& table = std::get<LoadTable>(t.springs[0].kind);
        std::reverse(table.load_N.begin(), table.load_N.end());
        QVERIFY(has_problem(t, "springs[0].load_table"));
    }

    void hydraulic_followers_that_cannot_be_are_refused() {
        Train t = starter_train();
        t.lifter->hydraulic =
            HydraulicFollower{16e-3, 800e-9, 4e-3, 2e-3, 400e3, 0.03e-12, 7e-6, 1.5e9, 0.02, 850, 0.025, 35};
        QVERIFY(check_train(t).empty());
        t.lifter->hydraulic->plunger_mass_kg = t.lifter->mass_kg;
        QVERIFY(has_problem(t, "lifter.hydraulic.plunger_mass_g"));
        t.lifter->hydraulic->plunger_mass_kg = 0.02;
        t.lifter->hydraulic->preload_m = 5e-3;
        QVERIFY(has_problem(t, "lifter.hydraulic.preload_mm"));
        Train finger = with_layout(starter_train(), Layout::Finger);
        finger.lifter = t.lifter;
        finger.lifter->hydraulic->preload_m = 2e-3;
        QVERIFY(check_train(finger).empty());
        finger.rocker->ratio = 1.0;
        QVERIFY(has_problem(finger, "rocker.ratio"));
    }

    void a_geometry_that_leaves_a_gap_is_found_and_one_without_pushrod_refused() {
        Train t = starter_train();
        RockerGeometry g = usual_geometry(t);
        t.rocker->ratio = g;
        QVERIFY(check_train(t).empty());
        QVERIFY(!has_finding(t, "rocker.geometry", Severity::Warn));
        g.valve_y_m -= 2e-3;
        t.rocker->ratio = g;
        QVERIFY(check_train(t).empty());
        QVERIFY(has_finding(t, "rocker.geometry", Severity::Warn));
        t.layout = Layout::Rocker;
        QVERIFY(has_problem(t, "rocker.geometry"));
    }

    void a_pressure_table_repeats_every_cycle() {
        const PressureTable p{{radians(-100), radians(50), radians(300)}, {10, 40, 20}};
        NEAR(p.at(radians(-100)), 10, 1e-9);
        NEAR(p.at(radians(-25)), 25, 1e-9);
        NEAR(p.at(radians(300 + 160)), 15, 1e-9); // half way from 300 round to 620
        NEAR(p.at(radians(-260)), 15, 1e-9);
        NEAR(p.at(radians(50 - 720)), 40, 1e-9);
    }

    void every_field_reads_back_what_was_set() {
        Train t = with_layout(starter_train(), Layout::Bucket);
        Train p = starter_train();
        for (Train* train : {&t, &p})
            for (const TrainField& field : train_fields()) {
                if (!field.at(*train))
                    continue;
                field.set_file_value(*train, 7.25);
                NEAR(field.file_value(*train), 7.25, 1e-12);
            }
        QVERIFY(find_train_field("valve.mass_g") != nullptr);
        QVERIFY(find_train_field("nonsense") == nullptr);
    }

    void drawing_moves_with_the_pose_and_is_to_scale() {
        for (const Layout layout : {Layout::Pushrod, Layout::Rocker, Layout::Finger, Layout::Bucket}) {
            const Train t = with_layout(starter_train(), layout);
            const RigidMotion rigid(t, curve_of(t.lobe));
            const auto valve_low = [&](double theta) {
                double low = 1e9;
                for (const DrawnPart& part : draw_train(t, rigid, rigid_pose(rigid, theta)))
                    if (part.key == "valve")
                        for (const DrawnPoint& p : part.outline)
                            low = std::min(low, p.y_m);
                return low;
            };
            NEAR(valve_low(kPi) - valve_low(0), rigid.peak_m(), 1e-9);
        }
    }

    void a_long_rod_is_drawn_with_a_break_so_that_the_valve_is_large() {
        Train t = starter_train();
        const auto parts_and_height = [&] {
            const RigidMotion rigid(t, curve_of(t.lobe));
            double low = 1e9, high = -1e9;
            int rods = 0;
            for (const DrawnPart& part : draw_train(t, rigid, rigid_pose(rigid, kPi))) {
                rods += part.key == "pushrod";
                for (const DrawnPoint& p : part.outline) {
                    low = std::min(low, p.y_m);
                    high = std::max(high, p.y_m);
                }
            }
            return std::pair(rods, high - low);
        };
        QVERIFY(rod_is_shortened(t));
        const auto [rods, height] = parts_and_height();
        QCOMPARE(rods, 2);
        t.pushrod->length_m = 0.4;
        NEAR(parts_and_height().second, height, 1e-12); // however long it is
        t.pushrod->length_m = 0.06;
        QVERIFY(!rod_is_shortened(t));
        QCOMPARE(parts_and_height().first, 1);
        QVERIFY(!rod_is_shortened(with_layout(starter_train(), Layout::Bucket)));
    }

    void drawn_cam_is_base_circle_and_lift_away_from_its_centre() {
        const Train t = starter_train();
        const RigidMotion rigid(t, curve_of(t.lobe));
        for (const DrawnPart& part : draw_train(t, rigid, rigid_pose(rigid, 0))) {
            if (part.key != "lobe" || part.outline.size() < 100)
                continue;
            double near = 1e9, far = 0;
            for (const DrawnPoint& p : part.outline) {
                near = std::min(near, std::hypot(p.x_m, p.y_m));
                far = std::max(far, std::hypot(p.x_m, p.y_m));
            }
            NEAR(near, t.lobe.base_radius_m, 1e-6);
            NEAR(far, t.lobe.base_radius_m + rigid.lobe().lift_m(), 1e-6);
        }
    }

    void a_scatter_by_which_coils_would_touch_as_wound_is_refused() {
        Train t = starter_train();
        auto& coil = std::get<CoilGeometry>(t.springs[0].kind);
        coil.pitch_scatter = 0.012;
        QVERIFY(check_train(t).empty());
        const double gap = (coil.free_length_m - axial_wire_m(coil) * coil.dead_coils) / coil.active_coils;
        coil.pitch_scatter = 0.05;
        QVERIFY(check_train(t).empty());
        coil.pitch_m = {1.02 * axial_wire_m(coil), gap, 2 * gap - 1.02 * axial_wire_m(coil)};
        const auto problems = check_train(t); // the closest of those that are listed counts
        QCOMPARE(problems.size(), std::size_t{1});
        QCOMPARE(problems.front().location, std::string("springs[0].pitch_scatter"));
        coil.pitch_scatter = 0.001;
        QVERIFY(check_train(t).empty());
    }
};

QTEST_APPLESS_MAIN(TestTrain)
#include "tst_train.moc"
