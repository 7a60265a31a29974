#include "core/cam/cam_events.h"
#include "core/cam/cutting.h"
#include "core/cam/lobe_compare.h"
#include "core/cam/lobe_design.h"
#include "core/cam/lobe_ranking.h"
#include "core/lobe/lobe_fit.h"
#include "support.h"

#include <algorithm>
#include <functional>

using namespace bathmos;
using namespace bathmos::test;

namespace {

constexpr double kPer = 180 / kPi; // of a derivative, from per degree to per rad

AnalyticLobe analytic() {
    return std::get<AnalyticLobe>(starter_train().lobe.shape);
}

LobeTable exact_table(const std::function<double(double)>& cam_lift_m) {
    LobeTable table;
    table.noise_m = 0.002e-6;
    for (int i = -360; i < 360; ++i) {
        table.angle.push_back(0.5 * i);
        table.lift.push_back(cam_lift_m(radians(0.5 * i)) * 1e3);
    }
    return table;
}

// The lobe's closing flank falls later and stops harder below 1.2 mm; lift, centre line and the duration at
// 1.27 mm stay.
LobeCurve look_alike() {
    const LobeCurve a = LobeCurve::of(analytic());
    const auto c = crossings_at([&](double t) { return a.at(t); }, 1.27e-3);
    const double from = c->closing_rad, to = from + radians(12);
    return smooth_lobe(exact_table([&](double t) {
        const double u = (t - from) / (to - from);
        return a.at(t) - (u > 0 && u < 1 ? 0.04e-3 * 256 * std::pow(u * (1 - u), 4) : 0);
    }));
}

const LobeFigure& figure(const std::vector<LobeFigure>& all, const std::string& key) {
    return *std::find_if(all.begin(), all.end(), [&](const LobeFigure& f) { return f.key == key; });
}

// An eccentric circle of radius 20 mm turning 5 mm off its centre: every radius on it is known.
constexpr double kCircle_m = 20e-3, kOff_m = 5e-3, kRoller_m = 9e-3;
Lobe eccentric(FollowerKind follower) {
    Lobe lobe;
    lobe.name = "eccentric";
    lobe.base_radius_m = kCircle_m - kOff_m;
    lobe.follower = follower;
    lobe.follower_radius_m = follower == FollowerKind::Roller ? kRoller_m : 16e-3;
    const double reach = kCircle_m + kRoller_m;
    lobe.shape = exact_table([&](double t) {
        if (follower == FollowerKind::Flat)
            return kOff_m * (1 + std::cos(t));
        return kOff_m * std::cos(t) + std::sqrt(reach * reach - std::pow(kOff_m * std::sin(t), 2)) - reach +
               kOff_m;
    });
    return lobe;
}

Engine a22() {
    Engine engine;
    engine.bore_m = 86e-3;
    engine.stroke_m = 94.6e-3;
    engine.rod_m = 152e-3;
    engine.compression_ratio = 12.2;
    return engine;
}

LobeGoals goals() {
    LobeGoals g;
    g.lift_m = 8.6e-3;
    g.low_height_m = 0.2e-3;
    g.low_duration_crank_rad = radians(300);
    g.high_height_m = 1.27e-3;
    g.high_duration_crank_rad = radians(248);
    g.most_acceleration_m_per_rad2 = 0.020e-3 * kPer * kPer;
    g.most_jerk_m_per_rad3 = 0.004e-3 * kPer * kPer * kPer;
    g.ramp_velocity_m_per_rad = 0.012e-3 * kPer;
    return g;
}

const DesignLimit& limit(const LobeDesign& design, const std::string& key) {
    return *std::find_if(design.limits.begin(), design.limits.end(),
                         [&](const DesignLimit& l) { return l.key == key; });
}

} // namespace

class TestCam : public QObject {
    Q_OBJECT
  private slots:
    // ---- comparison

    void motion_at_the_valve_goes_through_ratio_and_lash() {
        const Train train = starter_train();
        const LobeCurve curve = curve_of(train.lobe);
        const LobeMotion lifter(curve), valve(RigidMotion(train, curve));
        const double ratio = std::get<double>(train.rocker->ratio);
        for (double theta : {-0.9, -0.3, 0.0, 0.5, 1.0}) {
            NEAR(valve.at(theta), ratio * lifter.at(theta) - train.lash_m, 1e-12);
            for (int order = 1; order <= 3; ++order)
                NEAR(valve.at(theta, order), ratio * lifter.at(theta, order), 2e-4 * std::pow(6, order - 1));
        }
        QCOMPARE(valve.at(kPi, 3), 0.0);
    }

