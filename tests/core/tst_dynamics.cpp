#include "core/dynamics/chain.h"
#include "core/dynamics/lanes.h"
#include "core/motion/motion.h"
#include "core/motion/motion_pose.h"
#include "core/motion/sweep.h"
#include "core/train/train_figures.h"
#include "support.h"

#include <numeric>

using namespace bathmos;
using namespace bathmos::test;

namespace {

RigidMotion rigid_of(const Train& t) {
    return RigidMotion(t, curve_of(t.lobe));
}

// Kinetic and stored energy of one lane, from the laws alone.
double energy_J(const Chain& c, const LaneBlock& b, double cam_lift_m, std::size_t lane) {
    const auto pos = [&](std::size_t i) { return b.position_m(i, lane); };
    const auto vel = [&](std::size_t i) { return b.velocity_m_per_s(i, lane); };
    const auto stored = [](double k, double p) { return p > 0 ? 0.5 * k * p * p : 0; };
    double sum = 0;
    for (std::size_t i = 0; i < c.dof; ++i)
        sum += 0.5 * c.mass_kg[i] * vel(i) * vel(i);
    const double y = pos(c.valve_dof);
    sum += stored(c.cam.stiffness_N_per_m, cam_lift_m - pos(0)) +
           stored(c.link_stiffness_N_per_m, pos(0) - pos(1)) +
           stored(c.tip.stiffness_N_per_m, c.ratio * pos(1) - c.lash_m - y) +
           stored(c.seat.stiffness_N_per_m, -y);
    for (const ChainSpring& spring : c.springs) {
        const SpringSegments& s = spring.segments;
        double below = s.base_m;
        for (std::size_t j = 0; j < static_cast<std::size_t>(s.count); ++j) {
            const bool last = j + 1 == static_cast<std::size_t>(s.count);
            const double z = last ? c.height_m - y : pos(spring.first_dof + j);
            sum += 0.5 * s.stiffness_N_per_m[j] * std::pow(s.free_m[j] - (z - below), 2) +
                   stored(kClashStiffness_N_per_m, s.solid_m - (z - below));
            below = z;
        }
    }
    return sum - c.cam_rows().front().gas_N * y;
}

Train without_losses(Train t) {
    t.contacts.cam_damping_s_per_m = t.contacts.tip_damping_s_per_m = t.contacts.seat_damping_s_per_m = 0;
    t.friction = {0, 0, 0, 0};
    t.pushrod->damping_s = 0;
    for (Spring& s : t.springs) {
        s.damping_ratio = 0;
        s.friction_N = 0;
    }
    return t;
}

// Work of the cam over a recorded cycle: force times follower-side velocity of the cam's surface.
double cam_work_J(const Chain& c, const LaneBlock& b, std::size_t lane) {
    double sum = 0;
    const std::size_t stride = 2 * c.substeps; // half steps between grid points
    const double dtheta = 2 * kPi / static_cast<double>(kGridSteps);
    for (std::size_t i = 0; i < kGridSteps; ++i)
        sum += 0.5 * dtheta *
               (b.at(Channel::CamForce, i, lane) * c.cam_rows()[i * stride].cam_velocity_m_per_rad +
                b.at(Channel::CamForce, i + 1, lane) * c.cam_rows()[(i + 1) * stride].cam_velocity_m_per_rad);
    return sum;
}

} // namespace

class TestDynamics : public QObject {
    Q_OBJECT
  private slots:
    void rest_is_static_balance() {
        for (const double lash : {0.3e-3, 0.0}) {
            Train t = starter_train();
            t.lash_m = lash;
            const Chain chain = chain_of(t, rigid_of(t));
            LaneBlock block(chain, lane_count());
            block.start(0, 1000, rest_of(chain));
            const double y = block.position_m(chain.valve_dof, 0);
            const double seat = -y * chain.seat.stiffness_N_per_m, q = block.position_m(chain.rocker_dof, 0);
            const double tip =
                std::max(0.0, chain.ratio * q - chain.lash_m - y) * chain.tip.stiffness_N_per_m;
            NEAR(seat + tip, static_spring_N(chain, y), 1e-3 * seat);
            QCOMPARE(tip > 0, lash == 0);
        }
    }

