#include "independent/plain_train.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <cvode/cvode.h>
#include <nvector/nvector_serial.h>
#include <stdexcept>
#include <sunlinsol/sunlinsol_dense.h>
#include <sunmatrix/sunmatrix_dense.h>
#include <sunnonlinsol/sunnonlinsol_fixedpoint.h>

namespace bathmos::independent {

namespace {

constexpr int kLobePoints = 7200;

double contact(double k, double chi, double p, double rate) {
    return p > 0 ? std::max(0.0, k * p * (1 + chi * rate)) : 0;
}
double sat(double u) {
    return u / std::sqrt(1 + u * u);
}
double square(double x) {
    return x * x;
}

// The list's value at a place between 0 and 1.
double listed(const std::vector<double>& list, double place) {
    const auto n = static_cast<double>(list.size());
    return list[static_cast<std::size_t>(std::clamp(place * n, 0.0, n - 1))];
}

// Integral of f(list value) over coils a..b of `active`, in small pieces that never straddle a change.
template <class F>
double integral(const std::vector<double>& list, double active, double a, double b, F f) {
    std::vector<double> cuts = {a, b};
    for (std::size_t i = 1; i < list.size(); ++i)
        if (const double cut = active * static_cast<double>(i) / static_cast<double>(list.size());
            cut > a && cut < b)
            cuts.push_back(cut);
    std::sort(cuts.begin(), cuts.end());
    double sum = 0;
    for (std::size_t i = 0; i + 1 < cuts.size(); ++i)
        sum += (cuts[i + 1] - cuts[i]) * f(listed(list, 0.5 * (cuts[i] + cuts[i + 1]) / active));
    return sum;
}

// The deviate below which a normal variable stays with that probability, by halving.
double normal_deviate(double probability) {
    double low = -8, high = 8;
    for (int i = 0; i < 80; ++i) {
        const double middle = (low + high) / 2;
        (0.5 * std::erfc(-middle / std::sqrt(2.0)) < probability ? low : high) = middle;
    }
    return low;
}

// Pitches of so many equal parts: where a spring's scatter is said, one for each coil, the listed ones' mean
// over it, times one and the deviate of its rank among multiples of the golden section.
std::vector<double> pitches(const CoilGeometry& c) {
    std::vector<double> listed = c.pitch_m;
    if (listed.empty())
        listed = {1.0};
    if (!c.pitch_scatter)
        return listed;
    const int coils = std::max(2, static_cast<int>(std::lround(c.active_coils)));
    const auto turn = [](int i) {
        const double x = (i + 1) * (std::sqrt(5.0) - 1) / 2;
        return x - std::floor(x);
    };
    std::vector<double> out;
    for (int i = 0; i < coils; ++i) {
        int rank = 0;
        for (int j = 0; j < coils; ++j)
            rank += turn(j) < turn(i);
        const double one = c.active_coils / coils;
        const double mean =
            integral(listed, c.active_coils, one * i, one * (i + 1), [](double p) { return p; }) / one;
        out.push_back(mean * (1 + *c.pitch_scatter * normal_deviate((rank + 0.5) / coils)));
    }
    return out;
}

struct Problem {
    const PlainTrain* train;
    double cam_rad_s;
};

int right_hand_side(realtype t, N_Vector y, N_Vector out, void* user) {
    const auto* problem = static_cast<const Problem*>(user);
    problem->train->derivative(-kPi + problem->cam_rad_s * t, problem->cam_rad_s, N_VGetArrayPointer(y),
                               N_VGetArrayPointer(out));
    return 0;
}

void check(int flag, const char* what) {
    if (flag < 0)
        throw std::runtime_error(what);
}

} // namespace

PlainTrain::PlainTrain(const Train& train) : train_(train), map_(train.rocker_map()) {
    const LobeCurve curve = curve_of(train.lobe);
    for (int i = 0; i <= kLobePoints; ++i) {
        const double theta = -kPi + 2 * kPi * i / kLobePoints;
        rise_.push_back(curve.at(theta));
        rise_slope_.push_back(curve.at(theta, 1));
    }
    oil_ = train.lifter && train.lifter->hydraulic;
    tip_ = train.layout == Layout::Bucket ? train.contacts.tip_stiffness_N_per_m
                                          : train.rocker->stiffness_N_per_m;
    double half_rod = 0;
    if (train.pushrod) {
        const Pushrod& rod = *train.pushrod;
        half_rod = rod.mass_kg / 2;
        const double d = rod.outer_diameter_m, i = d - 2 * rod.wall_m;
        link_ = rod.stiffness_N_per_m.value_or(
            1 / (rod.length_m / (rod.youngs_modulus_Pa * kPi / 4 * (d * d - i * i)) +
                 1 / rod.end_stiffness_N_per_m));
    }
    const double rocker =
        train.rocker ? train.rocker->inertia_kg_m2 / square(train.rocker->input_arm_m) + half_rod : 0;
    const double plunger = oil_ ? train.lifter->hydraulic->plunger_mass_kg : 0;
    const double follower = train.lifter ? train.lifter->mass_kg : 0;
    switch (train.layout) {
    case Layout::Pushrod:
        mass_ = oil_ ? std::vector{follower - plunger, plunger + half_rod, rocker}
                     : std::vector{follower + half_rod, rocker};
        break;
    case Layout::Bucket:
        mass_ = oil_ ? std::vector{follower - plunger, plunger} : std::vector{follower};
        break;
    case Layout::Finger:
    case Layout::Rocker:
        mass_ = oil_ ? std::vector{rocker, plunger} : std::vector{rocker};
    }
    rocker_ = train.layout == Layout::Finger ? 0 : mass_.size() - 1;
    valve_ = mass_.size();
    mass_.push_back(train.valve.mass_kg + train.retainer_mass_kg + train.locks_mass_kg + train.cap_mass_kg);
    for (const Spring& spring : train.springs)
        add_spring(spring);
    add_options();
    const double start = oil_ ? train.lifter->hydraulic->travel_m - train.lifter->hydraulic->preload_m : 0;
    start_difference_ = -start; // away from the stops
    lash_ = train.effective_lash_m();
    if (train.lash_at == LashAt::LoadedRest && !oil_) {
        lash_ = 2e-3; // nothing touches the tip
        lash_ = train.lash_m - settle()[valve_];
    }
    rest_ = settle();
    if (oil_)
        start_difference_ += extension(rest_.data()) - start;
}

void PlainTrain::add_options() {
    if (train_.camshaft) {
        twist_ = mass_.size();
        mass_.push_back(train_.camshaft->stiffness_N_m_per_rad /
                        square(2 * kPi * train_.camshaft->frequency_Hz));
    }
    if (train_.valve.elastic) {
        const ElasticValve& stem = *train_.valve.elastic;
        const double head = stem.head_share * train_.valve.mass_kg;
        mass_[valve_] -= head;
        stem_damping_ = 2 * stem.damping_ratio *
                        std::sqrt(stem.stiffness_N_per_m * head * mass_[valve_] / (head + mass_[valve_]));
        head_ = mass_.size();
        mass_.push_back(head);
    }
}

void PlainTrain::add_spring(const Spring& spring) {
    Coil coil;
    coil.first = mass_.size();
    double rate = 0, active_mass = 0, dead_mass = 0;
    if (const auto* c = std::get_if<CoilGeometry>(&spring.kind)) {
        const int n = std::max(8, static_cast<int>(std::ceil(2 * c->active_coils - 1e-9)));
        const double w = c->wire_m, h = c->wire_height_m.value_or(w);
        const double torsion = kPi * std::pow(w, 3) * std::pow(h, 3) / (16 * (w * w + h * h)); // ellipse
        const auto give = [&](double d) {
            return kPi * std::pow(d, 3) / (4 * c->shear_modulus_Pa * torsion);
        };
        const auto weight = [&](double d) { return c->density_kg_m3 * kPi * w * h / 4 * kPi * d; };
        const double whole = c->free_length_m - h * c->dead_coils;
        const std::vector<double> list = pitches(*c);
        double wound = 0, compliance = 0;
        for (double pitch : list)
            wound += pitch / static_cast<double>(list.size()) * c->active_coils;
        for (int j = 0; j < n; ++j) {
            const double a = c->active_coils * j / n, b = c->active_coils * (j + 1) / n;
            Segment s{};
            s.k = 1 / integral(c->mean_diameter_m, c->active_coils, a, b, give);
            s.mass = integral(c->mean_diameter_m, c->active_coils, a, b, weight);
            s.free = list.size() == 1
                         ? whole / n
                         : whole / wound * integral(list, c->active_coils, a, b, [](double p) { return p; });
            s.solid = h * c->active_coils / n;
            compliance += 1 / s.k;
            active_mass += s.mass;
            coil.segments.push_back(s);
        }
        rate = 1 / compliance;
        coil.base = h * c->dead_coils;
        dead_mass = c->dead_coils * weight(c->mean_diameter_m.back());
    } else {
        coil.table = &std::get<LoadTable>(spring.kind);
        coil.curve = SpringStatics(spring).table();
        const RigidMotion rigid(train_, curve_of(train_.lobe));
        const double closed = train_.installed_height_m, open = closed - rigid.peak_m();
        rate = (coil.curve.value(open) - coil.curve.value(closed)) / (closed - open);
        active_mass = coil.table->moving_mass_kg;
        coil.segments.assign(12, {12 * rate, 0, active_mass / 12, coil.table->solid_height_m / 12, 0});
        coil.base = 0;
    }
    const double f1 = 0.5 * std::sqrt(rate / active_mass);
    for (Segment& s : coil.segments)
        s.beta = 2 * spring.damping_ratio / (2 * kPi * f1);
    coil.coulomb = spring.friction_N / static_cast<double>(coil.segments.size());
    mass_[valve_] += 0.5 * coil.segments.back().mass + 0.5 * dead_mass;
    for (std::size_t j = 0; j + 1 < coil.segments.size(); ++j)
        mass_.push_back(0.5 * (coil.segments[j].mass + coil.segments[j + 1].mass));
    springs_.push_back(std::move(coil));
}

void PlainTrain::lobe(double cam_rad, double* rise, double* slope) const {
    double turn = (cam_rad + kPi) / (2 * kPi);
    turn -= std::floor(turn);
    const double at = turn * kLobePoints;
    const auto i = std::min<std::size_t>(static_cast<std::size_t>(at), kLobePoints - 1);
    const double h = 2 * kPi / kLobePoints, t = at - static_cast<double>(i), u = 1 - t;
    *rise = u * u * ((1 + 2 * t) * rise_[i] + t * h * rise_slope_[i]) +
            t * t * ((1 + 2 * u) * rise_[i + 1] - u * h * rise_slope_[i + 1]);
    *slope = 6 * t * u * (rise_[i + 1] - rise_[i]) / h + u * (1 - 3 * t) * rise_slope_[i] +
             t * (3 * t - 2) * rise_slope_[i + 1];
}

double PlainTrain::extension(const double* p) const {
    return (train_.layout == Layout::Finger ? p[1] : p[1] - p[0]) - start_difference_;
}

// Forces on the coils; returns the force on the retainer.
double PlainTrain::spring_force(const Coil& coil, const double* p, const double* v, double* force) const {
    const std::size_t n = coil.segments.size();
    const double y = p[valve_], vy = v[valve_];
    double before = 0, reaction = 0;
    for (std::size_t j = 0; j < n; ++j) {
        const Segment& s = coil.segments[j];
        const std::size_t here = coil.first + j;
        const double below = j == 0 ? coil.base : p[here - 1], below_v = j == 0 ? 0 : v[here - 1];
        const double above = j + 1 == n ? train_.installed_height_m - y : p[here];
        const double above_v = j + 1 == n ? -vy : v[here];
        const double length = above - below, rate = above_v - below_v;
        double f = coil.table ? coil.curve.value(static_cast<double>(n) * length) : s.k * (s.free - length);
        f -= s.beta * s.k * rate;
        f += contact(1e7, 1.0, s.solid - length, -rate);
        if (j > 0) {
            const double share = static_cast<double>(j) / static_cast<double>(n);
            const double coulomb = -coil.coulomb * sat((below_v + vy * share) / 0.02);
            reaction += share * coulomb;
            force[here - 1] = before - f + coulomb;
        }
        before = f;
    }
    return before - reaction;
}

// Forces on the drive's parts, given {tip force, force at the rocker's input}; the oil's pressure rate.
// Returns the force on the cam.
double PlainTrain::drive(const double* p, const double* v, double pressure, double rise, double rate,
                         const double* tip, double* force, double* pressure_rate) const {
    const Contacts& c = train_.contacts;
    const Friction& fr = train_.friction;
    const bool adjuster = oil_ && train_.layout == Layout::Finger;
    const double at_cam = adjuster ? p[0] - p[1] : p[0], at_cam_v = adjuster ? v[0] - v[1] : v[0];
    const double cam =
        contact(c.cam_stiffness_N_per_m, c.cam_damping_s_per_m, rise - at_cam, rate - at_cam_v);
    double between = 0;
    if (oil_) {
        const HydraulicFollower& o = *train_.lifter->hydraulic;
        const double area = kPi / 4 * square(o.plunger_diameter_m), ambient = 101325;
        const double e = extension(p), e_rate = adjuster ? v[1] : v[1] - v[0];
        const double supply = o.supply_Pa + ambient, drop = supply - pressure;
        const double in = drop > 0 ? 0.6 * o.check_area_m2 * std::sqrt(2 / o.oil_density_kg_m3) * drop /
                                         std::sqrt(drop + 1000)
                                   : 0;
        const double leak = o.leak_m3_per_s_per_Pa * (pressure - supply);
        const double bulk = 1 / (1 / o.bulk_modulus_Pa + o.air_fraction * ambient / square(pressure));
        *pressure_rate = bulk / (o.chamber_volume_m3 + area * std::max(e, 0.0)) * (in - leak - area * e_rate);
        between = (pressure - ambient) * area + o.plunger_spring_N + contact(5e7, 0.5, -e, -e_rate) -
                  contact(5e7, 0.5, e - o.travel_m, e_rate);
    }
    const auto link = [&](int a, int b) {
        return std::max(0.0, link_ * (p[a] - p[b]) + train_.pushrod->damping_s * link_ * (v[a] - v[b]));
    };
    if (train_.layout == Layout::Pushrod && oil_) {
        const double rod = link(1, 2);
        force[0] = cam - between - fr.follower_N_s_per_m * v[0];
        force[1] = between - rod;
        force[2] = rod - tip[1] - fr.rocker_N_s_per_m * v[2];
    } else if (train_.layout == Layout::Pushrod) {
        const double rod = link(0, 1);
        force[0] = cam - rod - fr.follower_N_s_per_m * v[0];
        force[1] = rod - tip[1] - fr.rocker_N_s_per_m * v[1];
    } else if (train_.layout == Layout::Bucket && oil_) {
        force[0] = cam - between - fr.follower_N_s_per_m * v[0];
        force[1] = between - tip[1];
    } else if (adjuster) {
        force[0] = cam - tip[1] - fr.rocker_N_s_per_m * v[0];
        force[1] = between - cam + tip[0];
    } else {
        const double viscous = train_.layout == Layout::Bucket ? fr.follower_N_s_per_m : fr.rocker_N_s_per_m;
        force[0] = cam - tip[1] - viscous * v[0];
    }
    return cam;
}

void PlainTrain::derivative(double cam_rad, double w, const double* s, double* out) const {
    const std::size_t n = parts();
    const double *p = s, *v = s + n;
    double rise, rise_slope;
    double turned = cam_rad, turning = w;
    if (train_.drive_ripple) {
        turned += train_.drive_ripple->ahead_rad(cam_rad);
        turning *= 1 + train_.drive_ripple->ahead_slope(cam_rad);
    }
    const double drive_rad = turned;
    if (twist_) {
        turned += s[twist_];
        turning += s[n + twist_];
    }
    lobe(turned, &rise, &rise_slope);
    const Contacts& c = train_.contacts;
    const bool adjuster = oil_ && train_.layout == Layout::Finger;
    const double pivot = adjuster ? p[1] : 0, pivot_v = adjuster ? v[1] : 0;
    const double y = p[valve_], vy = v[valve_], q = p[rocker_], ratio = slope(q);
    const double face = p[sensed()], face_v = v[sensed()];
    double tip[2];
    tip[0] = contact(tip_, c.tip_damping_s_per_m, travel(q) - pivot - lash_ - y,
                     ratio * v[rocker_] - pivot_v - vy);
    tip[1] = ratio * tip[0];
    double pressure_rate = 0;
    const double cam =
        drive(p, v, oil_ ? s[2 * n] : 0, rise, rise_slope * turning, tip, out + n, &pressure_rate);
    if (twist_) {
        const CamshaftTorsion& shaft = *train_.camshaft;
        out[n + twist_] = -shaft.stiffness_N_m_per_rad *
                              (p[twist_] + shaft.damping_ratio / (kPi * shaft.frequency_Hz) * v[twist_]) -
                          cam * rise_slope;
    }
    const double seat = contact(c.seat_stiffness_N_per_m, c.seat_damping_s_per_m, -face, -face_v);
    double springs = 0;
    for (const Coil& coil : springs_)
        springs += spring_force(coil, p, v, out + n);
    const double dp =
        train_.pressure_table ? train_.pressure_table->at(2 * drive_rad) : train_.back_pressure_Pa;
    const Friction& fr = train_.friction;
    const double on_face = dp * kPi / 4 * square(train_.valve.head_diameter_m) + seat;
    out[n + valve_] = tip[0] - springs - fr.viscous_N_s_per_m * vy - fr.coulomb_N * sat(vy / 0.01);
    if (head_) {
        const double pull =
            train_.valve.elastic->stiffness_N_per_m * (face - y) + stem_damping_ * (face_v - vy);
        out[n + valve_] += pull;
        out[n + head_] = on_face - pull;
    } else {
        out[n + valve_] += on_face;
    }
    for (std::size_t i = 0; i < n; ++i) {
        out[i] = v[i];
        out[n + i] /= mass_[i];
    }
    if (oil_)
        out[2 * n] = pressure_rate;
}

// Rest by letting the plain equations settle under heavy damping: no algebra shared with the core.
std::vector<double> PlainTrain::settle() const {
    const std::size_t n = parts();
    std::vector<double> state(size(), 0.0), rate(size());
    for (const Coil& coil : springs_)
        for (std::size_t j = 0; j + 1 < coil.segments.size(); ++j)
            state[coil.first + j] = coil.base + (train_.installed_height_m - coil.base) *
                                                    static_cast<double>(j + 1) /
                                                    static_cast<double>(coil.segments.size());
    const double supply = oil_ ? train_.lifter->hydraulic->supply_Pa + 101325 : 0;
    const double step_s = 4e-6;
    for (int i = 0; i < 60000; ++i) {
        if (oil_)
            state[2 * n] = supply; // at rest neither check valve nor leak flows
        derivative(-kPi, 0, state.data(), rate.data());
        for (std::size_t j = 0; j < n; ++j) {
            state[n + j] = 0.97 * (state[n + j] + step_s * rate[n + j]);
            state[j] += step_s * state[n + j];
        }
    }
    std::fill(state.begin() + static_cast<std::ptrdiff_t>(n), state.end(), 0.0);
    if (oil_)
        state[2 * n] = supply;
    return state;
}

CvodeResult run_cvode(const PlainTrain& train, double speed_rpm, Method method, double relative_tolerance,
                      int fixed_cycles) {
    SUNContext context;
    check(SUNContext_Create(nullptr, &context), "context");
    const auto size = static_cast<sunindextype>(train.size());
    const auto parts = static_cast<sunindextype>(train.parts());
    N_Vector y = N_VNew_Serial(size, context), tolerance = N_VNew_Serial(size, context);
    const std::vector<double>& rest = train.rest();
    std::copy(rest.begin(), rest.end(), N_VGetArrayPointer(y));
    for (sunindextype i = 0; i < size; ++i) // positions of some mm, velocities of some m/s, pressure of MPa
        N_VGetArrayPointer(tolerance)[i] = relative_tolerance * (i < parts       ? 1e-2
                                                                 : i < 2 * parts ? 10.0
                                                                                 : 1e6);
    void* memory = CVodeCreate(method == Method::Adams ? CV_ADAMS : CV_BDF, context);
    Problem problem{&train, cam_speed_rad_s(speed_rpm)};
    check(CVodeInit(memory, right_hand_side, 0, y), "init");
    check(CVodeSVtolerances(memory, relative_tolerance, tolerance), "tolerances");
    check(CVodeSetUserData(memory, &problem), "user data");
    check(CVodeSetMaxNumSteps(memory, 50000000), "steps");
    const double cycle_s = 120 / speed_rpm;
    check(CVodeSetMaxStep(memory, cycle_s / 360), "largest step"); // so that no contact is stepped over
    SUNMatrix matrix = nullptr;
    SUNLinearSolver linear = nullptr;
    SUNNonlinearSolver fixed_point = nullptr;
    if (method == Method::Adams) {
        fixed_point = SUNNonlinSol_FixedPoint(y, 0, context);
        check(CVodeSetNonlinearSolver(memory, fixed_point), "fixed point");
    } else {
        matrix = SUNDenseMatrix(size, size, context);
        linear = SUNLinSol_Dense(y, matrix, context);
        check(CVodeSetLinearSolver(memory, linear, matrix), "linear");
    }
    CvodeResult out;
    out.lift_m.assign(1441, 0.0);
    double change = 1, extension_change = 1;
    const int most = fixed_cycles ? fixed_cycles : train.oil() ? 60 : 24;
    const int least = fixed_cycles ? fixed_cycles : 3;
    const auto extension = [&] { return train.oil() ? train.extension(N_VGetArrayPointer(y)) : 0.0; };
    for (; out.cycles < most && !(out.cycles >= least && change < 1e-7 && extension_change < 0.05e-6);
         ++out.cycles) {
        change = 0;
        const double before = extension();
        for (int i = 0; i <= 1440; ++i) {
            realtype t;
            const double wanted = cycle_s * (out.cycles + i / 1440.0);
            if (wanted > 0)
                check(CVode(memory, wanted, y, &t, CV_NORMAL), "step");
            const double lift = N_VGetArrayPointer(y)[train.sensed()];
            change = std::max(change, std::abs(lift - out.lift_m[static_cast<std::size_t>(i)]));
            out.lift_m[static_cast<std::size_t>(i)] = lift;
        }
        extension_change = std::abs(extension() - before);
        out.cycles_m.push_back(out.lift_m);
        if (out.cycles_m.size() > 8)
            out.cycles_m.erase(out.cycles_m.begin());
    }
    out.periodic = change < 1e-6 && extension_change < 0.2e-6;
    CVodeGetNumRhsEvals(memory, &out.evaluations);
    CVodeFree(&memory);
    if (fixed_point)
        SUNNonlinSolFree(fixed_point);
    if (linear)
        SUNLinSolFree(linear);
    if (matrix)
        SUNMatDestroy(matrix);
    N_VDestroy(y);
    N_VDestroy(tolerance);
    SUNContext_Free(&context);
    return out;
}

} // namespace bathmos::independent