    void figures_of_a_symmetric_lobe_are_alike_on_both_sides() {
        const std::vector<LobeFigure> all = lobe_figures(LobeMotion(LobeCurve::of(analytic())));
        for (const char* key : {"velocity", "acceleration", "deceleration", "jerk", "low_acceleration",
                                "ramp_height", "ramp_velocity"}) {
            const LobeFigure &a = figure(all, std::string("opening_") + key),
                             &b = figure(all, std::string("closing_") + key);
            NEAR(a.value, b.value, 1e-3 * std::max(a.value, 1e-6));
            NEAR(a.theta_rad, -b.theta_rad, 2e-3 * kPi);
        }
        NEAR(figure(all, "asymmetry").value, 1, 1e-3);
        const LobePeaks peaks = peaks_of(LobeCurve::of(analytic()));
        NEAR(figure(all, "opening_velocity").value, peaks.opening_velocity.value, 1e-6);
        NEAR(figure(all, "area").value, peaks.lift_area_m_rad, 1e-8);
    }

    // The flank starts slowly at the top of the ramp, so the found top lies a little above the given one.
    void the_top_of_the_ramp_is_found() {
        const AnalyticLobe lobe = analytic();
        const std::vector<LobeFigure> all = lobe_figures(LobeMotion(LobeCurve::of(lobe)));
        NEAR(figure(all, "closing_ramp_height").value, lobe.ramp_height_m, 0.25 * lobe.ramp_height_m);
        NEAR(figure(all, "closing_ramp_velocity").value, lobe.ramp_velocity_m_per_rad,
             0.25 * lobe.ramp_velocity_m_per_rad);
    }

    void two_look_alikes_are_told_apart_in_words() {
        const LobeMotion smooth(LobeCurve::of(analytic())), harsh(look_alike());
        const auto duration = [](const LobeMotion& m) {
            return crossings_at([&](double t) { return m.at(t); }, 1.27e-3)->duration_crank_deg();
        };
        NEAR(smooth.lift_m(), harsh.lift_m(), 1e-6);
        NEAR(duration(smooth), duration(harsh), 0.1);
        const std::vector<LobeFlag> flags = lobe_flags({lobe_figures(smooth), lobe_figures(harsh)});
        QVERIFY(!flags.empty());
        const auto found = std::find_if(flags.begin(), flags.end(), [](const LobeFlag& f) {
            return f.figure.key == "closing_acceleration";
        });
        QVERIFY(found != flags.end());
        QCOMPARE(found->harder, std::size_t{1});
        QVERIFY2(found->factor > 1.7 && found->factor < 2.3, qPrintable(QString::number(found->factor)));
        QVERIFY(found->figure.cam_lift_m < 1.27e-3);
        CONTAINS(found->what, "decelerates");
        CONTAINS(found->what, "times as hard at {} on the closing side");
        for (const LobeFlag& flag : flags)
            QVERIFY2(flag.factor > kFlagFactor && flag.figure.closing, flag.figure.key.c_str());
        QVERIFY(lobe_flags({lobe_figures(smooth), lobe_figures(smooth)}).empty());
    }

    void lobes_are_laid_on_nose_centre_line_or_opening() {
        const LobeMotion motion{LobeCurve::of(analytic())};
        const auto c = crossings_at([&](double t) { return motion.at(t); }, 1e-3);
        QCOMPARE(alignment_rad(motion, Alignment::Nose, 1e-3), 0.0);
        NEAR(alignment_rad(motion, Alignment::CentreLine, 1e-3), 0, 1e-9);
        NEAR(alignment_rad(motion, Alignment::Height, 1e-3), c->opening_rad, 1e-12);
        QCOMPARE(alignment_rad(motion, Alignment::Height, 1.0), 0.0);
    }

    // ---- cutting, against an eccentric circle