    void nothing_moves_on_the_base_circle() {
        Train t = starter_train();
        std::get<AnalyticLobe>(t.lobe.shape).half_duration_rad = radians(40);
        const Motion m = simulate_one(t, 600);
        const auto& lift = m[Channel::Lift];
        for (std::size_t i = 0; i < 300; ++i) // -360 .. -210 crank degrees
            NEAR(lift[i], lift[0], 0.2e-6);
    }

    // At a crawl the valve follows the lobe less the give of every part under the spring's load.
    void static_deflection_at_low_speed_is_load_times_compliance() {
        Train t = starter_train();
        t.friction = {0, 0, 0, 0};
        t.springs[0].friction_N = 0;
        const RigidMotion rigid = rigid_of(t);
        const Motion m = simulate_one(t, 300);
        const TrainFigures f = figures_of(t, rigid);
        const double lift = lift_at(m, 0), load = static_spring_N(chain_of(t, rigid), lift);
        NEAR(rigid.peak_m() - lift, load / f.stiffness_N_per_m, 0.02 * load / f.stiffness_N_per_m);
        NEAR(channel_at(m[Channel::TipForce], 0), load, 0.03 * load);
        NEAR(channel_at(m[Channel::CamForce], 0), 1.5 * load, 0.03 * 1.5 * load);
    }

    // At rest the seat carries the load that the springs have there, and the stem end stands deeper by its
    // stretch.
    void an_elastic_valve_is_stretched_by_its_springs() {
        Train t = starter_train();
        const RigidMotion rigid = rigid_of(t);
        const Chain stiff = chain_of(t, rigid);
        t.valve.elastic = ElasticValve{25e6, 0.5, 0.01};
        const Chain chain = chain_of(t, rigid);
        const RestState was = rest_of(stiff), now = rest_of(chain);
        const double load = static_spring_N(chain, now.position_m[chain.valve_dof]);
        NEAR(now.position_m[chain.head_dof], -load / chain.seat.stiffness_N_per_m, 1e-10);
        NEAR(now.position_m[chain.head_dof], was.position_m[stiff.valve_dof],
             30e-9); // of a spring 18 um longer
        NEAR(now.position_m[chain.head_dof] - now.position_m[chain.valve_dof], load / 25e6, 1e-10);
        NEAR(chain.mass_kg[chain.head_dof] + chain.mass_kg[chain.valve_dof], stiff.mass_kg[stiff.valve_dof],
             1e-12);
    }

    // A twisted camshaft lags behind its drive: the flank comes later while the springs push back, and the
    // nose sees no torque.
    void a_camshaft_twists_by_its_torque_over_its_stiffness() {
        Train t = starter_train();
        t.friction = {0, 0, 0, 0};
        t.springs[0].friction_N = 0;
        const Motion stiff = simulate_one(t, 300);
        t.camshaft = CamshaftTorsion{2000, 800, 0.1};
        const Motion soft = simulate_one(t, 300);
        for (const double crank_deg : {-60.0, 60.0}) {
            const double theta = radians(crank_deg / 2), slope = rigid_of(t).lobe().at(theta, 1);
            const double torque = channel_at(stiff[Channel::CamForce], crank_deg) * slope;
            const double late_deg = 2 * degrees(torque / 2000);
            NEAR(lift_at(soft, crank_deg), lift_at(stiff, crank_deg - late_deg), 2e-6);
            QVERIFY(std::abs(late_deg) > 0.05);
        }
        NEAR(lift_at(soft, 0), lift_at(stiff, 0), 0.5e-6);
    }

