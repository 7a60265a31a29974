#include "plain_train.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>
#include <cvode/cvode.h>
#include <nvector/nvector_serial.h>
#include <stdexcept>
#include <sunlinsol/sunlinsol_dense.h>
#include <sunmatrix/sunmatrix_dense.h>
#include <sunnonlinsol/sunnonlinsol_fixedpoint.h>

namespace bathmos::bench {

namespace {

constexpr int kLobePoints = 7200;

double contact(double k, double chi, double p, double rate) {
    return p > 0 ? std::max(0.0, k * p * (1 + chi * rate)) : 0;
}
double sat(double u) {
    return u / std::sqrt(1 + u * u);
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

PlainTrain::PlainTrain(const Train& train) : train_(train), rigid_(train, curve_of(train.lobe)) {
    for (int i = 0; i <= kLobePoints; ++i) {
        const double theta = -kPi + 2 * kPi * i / kLobePoints;
        rise_.push_back(rigid_.lobe().at(theta));
        slope_.push_back(rigid_.lobe().at(theta, 1));
    }
    const Pushrod& rod = *train.pushrod;
    ml_ = train.lifter->mass_kg + rod.mass_kg / 2;
    mq_ = train.rocker->inertia_kg_m2 / (train.rocker->input_arm_m * train.rocker->input_arm_m) +
          rod.mass_kg / 2;
    mv_ = train.valve.mass_kg + train.retainer_mass_kg + train.locks_mass_kg + train.cap_mass_kg;
    const double d = rod.outer_diameter_m, i = d - 2 * rod.wall_m;
    link_ = 1 / (rod.length_m / (rod.youngs_modulus_Pa * kPi / 4 * (d * d - i * i)) +
                 1 / rod.end_stiffness_N_per_m);
    for (const Spring& spring : train.springs) {
        const auto& c = std::get<CoilGeometry>(spring.kind);
        const double diameter = c.mean_diameter_m.at(0);
        const double rate =
            c.shear_modulus_Pa * std::pow(c.wire_m, 4) / (8 * std::pow(diameter, 3) * c.active_coils);
        const double coil_mass = c.density_kg_m3 * kPi * c.wire_m * c.wire_m / 4 * kPi * diameter;
        const double active = coil_mass * c.active_coils;
        Coil coil;
        coil.n = static_cast<std::size_t>(std::max(8.0, std::ceil(2 * c.active_coils - 1e-9)));
        const double n = static_cast<double>(coil.n);
        coil.base = c.wire_m * c.dead_coils;
        coil.k = rate * n;
        coil.free = (c.free_length_m - coil.base) / n;
        coil.solid = c.wire_m * c.active_coils / n;
        coil.beta = 2 * spring.damping_ratio / (2 * kPi * 0.5 * std::sqrt(rate / active));
        coil.node_mass = active / n;
        coil.rub = spring.friction_N / n;
        mv_ += 0.5 * active / n + 0.5 * c.dead_coils * coil_mass;
        coils_ += coil.n - 1;
        springs_.push_back(coil);
    }
}

void PlainTrain::lobe(double cam_rad, double* rise, double* slope) const {
    double turn = (cam_rad + kPi) / (2 * kPi);
    turn -= std::floor(turn);
    const double at = turn * kLobePoints;
    const auto i = std::min<std::size_t>(static_cast<std::size_t>(at), kLobePoints - 1);
    const double h = 2 * kPi / kLobePoints, t = at - static_cast<double>(i), u = 1 - t;
    *rise = u * u * ((1 + 2 * t) * rise_[i] + t * h * slope_[i]) +
            t * t * ((1 + 2 * u) * rise_[i + 1] - u * h * slope_[i + 1]);
    *slope = 6 * t * u * (rise_[i + 1] - rise_[i]) / h + u * (1 - 3 * t) * slope_[i] +
             t * (3 * t - 2) * slope_[i + 1];
}

void PlainTrain::derivative(double cam_rad, double w, const double* s, double* out) const {
    const std::size_t n = dof();
    const double x = s[0], q = s[1], y = s[2], vx = s[n], vq = s[n + 1], vy = s[n + 2];
    double rise, slope;
    lobe(cam_rad, &rise, &slope);
    const Contacts& c = train_.contacts;
    const double ratio = std::get<double>(train_.rocker->ratio);
    const double cam = contact(c.cam_stiffness_N_per_m, c.cam_damping_s_per_m, rise - x, slope * w - vx);
    const double link = std::max(0.0, link_ * (x - q) + train_.pushrod->damping_s * link_ * (vx - vq));
    const double tip = contact(train_.rocker->stiffness_N_per_m, c.tip_damping_s_per_m,
                               ratio * q - train_.lash_m - y, ratio * vq - vy);
    const double seat = contact(c.seat_stiffness_N_per_m, c.seat_damping_s_per_m, -y, -vy);
    const double gas =
        train_.back_pressure_Pa * kPi / 4 * train_.valve.head_diameter_m * train_.valve.head_diameter_m;
    double springs = 0;
    std::size_t at = 3;
    for (const Coil& coil : springs_) {
        double f_before = 0;
        double reaction = 0;
        for (std::size_t j = 0; j < coil.n; ++j) {
            const double below = j == 0 ? coil.base : s[at + j - 1], below_v = j == 0 ? 0 : s[n + at + j - 1];
            const bool last = j + 1 == coil.n;
            const double above = last ? train_.installed_height_m - y : s[at + j],
                         above_v = last ? -vy : s[n + at + j];
            const double length = above - below, rate = above_v - below_v;
            double f = coil.k * (coil.free - length) - coil.beta * coil.k * rate;
            if (coil.solid > length)
                f += std::max(0.0, 1e7 * (coil.solid - length) * (1 - rate));
            if (j > 0) {
                const double share = static_cast<double>(j) / static_cast<double>(coil.n);
                const double rub = -coil.rub * sat((below_v + vy * share) / 0.02);
                reaction += share * rub;
                out[n + at + j - 1] = (f_before - f + rub) / coil.node_mass;
            }
            f_before = f;
        }
        springs += f_before - reaction;
        at += coil.n - 1;
    }
    const Friction& fr = train_.friction;
    const double guide = fr.viscous_N_s_per_m * vy + fr.coulomb_N * sat(vy / 0.01);
    std::copy(s + n, s + 2 * n, out);
    out[n] = (cam - link - fr.follower_N_s_per_m * vx) / ml_;
    out[n + 1] = (link - ratio * tip - fr.rocker_N_s_per_m * vq) / mq_;
    out[n + 2] = (tip - springs + gas - guide + seat) / mv_;
}

std::vector<double> PlainTrain::rest() const {
    std::vector<double> state(2 * dof(), 0.0);
    double load = 0;
    for (const Coil& coil : springs_)
        load += coil.k / static_cast<double>(coil.n) *
                (coil.base + static_cast<double>(coil.n) * coil.free - train_.installed_height_m);
    state[2] = -load / train_.contacts.seat_stiffness_N_per_m;
    std::size_t at = 3;
    for (const Coil& coil : springs_)
        for (std::size_t j = 1; j < coil.n; ++j)
            state[at++] = coil.base + (train_.installed_height_m - state[2] - coil.base) *
                                          static_cast<double>(j) / static_cast<double>(coil.n);
    return state;
}

CvodeResult run_cvode(const PlainTrain& train, double speed_rpm, Method method, double relative_tolerance) {
    SUNContext context;
    check(SUNContext_Create(nullptr, &context), "context");
    const auto size = static_cast<sunindextype>(2 * train.dof());
    N_Vector y = N_VNew_Serial(size, context), tolerance = N_VNew_Serial(size, context);
    const std::vector<double> rest = train.rest();
    std::copy(rest.begin(), rest.end(), N_VGetArrayPointer(y));
    for (sunindextype i = 0; i < size; ++i) // positions of some mm, velocities of some m/s
        N_VGetArrayPointer(tolerance)[i] = relative_tolerance * (i < size / 2 ? 1e-2 : 10.0);
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
    double change = 1;
    for (; out.cycles < 24 && !(out.cycles >= 3 && change < 1e-7); ++out.cycles) {
        change = 0;
        for (int i = 0; i <= 1440; ++i) {
            realtype t;
            const double wanted = cycle_s * (out.cycles + i / 1440.0);
            if (wanted > 0)
                check(CVode(memory, wanted, y, &t, CV_NORMAL), "step");
            const double lift = N_VGetArrayPointer(y)[2];
            change = std::max(change, std::abs(lift - out.lift_m[static_cast<std::size_t>(i)]));
            out.lift_m[static_cast<std::size_t>(i)] = lift;
        }
    }
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

} // namespace bathmos::bench