    void flat_contact_and_curvature_of_an_eccentric_circle_are_known() {
        const Lobe lobe = eccentric(FollowerKind::Flat);
        const Cutting c = cutting_of(lobe, curve_of(lobe));
        NEAR(c.opening_offset_m.value, kOff_m, 1e-6);
        NEAR(c.closing_offset_m.value, kOff_m, 1e-6);
        NEAR(c.swept_width_m, 2 * kOff_m, 2e-6);
        NEAR(c.least_convex_m.value, kCircle_m, 5e-6);
        QVERIFY(cutting_findings(lobe, c, FollowerKind::Flat, 0).empty());
    }

    void roller_contour_and_pressure_angle_of_an_eccentric_circle_are_known() {
        const Lobe lobe = eccentric(FollowerKind::Roller);
        const Cutting c = cutting_of(lobe, curve_of(lobe));
        NEAR(c.least_convex_m.value, kCircle_m, 10e-6);
        QVERIFY(!c.least_concave_m);
        NEAR(c.opening_pressure_rad.value, std::asin(kOff_m / (kCircle_m + kRoller_m)), 1e-4);
    }

    void a_hollow_flank_limits_the_wheel() {
        Lobe lobe = eccentric(FollowerKind::Roller);
        lobe.base_radius_m = 30e-3;
        lobe.follower_radius_m = 6e-3;
        // the roller's path, hollow with a radius of r where r^2 + 2 s'^2 - r s'' is negative
        lobe.shape = exact_table([](double t) { return 14e-3 * std::pow(0.5 * (1 + std::cos(t)), 20); });
        const LobeCurve curve = curve_of(lobe);
        const Cutting c = cutting_of(lobe, curve);
        QVERIFY(c.least_concave_m.has_value());
        // the same from three points of the path, as a circle through them
        const auto path = [&](double theta) {
            const double r = lobe.base_radius_m + lobe.follower_radius_m + curve.at(theta);
            return std::pair(r * std::cos(theta), r * std::sin(theta));
        };
        const double at = c.least_concave_m->theta_rad, h = 0.01;
        const auto [ax, ay] = path(at - h);
        const auto [bx, by] = path(at);
        const auto [cx, cy] = path(at + h);
        const double cross = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
        const double radius = std::hypot(bx - ax, by - ay) * std::hypot(cx - bx, cy - by) *
                              std::hypot(cx - ax, cy - ay) / (2 * std::abs(cross));
        NEAR(c.least_concave_m->value, radius + lobe.follower_radius_m, 0.01 * radius);
        const auto about_wheel = [&](double wheel) -> std::optional<Finding> {
            for (const Finding& finding : cutting_findings(lobe, c, std::nullopt, wheel))
                if (contains(finding.text, "wheel"))
                    return finding;
            return std::nullopt;
        };
        QVERIFY(about_wheel(0)->severity == Severity::Note);
        QVERIFY(about_wheel(1.0)->severity == Severity::Stop);
        NEAR(about_wheel(1.0)->value, 2 * c.least_concave_m->value, 1e-12);
        QVERIFY(!about_wheel(1.9 * c.least_concave_m->value));
    }

    void what_cannot_run_is_stopped_in_words() {
        Lobe lobe = eccentric(FollowerKind::Flat);
        lobe.follower_radius_m = 4e-3;
        std::vector<Finding> found =
            cutting_findings(lobe, cutting_of(lobe, curve_of(lobe)), std::nullopt, 0);
        QVERIFY(found.front().severity == Severity::Stop);
        CONTAINS(in_words(found.front()), "off the face");
        lobe.follower_radius_m = 5.2e-3;
        found = cutting_findings(lobe, cutting_of(lobe, curve_of(lobe)), std::nullopt, 0);
        QVERIFY(found.front().severity == Severity::Warn);
        lobe.base_radius_m =
            1e-3; // then base + s + s'' is 4 mm less: radius 6 mm; and with a steeper one, none
        lobe.shape = exact_table([](double t) { return 5e-3 * std::pow(0.5 * (1 + std::cos(t)), 8); });
        found = cutting_findings(lobe, cutting_of(lobe, curve_of(lobe)), FollowerKind::Roller, 0);
        QCOMPARE(found.size(), std::size_t{3});
        CONTAINS(found[0].text, "cut for a roller");
        CONTAINS(found[1].text, "undercut");
        lobe.base_radius_m = 0;
        CONTAINS(problem_of([&] { cutting_of(lobe, curve_of(lobe)); }).location, "base_radius_mm");
    }