    // Counted from the rest, the gap is what the gauge reads; from first touch it is less by the seat's
    // depth.
    void lash_from_the_loaded_rest_is_lash_and_depth_from_first_touch() {
        Train t = starter_train();
        const Chain touch = chain_of(t, rigid_of(t));
        const double depth = -rest_of(touch).position_m[touch.valve_dof];
        QVERIFY(depth > 5e-6);
        t.lash_at = LashAt::LoadedRest;
        NEAR(chain_of(t, rigid_of(t)).lash_m, t.lash_m + depth, 1e-9);
        t.valve.elastic.emplace();
        const Chain stem = chain_of(t, rigid_of(t));
        NEAR(stem.lash_m - t.lash_m, -rest_of(stem).position_m[stem.valve_dof], 1e-12);
    }

    // At a crawl the lift of a drive that runs ahead is that of an angle further on.
    void a_drive_s_ripple_moves_the_lobe_s_angle() {
        Train t = starter_train();
        const Motion even = simulate_one(t, 300);
        t.drive_ripple = DriveRipple{0.004, 0.002, -0.003, 0.001};
        const Motion ripple = simulate_one(t, 300);
        for (double crank_deg = -100; crank_deg <= 100; crank_deg += 12.5) {
            const double ahead = 2 * degrees(t.drive_ripple->ahead_rad(radians(crank_deg / 2)));
            NEAR(lift_at(ripple, crank_deg), lift_at(even, crank_deg + ahead), 1e-6);
        }
        const double e = 1e-5; // the slope is the derivative
        for (const double at : {-1.0, 0.3, 2.0})
            NEAR(t.drive_ripple->ahead_slope(at),
                 (t.drive_ripple->ahead_rad(at + e) - t.drive_ripple->ahead_rad(at - e)) / (2 * e), 1e-8);
    }

    // A coil spring left ringing between fixed ends swings at its first surge frequency.
    void surge_frequency_is_that_of_the_closed_form() {
        Train t = without_losses(starter_train());
        const double surge_hz = figures_of(t, rigid_of(t)).springs[0].surge_hz;
        t.contacts.seat_stiffness_N_per_m = 500e6;
        std::get<AnalyticLobe>(t.lobe.shape).lift_m = 0.35e-3; // valve stays shut: below the lash at 1.5
        std::get<AnalyticLobe>(t.lobe.shape).ramp_height_m = 0.1e-3;
        t.lash_m = 5e-3;
        const Chain chain = chain_of(t, rigid_of(t), 8);
        LaneBlock block(chain, lane_count());
        const double speed = 1200; // 0.1 s a cycle
        RestState start = rest_of(chain);
        const ChainSpring& spring = chain.springs[0];
        for (int j = 1; j < spring.segments.count; ++j) // the first mode's shape, 0.1 mm
            start.position_m[spring.first_dof + static_cast<std::size_t>(j) - 1] +=
                1e-4 * std::sin(kPi * j / spring.segments.count);
        block.start(0, speed, start);
        advance_cycle(chain, block);
        int crossings = 0;
        const std::size_t middle = static_cast<std::size_t>(spring.segments.count / 2 - 1);
        const std::vector<double> rest = rest_of(chain).position_m;
        double before = 1e-4;
        for (std::size_t p = 1; p < kCoilPoints; ++p) {
            const double now = block.coil_m(p, middle, 0) - rest[spring.first_dof + middle];
            crossings += now * before < 0;
            before = now;
        }
        // a lumped chain of n segments swings at 2 n/pi sin(pi/2n) of the continuous frequency: 0.5 % low at
        // n = 9
        const double n = spring.segments.count;
        const double lumped = surge_hz * 2 * n / kPi * std::sin(kPi / (2 * n));
        NEAR(crossings / 2.0 / 0.1, lumped, 7.0); // +/- half a period in 0.1 s
    }

    void order_of_accuracy_is_four_while_contacts_hold() {
        Train t = starter_train();
        t.lash_m = -1.5e-3; // never seats, never comes apart: the forces stay smooth
        t.friction = {2, 0, 10, 10};
        t.springs[0].friction_N = 0;
        const RigidMotion rigid = rigid_of(t);
        CycleRule one;
        one.least = one.most = 1;
        const auto run = [&](std::size_t substeps) {
            Motion out;
            run_speeds(
                chain_of(t, rigid, substeps), {2500}, [&](Motion&& m) { out = std::move(m); }, {}, one);
            return out[Channel::Lift];
        };
        const auto exact = run(64);
        const auto error = [&](const std::vector<double>& lift) {
            double worst = 0;
            for (std::size_t i = 700; i < kGridPoints; ++i)
                worst = std::max(worst, std::abs(lift[i] - exact[i]));
            return worst;
        };
        const double coarse = error(run(2)), middle = error(run(4)), fine = error(run(8));
        const double order_a = std::log2(coarse / middle), order_b = std::log2(middle / fine);
        QVERIFY2(order_a > 3.5 && order_a < 4.6 && order_b > 3.5 && order_b < 4.6,
                 qPrintable(QStringLiteral("%1, %2 (errors %3 %4 %5 m)")
                                .arg(order_a)
                                .arg(order_b)
                                .arg(coarse)
                                .arg(middle)
                                .arg(fine)));
    }

    void without_losses_the_cam_s_work_is_the_energy_stored() {
        const Train t = without_losses(starter_train());
        const RigidMotion rigid = rigid_of(t);
        const Chain chain = chain_of(t, rigid, 16);
        LaneBlock block(chain, lane_count());
        block.start(0, 5000, rest_of(chain));
        const double before = energy_J(chain, block, chain.cam_rows().front().cam_lift_m, 0);
        double positive_work = 0;
        advance_cycle(chain, block);
        const double work = cam_work_J(chain, block, 0),
                     after = energy_J(chain, block, chain.cam_rows().back().cam_lift_m, 0);
        for (std::size_t i = 0; i < kGridSteps / 2; ++i)
            positive_work +=
                std::max(0.0, block.at(Channel::CamForce, i, 0) *
                                  chain.cam_rows()[i * 2 * chain.substeps].cam_velocity_m_per_rad) *
                2 * kPi / kGridSteps;
        NEAR(after - before, work, 0.002 * positive_work);
        QVERIFY(positive_work > 1);
    }

    void losses_take_energy_out() {
        const Train t = starter_train();
        const Chain chain = chain_of(t, rigid_of(t), 8);
        LaneBlock block(chain, lane_count());
        block.start(0, 5000, rest_of(chain));
        const double before = energy_J(chain, block, chain.cam_rows().front().cam_lift_m, 0);
        advance_cycle(chain, block);
        QVERIFY(energy_J(chain, block, chain.cam_rows().back().cam_lift_m, 0) - before <
                cam_work_J(chain, block, 0));
    }

    // Work in by cam and pressure = losses of all parts, over a cycle that repeats.
    void energy_books_balance_over_a_cycle_data() {
        QTest::addColumn<int>("layout");
        QTest::addColumn<double>("speed");
        QTest::addColumn<bool>("options");
        for (const auto& [name, layout] : {std::pair{"pushrod", Layout::Pushrod},
                                           {"rocker", Layout::Rocker},
                                           {"finger", Layout::Finger},
                                           {"bucket", Layout::Bucket}})
            for (const double speed : {3000.0, 6000.0})
                for (const bool options : {false, true})
                    QTest::addRow("%s at %g%s", name, speed, options ? ", with the model's options" : "")
                        << static_cast<int>(layout) << speed << options;
    }
    void energy_books_balance_over_a_cycle() {
        QFETCH(int, layout);
        QFETCH(double, speed);
        QFETCH(bool, options);
        Train t = with_layout(starter_train(), static_cast<Layout>(layout));
        if (options) {
            t.camshaft.emplace();
            t.valve.elastic.emplace();
            t.lash_at = LashAt::LoadedRest;
        }
        t.springs[0].friction_N = 15;
        t.friction.coulomb_N = 6;
        t.pressure_table = PressureTable{{radians(-300), radians(-100), radians(150)}, {0, 40e3, -20e3}};
        const Motion m = simulate_one(t, speed);
        QVERIFY(m.periodic);
        const auto work = [&](Channel c) {
            double sum = 0;
            for (std::size_t i = 0; i < kGridSteps; ++i)
                sum += 0.5 * (m[c][i] + m[c][i + 1]) * kGridStep_crank_deg / (6 * speed);
            return sum;
        };
        const double in = work(Channel::PowerIn), out = work(Channel::Loss);
        QVERIFY(in > 0.05);
        NEAR(in, out, 0.005 * in);
    }