    // ---- events of a pair

    void events_of_symmetric_lobes_follow_from_duration_and_centre_line() {
        const LobeCurve curve = LobeCurve::of(analytic());
        const double height = 1.27e-3;
        const double half =
            radians(crossings_at([&](double t) { return curve.at(t); }, height)->duration_crank_deg()) / 2;
        const PlacedLobe intake{LobeMotion(curve), radians(106)}, exhaust{LobeMotion(curve), radians(110)};
        const PairEvents e = events_of(intake, exhaust, height, 0, a22());
        NEAR(e.intake->opens_before_rad, half - radians(106), 1e-9);
        NEAR(e.intake->closes_after_rad, half + radians(106) - kPi, 1e-9);
        NEAR(e.exhaust->opens_before_rad, half + radians(110) - kPi, 1e-9);
        NEAR(e.exhaust->closes_after_rad, half - radians(110), 1e-9);
        NEAR(e.overlap_rad, 2 * half - radians(216), 1e-9);
        NEAR(e.intake->lift_at_dead_centre_m, curve.at(radians(53)), 1e-9);
        NEAR(e.exhaust->lift_at_dead_centre_m, curve.at(radians(55)), 1e-9);
        // both lifts meet half way between the noses: the area is twice that under one flank beyond it
        double area = 0;
        for (double theta = radians(54); theta < kPi; theta += 1e-4)
            area += 2e-4 * curve.at(theta);
        NEAR(e.overlap_area_m_rad, 2 * area, 2e-3 * area);
        NEAR(*e.dynamic_ratio, volume_ratio(a22(), kPi + e.intake->closes_after_rad), 1e-12);
        QVERIFY(*e.shut_ratio < *e.dynamic_ratio);
    }

    void volume_over_the_piston_is_the_ratio_at_the_bottom_and_one_at_the_top() {
        const Engine engine = a22();
        NEAR(volume_ratio(engine, 0), 1, 1e-12);
        NEAR(volume_ratio(engine, kPi), engine.compression_ratio, 1e-12);
        // at a right angle the piston has gone r + l - sqrt(l^2 - r^2)
        const double r = engine.stroke_m / 2, l = engine.rod_m;
        NEAR(volume_ratio(engine, kPi / 2),
             1 + (engine.compression_ratio - 1) * (r + l - std::sqrt(l * l - r * r)) / engine.stroke_m,
             1e-12);
        Engine unknown;
        CONTAINS(problem_of([&] { volume_ratio(unknown, 0); }).mend, "Train station");
    }

    void separation_and_advance_are_the_centre_lines_said_otherwise() {
        const CamTiming place = timing_of(radians(106), radians(110));
        NEAR(degrees(place.separation_cam_rad), 108 / 2.0, 1e-12);
        NEAR(degrees(place.advance_crank_rad), 2, 1e-12);
        const auto [intake, exhaust] = centrelines_of(place);
        NEAR(degrees(intake), 106, 1e-12);
        NEAR(degrees(exhaust), 110, 1e-12);
    }

    void moving_the_cam_moves_all_events_and_is_read_out() {
        const LobeCurve curve = LobeCurve::of(analytic());
        const PlacedLobe intake{LobeMotion(curve), radians(106)}, exhaust{LobeMotion(curve), radians(110)};
        const PairEvents before = events_of(intake, exhaust, 1.27e-3, 0, a22());
        const PairEvents after = events_of(intake, exhaust, 1.27e-3, radians(4), a22());
        NEAR(after.intake->closes_after_rad - before.intake->closes_after_rad, radians(4), 1e-9);
        NEAR(after.exhaust->opens_before_rad - before.exhaust->opens_before_rad, -radians(4), 1e-9);
        NEAR(after.overlap_rad, before.overlap_rad, 1e-9);
        std::string said;
        for (const std::string& line : reading_of(before, after))
            said += line + "\n";
        CONTAINS(said, "The intake closes 4 degrees later");
        CONTAINS(said, "low speed");
        CONTAINS(said, "The exhaust opens 4 degrees later");
        QVERIFY(!contains(said, "Overlap"));
        QVERIFY(reading_of(before, before).empty());
    }