    void a_constant_pressure_table_is_a_constant_pressure() {
        Train one = starter_train(), other = one;
        one.back_pressure_Pa = 40e3;
        other.pressure_table = PressureTable{{radians(-200), radians(10), radians(300)}, {40e3, 40e3, 40e3}};
        QVERIFY(simulate_one(one, 6000)[Channel::Lift] == simulate_one(other, 6000)[Channel::Lift]);
    }

    void pressure_acts_at_the_angle_it_is_given_for() {
        Train t = starter_train();
        t.pressure_table = // 100 kPa for some degrees round -200, with the valve closed
            PressureTable{{radians(-230), radians(-210), radians(-190), radians(-170)}, {0, 100e3, 100e3, 0}};
        const Motion m = simulate_one(t, 1500);
        const double area = kPi / 4 * std::pow(t.valve.head_diameter_m, 2);
        NEAR(channel_at(m[Channel::SeatForce], -300) - channel_at(m[Channel::SeatForce], -200), 100e3 * area,
             5);
    }

    void a_geometry_moves_as_the_ratio_table_read_off_it() {
        Train geometry = starter_train(), table = geometry;
        geometry.rocker->ratio = usual_geometry(geometry);
        RatioTable read;
        const RockerMap map = geometry.rocker_map();
        for (int i = -2; i <= 40; ++i) {
            read.input_m.push_back(0.25e-3 * i);
            read.output_m.push_back(map.travel(0.25e-3 * i));
        }
        table.rocker->ratio = read;
        const Motion a = simulate_one(geometry, 6000), b = simulate_one(table, 6000);
        double worst = 0;
        for (std::size_t i = 0; i < kGridPoints; ++i)
            worst = std::max(worst, std::abs(a[Channel::Lift][i] - b[Channel::Lift][i]));
        QVERIFY2(worst < 0.5e-6, qPrintable(QString::number(worst * 1e6)));
    }

    void coils_of_uneven_pitch_carry_their_static_load_at_low_speed() {
        Train t = starter_train();
        std::get<CoilGeometry>(t.springs[0].kind).pitch_m = {9e-3, 11e-3, 13e-3};
        t.springs[0].friction_N = 0;
        const Motion m = simulate_one(t, 400);
        for (const double crank : {-300.0, -60.0, 0.0}) {
            const double height = t.installed_height_m - lift_at(m, crank);
            NEAR(channel_at(m[Channel::SpringForce], crank), SpringStatics(t.springs[0]).load_N(height), 4);
        }
        QVERIFY(*m.metrics[Metric::Surge] < 0.2e-3); // closing coils are not surge
    }

    void a_lane_is_not_touched_by_its_neighbours() {
        const Train t = starter_train();
        const MotionModel model(t);
        const Motion alone = std::move(model.run({6600.0}).front());
        const std::vector<Motion> together =
            model.run({5100, 6600, 7200, 7400, 8000, 5600, 6100, 6900, 7700, 6300});
        QCOMPARE(together[1].speed_rpm, 6600.0);
        QCOMPARE(together[1].cycles, alone.cycles);
        QVERIFY(together[1][Channel::Lift] == alone[Channel::Lift]);
    }

    void links_and_contacts_never_pull() {
        const Train t = starter_train();
        for (const Motion& m : MotionModel(t).run({3000, 7000, 9500}))
            for (const Channel c :
                 {Channel::CamForce, Channel::LinkForce, Channel::TipForce, Channel::SeatForce})
                for (double force : m[c])
                    QVERIFY(force >= 0);
    }

    void pressure_on_the_head_lowers_the_seat_force_by_its_area() {
        Train t = starter_train();
        const auto seat = [&] { return channel_at(simulate_one(t, 1500)[Channel::SeatForce], -300); };
        const double without = seat();
        t.back_pressure_Pa = 100e3;
        NEAR(without - seat(), 100e3 * kPi / 4 * std::pow(t.valve.head_diameter_m, 2), 2.0);
    }

    void steps_follow_the_stiffest_part() {
        Train t = starter_train();
        const Chain soft = chain_of(t, rigid_of(t));
        QCOMPARE(substeps_for(soft, 8000), kLeastSubsteps);
        QVERIFY(substeps_for(soft, 1500) > kLeastSubsteps);
        t.contacts.cam_stiffness_N_per_m = 90000e6;
        const Chain stiff = chain_of(t, rigid_of(t));
        QVERIFY(substeps_for(stiff, 8000) > substeps_for(soft, 8000));
        t.contacts.cam_stiffness_N_per_m = 1e11;
        t.lifter->mass_kg = 1e-4;
        t.pushrod->mass_kg = 1e-4;
        const InputProblem problem = problem_of([&] { substeps_for(chain_of(t, rigid_of(t)), 1500); });
        QCOMPARE(problem.location, "lifter"); // the part that causes it
        CONTAINS(problem.what, "too fast to follow");
    }

    void halving_the_step_changes_lift_by_less_than_a_micrometre() {
        const Train t = starter_train();
        const RigidMotion rigid = rigid_of(t);
        const Chain chain = chain_of(t, rigid);
        for (const double speed : {3000.0, 4500.0, 6500.0}) {
            const std::size_t substeps = substeps_for(chain, speed);
            std::vector<std::vector<double>> lifts;
            for (const std::size_t finer : {substeps, 2 * substeps})
                run_speeds(chain_of(t, rigid, finer), {speed},
                           [&](Motion&& m) { lifts.push_back(m[Channel::Lift]); });
            double worst = 0;
            for (std::size_t i = 0; i < kGridPoints; ++i)
                worst = std::max(worst, std::abs(lifts[0][i] - lifts[1][i]));
            QVERIFY2(worst < 1e-6, qPrintable(QStringLiteral("%1 um at %2").arg(worst * 1e6).arg(speed)));
        }
    }

    void nested_and_tested_springs_share_the_load() {
        Train t = starter_train();
        Spring inner = starter_spring();
        auto& coil = std::get<CoilGeometry>(inner.kind);
        coil.wire_m = 3.2e-3;
        coil.mean_diameter_m = {21e-3};
        coil.active_coils = 6;
        coil.dead_coils = 2;
        coil.free_length_m = 50e-3;
        t.springs.push_back(inner);
        t.springs.push_back(starter_table_spring(t.installed_height_m));
        const Motion m = simulate_one(t, 1500);
        double seat = 0;
        for (const Spring& s : t.springs)
            seat += SpringStatics(s).load_N(t.installed_height_m);
        NEAR(channel_at(m[Channel::SpringForce], -300), seat, 0.01 * seat);
        QCOMPARE(m.coil_count, std::size_t{8 + 11 + 11});
    }