    void too_much_duration_for_the_compression_is_cautioned() {
        const LobeCurve curve = LobeCurve::of(analytic());
        const PlacedLobe intake{LobeMotion(curve), radians(120)}, exhaust{LobeMotion(curve), radians(110)};
        Engine engine = a22();
        engine.compression_ratio = 8;
        const auto said = cautions_of(events_of(intake, exhaust, 1.27e-3, 0, engine), engine);
        QCOMPARE(said.size(), std::size_t{1});
        CONTAINS(said.front(), "sluggish");
        const PlacedLobe early{LobeMotion(curve), radians(70)}; // shut before much is pushed back
        engine.compression_ratio = 13;
        CONTAINS(cautions_of(events_of(early, exhaust, 1.27e-3, 0, engine), engine).front(), "knocks");
    }

    // ---- a new lobe

    void a_shaped_lobe_meets_its_goals() {
        for (const DesignAim aim :
             {DesignAim::MostArea, DesignAim::LeastDeceleration, DesignAim::LeastJerk}) {
            LobeGoals g = goals();
            g.aim = aim;
            const LobeDesign made = design_lobe(g);
            const LobeCurve curve = smooth_lobe(made.table);
            const auto motion = [&](double t) { return curve.at(t); };
            NEAR(curve.lift_m(), g.lift_m, 0.1e-6);
            NEAR(crossings_at(motion, g.low_height_m)->duration_crank_deg(), 300, 0.05);
            NEAR(crossings_at(motion, g.high_height_m)->duration_crank_deg(), 248, 0.02);
            const LobePeaks peaks = peaks_of(curve);
            QVERIFY(peaks.opening_acceleration.value <= g.most_acceleration_m_per_rad2);
            QVERIFY(std::abs(peaks.jerk.value) <= g.most_jerk_m_per_rad3);
            for (double theta = radians(75); theta < kPi; theta += 0.01) {
                QVERIFY(-curve.at(theta, 1) <= g.ramp_velocity_m_per_rad);
                QVERIFY(curve.at(theta) > -0.1e-6);
            }
            NEAR(curve.at(kPi), 0, 1e-8);
            for (const DesignLimit& l : made.limits)
                if (l.limit > 0)
                    QVERIFY2(l.value <= l.limit, l.key.c_str());
        }
    }

    void each_aim_is_better_at_its_own_than_the_others() {
        LobeGoals g = goals();
        const auto of = [&](DesignAim aim) {
            g.aim = aim;
            return design_lobe(g);
        };
        const LobeDesign area = of(DesignAim::MostArea), soft = of(DesignAim::LeastDeceleration),
                         calm = of(DesignAim::LeastJerk);
        QVERIFY(area.area_m_rad > 1.01 * soft.area_m_rad && area.area_m_rad > 1.01 * calm.area_m_rad);
        QVERIFY(limit(soft, "most_deceleration").value < 0.7 * limit(area, "most_deceleration").value);
        QVERIFY(limit(calm, "most_jerk").value < 0.7 * limit(area, "most_jerk").value);
        QVERIFY(limit(area, "most_acceleration").binds);
    }

    void goals_that_no_lobe_meets_name_the_limit_that_binds() {
        LobeGoals g = goals();
        g.aim = DesignAim::LeastDeceleration;
        const double least = limit(design_lobe(g), "most_deceleration").value;
        g.most_deceleration_m_per_rad2 = 0.8 * least;
        g.aim = DesignAim::MostArea;
        const InputProblem problem = problem_of([&] { design_lobe(g); });
        QCOMPARE(problem.location, std::string("goals"));
        CONTAINS(problem.what, "nose deceleration: needs");
        // what it says is needed is what is needed
        const double said = std::stod(problem.what.substr(problem.what.find("needs") + 6));
        NEAR(said, least * 1e3 / kPer / kPer, 0.02 * said);
        g.most_deceleration_m_per_rad2 = 1.02 * least;
        design_lobe(g);
    }