    // The same train said in two ways must move in one way.
    void equal_descriptions_give_equal_motion_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<double>("within_um");
        QTest::newRow("ratio table of a constant ratio") << 0 << 0.01;
        QTest::newRow("list of equal coil diameters") << 1 << 0.001;
        QTest::newRow("link stiffness given as computed") << 2 << 0.001;
        QTest::newRow("two springs of half the rate and mass") << 3 << 0.05;
        QTest::newRow("pressure given against a stronger spring") << 4 << 1.0;
        QTest::newRow("retainer mass moved to the valve") << 5 << 0.001;
    }
    void equal_descriptions_give_equal_motion() {
        QFETCH(int, kind);
        QFETCH(double, within_um);
        Train one = starter_train(), other;
        one.springs[0].friction_N = 0;
        other = one;
        auto& coil = std::get<CoilGeometry>(other.springs[0].kind);
        switch (kind) {
        case 0:
            other.rocker->ratio = RatioTable{{0, 3e-3, 5e-3, 9e-3}, {0, 4.5e-3, 7.5e-3, 13.5e-3}};
            break;
        case 1:
            coil.mean_diameter_m = {31e-3, 31e-3, 31e-3};
            break;
        case 2:
            other.pushrod->stiffness_N_per_m = link_stiffness_N_per_m(*other.pushrod);
            break;
        case 3: // half modulus and half density: half rate, half mass, same frequency
            coil.shear_modulus_Pa /= 2;
            coil.density_kg_m3 /= 2;
            other.springs.push_back(other.springs[0]);
            break;
        case 4: { // what the pressure takes off, a longer spring puts on
            const double rate = SpringStatics(other.springs[0]).rate_N_per_m(0.04);
            other.back_pressure_Pa = 50e3;
            coil.free_length_m += gas_force_N(other, 0) / rate;
            break;
        }
        default:
            other.valve.mass_kg += other.retainer_mass_kg;
            other.retainer_mass_kg = 0;
        }
        const Motion a = simulate_one(one, 6200), b = simulate_one(other, 6200);
        double worst = 0;
        for (std::size_t i = 0; i < kGridPoints; ++i)
            worst = std::max(worst, std::abs(a[Channel::Lift][i] - b[Channel::Lift][i]));
        QVERIFY2(worst * 1e6 <= within_um, qPrintable(QString::number(worst * 1e6)));
    }

    // A table spring of the same rate moves almost as the coil spring it was taken from (its dead coils count
    // differently).
    void a_tested_spring_moves_as_the_spring_it_was_read_off() {
        Train coil = starter_train(), table = coil;
        const SpringStatics s(coil.springs[0]);
        LoadTable loads;
        for (double height = 27e-3; height < 48e-3; height += 3e-3) {
            loads.height_m.push_back(height);
            loads.load_N.push_back(s.load_N(height));
        }
        loads.moving_mass_kg = s.active_mass_kg();
        loads.solid_height_m = 20e-3;
        table.springs[0].kind = loads;
        table.valve.mass_kg += s.dead_mass_kg() / 2;
        const Motion a = simulate_one(coil, 5000), b = simulate_one(table, 5000);
        NEAR(*a.metrics[Metric::LiftLoss], *b.metrics[Metric::LiftLoss], 3e-6);
        NEAR(*a.metrics[Metric::DurationChange], *b.metrics[Metric::DurationChange], 0.05);
        NEAR(channel_at(b[Channel::SpringForce], 300), s.load_N(coil.installed_height_m), 60);
    }

    void a_bucket_is_a_rocker_of_ratio_one() {
        Train bucket = with_layout(starter_train(), Layout::Bucket);
        Train rocker = with_layout(starter_train(), Layout::Rocker);
        const double mass = bucket.lifter->mass_kg, arm = 30e-3;
        rocker.rocker = Rocker{1.0, mass * arm * arm, arm, arm, bucket.contacts.tip_stiffness_N_per_m};
        const Motion a = simulate_one(bucket, 6000), b = simulate_one(rocker, 6000);
        for (std::size_t i = 0; i < kGridPoints; i += 7)
            NEAR(a[Channel::Lift][i], b[Channel::Lift][i], 1e-10);
        const Motion finger = simulate_one(
            [&] {
                Train t = rocker;
                t.layout = Layout::Finger;
                return t;
            }(),
            6000);
        QVERIFY(finger[Channel::Lift] == b[Channel::Lift]);
    }

    void dry_friction_and_rub_take_out_surge() {
        Train t = starter_train();
        t.springs[0].damping_ratio = 0.003;
        const double free = *simulate_one(t, 6500).metrics[Metric::SeatRipple];
        t.springs[0].friction_N = 30;
        const double rubbed = *simulate_one(t, 6500).metrics[Metric::SeatRipple];
        QVERIFY2(rubbed < 0.8 * free, qPrintable(QStringLiteral("%1 %2").arg(free).arg(rubbed)));
        t.friction.coulomb_N = 20;
        QVERIFY(simulate_one(t, 6500).finite);
    }

    void coils_that_clash_are_seen_and_run_in_half_steps() {
        Train t = starter_train();
        t.installed_height_m =
            figures_of(t, rigid_of(t)).peak_lift_m + SpringStatics(t.springs[0]).solid_height_m() + 0.1e-3;
        const MotionModel model(t);
        const Motion m = std::move(model.run({7500.0}).front());
        const double deepest = *std::max_element(m[Channel::Clash].begin(), m[Channel::Clash].end());
        QVERIFY(deepest > 1e-6 && deepest < 1e-3);
        Motion whole;
        run_speeds(model.chain(), {7500}, [&](Motion&& x) { whole = std::move(x); });
        Motion half;
        run_speeds(chain_of(t, rigid_of(t), 2 * substeps_for(model.chain(), 7500)), {7500},
                   [&](Motion&& x) { half = std::move(x); });
        QVERIFY(m[Channel::Lift] == half[Channel::Lift]);
        QVERIFY(m[Channel::Lift] != whole[Channel::Lift]);
    }

    void a_pose_is_the_motion_to_scale_or_by_a_factor_and_marks_meeting_coils() {
        Train t = starter_train();
        t.installed_height_m =
            figures_of(t, rigid_of(t)).peak_lift_m + SpringStatics(t.springs[0]).solid_height_m() + 0.1e-3;
        const RigidMotion rigid = rigid_of(t);
        const Motion m = simulate_one(t, 7500);
        const auto& clash = m[Channel::Clash];
        const auto deepest =
            static_cast<std::size_t>(std::max_element(clash.begin(), clash.end()) - clash.begin());
        const double crank = -360 + kGridStep_crank_deg * static_cast<double>(deepest);
        const TrainPose scale = motion_pose(t, rigid, m, crank),
                        tenfold = motion_pose(t, rigid, m, crank, 10);
        NEAR(scale.lift_m, lift_at(m, crank), 1e-6);
        const double asked = rigid.lift_m(radians(crank / 2));
        NEAR(tenfold.lift_m - asked, 10 * (scale.lift_m - asked), 1e-12);
        const TrainPose::Coils& coils = scale.coils.at(0);
        QCOMPARE(coils.node_m.size(), coils.closed.size() + 1);
        QVERIFY(std::find(coils.closed.begin(), coils.closed.end(), true) != coils.closed.end());
        NEAR(coils.node_m.back(), t.installed_height_m - scale.lift_m, 0.1e-3);
        QVERIFY(std::is_sorted(coils.node_m.begin(), coils.node_m.end()));
        const auto red = [&](const TrainPose& pose) {
            const auto parts = draw_train(t, rigid, pose);
            return std::count_if(parts.begin(), parts.end(), [](const DrawnPart& p) { return p.clash; });
        };
        QVERIFY(red(scale) > 0);
        QCOMPARE(red(rigid_pose(rigid, 0)), 0);
    }

    // Damping that the bound on frequencies does not see: the run is repeated in finer steps, then given up.
    void numbers_that_run_away_are_followed_finer_or_told() {
        Train t = starter_train();
        t.pushrod->damping_s = 1e-3; // c h / m is far beyond what a step can bear
        const Motion m = std::move(MotionModel(t).run({3000.0}).front());
        const auto& lift = m[Channel::Lift];
        QVERIFY2(m.finite ? std::abs(*std::max_element(lift.begin(), lift.end()) -
                                     RigidMotion(t, curve_of(t.lobe)).peak_m()) < 1e-3
                          : contains(m.trouble, "stiffest part"),
                 m.finite ? "a wild motion was taken for one" : m.trouble.c_str());
        t.pushrod->damping_s = 1;
        const Motion hopeless = std::move(MotionModel(t).run({3000.0}).front());
        QVERIFY(!hopeless.finite);
        CONTAINS(hopeless.trouble, "steps a cycle; the stiffest part is:");
    }
};

QTEST_APPLESS_MAIN(TestDynamics)
#include "tst_dynamics.moc"