    void a_flat_follower_keeps_its_radius() {
        LobeGoals g = goals();
        g.base_radius_m = 14e-3;
        g.least_radius_m = 6e-3;
        const LobeCurve curve = smooth_lobe(design_lobe(g).table);
        for (double theta = 0; theta < kPi; theta += 0.005)
            QVERIFY(g.base_radius_m + curve.at(theta) + curve.at(theta, 2) > 0.99 * g.least_radius_m);
        g.least_radius_m = 0;
        const LobeCurve free = smooth_lobe(design_lobe(g).table);
        double least = 1;
        for (double theta = 0; theta < kPi; theta += 0.005)
            least = std::min(least, g.base_radius_m + free.at(theta) + free.at(theta, 2));
        QVERIFY(least < 6e-3); // so the limit did something
    }

    void more_deceleration_buys_more_area() {
        const std::vector<TradePoint> trade = trade_of(goals(), 5);
        QCOMPARE(trade.size(), std::size_t{5});
        for (std::size_t i = 1; i < trade.size(); ++i) {
            QVERIFY(trade[i].deceleration_m_per_rad2 > trade[i - 1].deceleration_m_per_rad2);
            QVERIFY(trade[i].area_m_rad > trade[i - 1].area_m_rad);
        }
    }

    void impossible_goals_are_refused_by_name_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<QString>("place");
        QTest::newRow("lift") << 0 << "goals.lift";
        QTest::newRow("heights") << 1 << "goals.low_height";
        QTest::newRow("durations") << 2 << "goals.low_duration";
        QTest::newRow("limit") << 3 << "goals.most_jerk";
        QTest::newRow("radius") << 4 << "goals.base_radius";
        QTest::newRow("nan") << 5 << "goals.lift";
    }
    void impossible_goals_are_refused_by_name() {
        QFETCH(int, kind);
        QFETCH(QString, place);
        LobeGoals g = goals();
        switch (kind) {
        case 0:
            g.lift_m = 0;
            break;
        case 1:
            g.low_height_m = 2e-3;
            break;
        case 2:
            g.low_duration_crank_rad = radians(200);
            break;
        case 3:
            g.most_jerk_m_per_rad3 = -1;
            break;
        case 4:
            g.least_radius_m = 3e-3;
            break;
        default:
            g.lift_m = std::nan("");
        }
        QCOMPARE(QString::fromStdString(problem_of([&] { design_lobe(g); }).location), place);
    }

    void shaping_can_be_stopped() {
        std::stop_source source;
        source.request_stop();
        QVERIFY_THROWS_EXCEPTION(Stopped, design_lobe(goals(), source.get_token()));
    }

    // ---- ranking

    void lobes_are_ranked_by_what_the_model_gives() {
        const Train train = starter_train();
        Lobe harsh = train.lobe;
        harsh.name = "harsh";
        AnalyticLobe shorter = analytic();
        shorter.half_duration_rad *= 0.86;
        harsh.shape = shorter;
        Lobe bad = train.lobe;
        bad.name = "bad";
        bad.base_radius_m = 0;
        RankingQuery query;
        query.limit.range = {4000, 9000, 200};
        query.speed_rpm = 6500;
        double done = 0;
        const auto ranked =
            rank_lobes(train, {train.lobe, bad, harsh}, query, [&](double share) { done = share; });
        QCOMPARE(done, 1.0);
        QCOMPARE(ranked.size(), std::size_t{3});
        QCOMPARE(ranked[0].name, std::string("harsh"));
        QCOMPARE(ranked[1].name, train.lobe.name);
        QCOMPARE(ranked[2].name, std::string("bad"));
        CONTAINS(ranked[2].trouble, "base_radius");
        QVERIFY(*ranked[0].limit_rpm < *ranked[1].limit_rpm);
        // the same limit as a sweep gives
        NEAR(*ranked[1].limit_rpm, *sweep(train, query.limit.range).summary.limit.speed_rpm,
             1e-3 * *ranked[1].limit_rpm);
        // force needed against the rigid law, at the nose
        const RigidMotion rigid(train, curve_of(train.lobe));
        const double mass = figures_of(train, rigid).equivalent_mass_total_kg;
        NEAR(ranked[1].needed_N[360],
             -mass * std::pow(cam_speed_rad_s(6500), 2) * rigid.acceleration_m_per_rad2(0), 1e-6);
        QVERIFY(ranked[0].most_needed_N > ranked[1].most_needed_N);
        QVERIFY(ranked[0].least_margin_N < ranked[1].least_margin_N);
    }
};

QTEST_APPLESS_MAIN(TestCam)
#include "tst_cam.moc"
