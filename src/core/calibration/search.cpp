#include "core/calibration/search.h"

#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"

#include <Eigen/Cholesky>
#include <Eigen/LU>
#include <algorithm>
#include <ceres/ceres.h>
#include <cmath>

namespace bathmos {

namespace {

// Neighbouring speeds and angles repeat the same error of the model, so that what they say together counts
// for a part of what it would if it were independent; and a speed that fits badly loses weight.
constexpr double kShare = 0.05, kFreedomShare = 0.25;
// Sigmas were found too small by that, on engines whose truth was known: with 1.5, 22 of 150 numbers lay
// outside two of them.
constexpr double kSigmaAllowance = 1.75;
constexpr double kTrendFreedom = 8; // a motion far off its trend is not that much more telling
constexpr int kMostSteps = 12, kCorrections = 3;
constexpr double kFirstRadius = 10;
constexpr int kEasedSteps = 6;
constexpr double kWorthAStep = 0.3; // of cost
constexpr double kPromise = 5;      // of evidence that going down may win over what is foreseen
constexpr std::size_t kValleys = 2; // that are gone down into
constexpr double kValleyReach = 30; // of cost that going down may win over the lowest place scanned
constexpr double kWellTold = 0.8;   // of its belief is what the runs leave of such a number
constexpr double kHopeless = 12;    // of cost after the first correction: no more of them
constexpr double kAway[] = {-1.5, -0.7, 0.7, 1.5}; // of belief's deviation
constexpr double kWorthGoing = 3;                  // of cost that going down may win round what is known

// Weight of one speed's residuals of squared length q: half of share (nu + M) ln(1 + q / nu). What is off its
// trend says one thing, and repeats nothing.
struct SpeedWeight {
    double strength, freedom;
    explicit SpeedWeight(Eigen::Index samples)
        : strength(kShare * static_cast<double>(samples) * (1 + kFreedomShare)),
          freedom(kFreedomShare * static_cast<double>(samples)) {}
    static SpeedWeight of_trend() {
        SpeedWeight out(1);
        out.strength = kTrendFreedom + 1;
        out.freedom = kTrendFreedom;
        return out;
    }
    double value(double q) const { return strength * std::log1p(q / freedom); }
    double slope(double q) const { return strength / (freedom + q); }
    double bend(double q) const { return -strength / ((freedom + q) * (freedom + q)); }
};

class SpeedLoss : public ceres::LossFunction {
  public:
    explicit SpeedLoss(SpeedWeight weight) : weight_(weight) {}
    void Evaluate(double q, double out[3]) const override {
        out[0] = weight_.value(q);
        out[1] = weight_.slope(q);
        out[2] = weight_.bend(q);
    }

  private:
    SpeedWeight weight_;
};

// Runs the trains of a step together; the solver then asks for each speed's share of it. Offsets are in
// standard deviations of belief there.
class Together : public ceres::EvaluationCallback {
  public:
    using Run = std::function<Residuals(const Offsets&, bool derivatives)>;
    Together(Run run, Eigen::VectorXd unit)
        : run_(std::move(run)), unit_(std::move(unit)), at_(unit_.size()) {}

    double* offsets() { return at_.data(); }
    const Eigen::VectorXd& unit() const { return unit_; }
    const Residuals& residuals() const { return residuals_; }
    bool failed() const { return failed_; }
    /// The place that was reached, where its derivatives are at hand.
    std::optional<Place> place() const {
        const Offsets x = at_.cwiseProduct(unit_);
        if (!derived_ || derived_->x != x)
            return std::nullopt;
        return derived_;
    }

    void PrepareForEvaluation(bool derivatives, bool new_point) override {
        if (!new_point && (!derivatives || !residuals_.by_offset.empty()))
            return;
        try {
            const Offsets x = at_.cwiseProduct(unit_);
            residuals_ = run_(x, derivatives);
            failed_ = false;
            if (derivatives)
                derived_ = Place{x, residuals_};
        } catch (const InputError&) { // a train that cannot be run: the step is too long
            failed_ = true;
        }
    }

  private:
    Run run_;
    Eigen::VectorXd unit_;
    Eigen::VectorXd at_;
    Residuals residuals_;
    std::optional<Place> derived_;
    bool failed_ = false;
};

class SpeedCost : public ceres::CostFunction {
  public:
    SpeedCost(const Together& all, std::size_t speed, Eigen::Index samples) : all_(all), speed_(speed) {
        set_num_residuals(static_cast<int>(samples));
        mutable_parameter_block_sizes()->push_back(static_cast<int>(all.unit().size()));
    }
    bool Evaluate(double const* const*, double* out, double** derivatives) const override {
        if (all_.failed())
            return false;
        const Residuals& r = all_.residuals();
        Eigen::Map<Eigen::VectorXd>(out, num_residuals()) = r.of[speed_];
        if (derivatives && derivatives[0])
            Eigen::Map<Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>>(
                derivatives[0], num_residuals(), all_.unit().size()) =
                r.by_offset[speed_] * all_.unit().asDiagonal();
        return true;
    }

  private:
    const Together& all_;
    std::size_t speed_;
};

class BeliefCost : public ceres::CostFunction {
  public:
    explicit BeliefCost(Eigen::VectorXd sd) : sd_(std::move(sd)) { // in units of the offsets
        set_num_residuals(static_cast<int>(sd_.size()));
        mutable_parameter_block_sizes()->push_back(static_cast<int>(sd_.size()));
    }
    bool Evaluate(double const* const* at, double* out, double** derivatives) const override {
        for (Eigen::Index i = 0; i < sd_.size(); ++i)
            out[i] = at[0][i] / sd_(i);
        if (derivatives && derivatives[0]) {
            Eigen::Map<Eigen::MatrixXd> all(derivatives[0], sd_.size(), sd_.size()); // diagonal
            all.setZero();
            for (Eigen::Index i = 0; i < sd_.size(); ++i)
                all(i, i) = 1 / sd_(i);
        }
        return true;
    }

  private:
    Eigen::VectorXd sd_;
};

// Of a residual, by how many numbers it has.
SpeedWeight weight_of(const FitModel& model, std::size_t residual, Eigen::Index samples) {
    return model.of_trend(residual) ? SpeedWeight::of_trend() : SpeedWeight(samples);
}

} // namespace

void Search::ran(std::size_t trains) const {
    throw_if_stopped(stop_);
    const std::scoped_lock one(mutex_);
    trains_run_ += trains;
    step_(trains);
}

double Search::cost(const Offsets& x, const Residuals& residuals, const Belief& belief) const {
    double sum = x.cwiseQuotient(belief.sd).squaredNorm();
    for (std::size_t i = 0; i < residuals.of.size(); ++i)
        if (model_.fits(i))
            sum += weight_of(model_, i, residuals.of[i].size()).value(residuals.of[i].squaredNorm());
    return 0.5 * sum;
}

Eigen::MatrixXd Search::curvature(const Place& at) const {
    Eigen::MatrixXd out = Eigen::MatrixXd::Zero(at.x.size(), at.x.size());
    for (std::size_t i = 0; i < at.residuals.of.size(); ++i)
        if (model_.fits(i)) {
            const Eigen::VectorXd& r = at.residuals.of[i];
            const Eigen::MatrixXd& j = at.residuals.by_offset[i];
            out += weight_of(model_, i, r.size()).slope(r.squaredNorm()) * j.transpose() * j;
        }
    return out;
}

Place Search::place_at(const Offsets& x) const {
    Place out{x, model_.residuals(x, true, stop_)};
    ran(model_.numbers().size() + 1);
    return out;
}

Offsets Search::corrected(const Place& from, const Place& at, const Belief& belief, std::size_t held) const {
    Eigen::MatrixXd h = Eigen::MatrixXd::Zero(at.x.size(), at.x.size());
    Eigen::VectorXd g = at.x.cwiseQuotient(belief.sd.cwiseAbs2());
    for (std::size_t i = 0; i < at.residuals.of.size(); ++i)
        if (model_.fits(i)) {
            const Eigen::VectorXd& r = at.residuals.of[i];
            const Eigen::MatrixXd& j = from.residuals.by_offset[i];
            const double weight = weight_of(model_, i, r.size()).slope(r.squaredNorm());
            h += weight * j.transpose() * j;
            g += weight * j.transpose() * r;
        }
    h.diagonal() += belief.sd.cwiseAbs2().cwiseInverse();
    if (held < model_.size()) {
        const auto k = static_cast<Eigen::Index>(held);
        h.row(k).setZero();
        h.col(k).setZero();
        h(k, k) = 1;
        g(k) = 0;
    }
    return at.x - h.ldlt().solve(g);
}

// Of the places along one number those that are lower than their neighbours, the lowest first.
std::vector<Search::Tried> Search::lowest_along(std::size_t scanned, std::vector<Tried> all) {
    const auto place = [&](const Tried& t) { return t.x(static_cast<Eigen::Index>(scanned)); };
    std::sort(all.begin(), all.end(), [&](const Tried& a, const Tried& b) { return place(a) < place(b); });
    std::vector<Tried> out;
    for (std::size_t i = 0; i < all.size(); ++i)
        if ((i == 0 || all[i].cost <= all[i - 1].cost) &&
            (i + 1 == all.size() || all[i].cost <= all[i + 1].cost))
            out.push_back(all[i]);
    std::sort(out.begin(), out.end(), [](const Tried& a, const Tried& b) { return a.cost < b.cost; });
    out.resize(std::min(out.size(), kValleys));
    while (out.size() > 1 && out.back().cost > out.front().cost + kValleyReach)
        out.pop_back();
    return out;
}

std::vector<std::vector<Search::Tried>> Search::valleys(const Place& from,
                                                        const std::vector<const Belief*>& beliefs) const {
    std::vector<Walk> walks;
    for (const Belief* belief : beliefs)
        for (const double sign : {1.0, -1.0}) { // outward, each place going on from the one before
            Walk one{belief, belief->scanned, from.x, {}};
            for (const double offset : belief->scan)
                if (offset * sign > 0)
                    one.offsets.push_back(offset);
            walks.push_back(std::move(one));
        }
    walk(from, std::numeric_limits<double>::infinity(), walks);
    std::vector<std::vector<Tried>> out;
    for (std::size_t i = 0; i < beliefs.size(); ++i) {
        std::vector<Tried> all = std::move(walks[2 * i].found);
        all.insert(all.end(), walks[2 * i + 1].found.begin(), walks[2 * i + 1].found.end());
        out.push_back(lowest_along(beliefs[i]->scanned, std::move(all)));
    }
    return out;
}

Place Search::eased(const Place& from, const Belief& belief) const {
    Place at = from;
    double lowest = cost(at.x, at.residuals, belief);
    for (int step = 0; step < kEasedSteps; ++step) {
        Place next{corrected(from, at, belief, model_.size()), {}};
        try {
            next.residuals = model_.residuals(next.x, false, stop_);
        } catch (const InputError&) { // too long a step
            break;
        }
        ran(1);
        const double here = cost(next.x, next.residuals, belief);
        if (here > lowest - kWorthAStep)
            break;
        lowest = here;
        next.residuals.by_offset = from.residuals.by_offset;
        at = std::move(next);
    }
    return at;
}

Place Search::downhill(const Offsets& start, const Belief& belief) const {
    const Eigen::VectorXd unit = model_.prior_sd();
    Together all(
        [&](const Offsets& x, bool derivatives) {
            throw_if_stopped(stop_);
            Residuals out = model_.residuals(x, derivatives, stop_);
            ran(derivatives ? model_.numbers().size() + 1 : 1);
            return out;
        },
        unit);
    Eigen::Map<Eigen::VectorXd>(all.offsets(), unit.size()) = start.cwiseQuotient(unit);
    ceres::Problem::Options shared;
    shared.evaluation_callback = &all;
    ceres::Problem problem(shared);
    for (std::size_t i = 0; i < model_.residual_count(); ++i) {
        const auto samples =
            static_cast<Eigen::Index>(model_.of_trend(i) ? 1 : model_.observed()[i].crank_deg.size());
        if (model_.fits(i))
            problem.AddResidualBlock(new SpeedCost(all, i, samples),
                                     new SpeedLoss(weight_of(model_, i, samples)), all.offsets());
    }
    problem.AddResidualBlock(new BeliefCost(belief.sd.cwiseQuotient(unit)), nullptr, all.offsets());
    ceres::Solver::Options how;
    how.max_num_iterations = kMostSteps;
    how.max_num_consecutive_invalid_steps = kMostSteps;
    how.initial_trust_region_radius = kFirstRadius; // else every first step is too long, and is made again
    how.linear_solver_type = ceres::DENSE_QR;
    how.function_tolerance = 4e-3; // of the cost; evidence is asked for in whole numbers
    how.logging_type = ceres::SILENT;
    ceres::Solver::Summary summary;
    ceres::Solve(how, &problem, &summary);
    if (auto known = all.place())
        return std::move(*known);
    return place_at(Eigen::Map<Eigen::VectorXd>(all.offsets(), unit.size()).cwiseProduct(unit));
}

Found Search::find(const Belief& belief, const Place& start, const std::vector<Tried>& tried) const {
    if (tried.empty())
        return arrived(downhill(eased(start, belief).x, belief), belief);
    std::optional<Found> best;
    for (const Tried& one : tried)
        if (auto found = descended(one.x, belief);
            found && (!best || found->log_evidence > best->log_evidence))
            best = std::move(found);
    return best ? std::move(*best) : find(belief, start);
}

std::optional<Found> Search::descended(const Offsets& x, const Belief& belief) const {
    try {
        return arrived(downhill(eased(place_at(x), belief).x, belief), belief);
    } catch (const InputError&) { // a train beside it cannot be run
        return std::nullopt;
    }
}

Found Search::found_from(const Place& other, const Belief& belief, Found known) const {
    const Place near = eased(other, belief);
    if (arrived(near, belief).log_evidence < known.log_evidence - kPromise)
        return known;
    try {
        Found one = arrived(downhill(near.x, belief), belief);
        return one.log_evidence > known.log_evidence ? std::move(one) : std::move(known);
    } catch (const InputError&) { // a train beside it cannot be run
        return known;
    }
}

std::vector<Search::Walk> Search::walks_round(const Found& known, const Belief& belief) const {
    std::vector<Walk> out;
    for (std::size_t k = 0; k < model_.numbers().size(); ++k) {
        const auto i = static_cast<Eigen::Index>(k);
        if (std::sqrt(known.covariance(i, i)) < kWellTold * model_.prior_sd()(i))
            for (const double far : kAway)
                out.push_back({&belief, k, known.place.x, {known.place.x(i) + far * model_.prior_sd()(i)}});
    }
    return out;
}

bool Search::Walk::set_out() {
    if (offsets.empty())
        return false;
    const auto at = static_cast<Eigen::Index>(held);
    if (belief->carried && held == belief->scanned)
        x(static_cast<Eigen::Index>(belief->carried->place)) +=
            belief->carried->per_offset * (offsets.front() - x(at));
    x(at) = offsets.front();
    offsets.pop_front();
    best = {};
    pass = 0;
    return true;
}

bool Search::Walk::arrive() {
    if (best.x.size() > 0) {
        x = best.x;
        found.push_back(std::move(best));
    }
    return set_out();
}

void Search::walk(const Place& from, double hopeless, std::vector<Walk>& walks) const {
    std::vector<Walk*> going;
    for (Walk& one : walks)
        if (one.set_out())
            going.push_back(&one);
    while (!going.empty()) {
        std::vector<Offsets> places;
        for (const Walk* one : going)
            places.push_back(one->x);
        std::vector<std::optional<Residuals>> at = model_.residuals_at(places, stop_);
        ran(places.size());
        std::vector<char> goes_on(going.size());
        parallel_for(going.size(), [&](std::size_t i) {
            Walk& one = *going[i];
            if (!at[i]) { // no train that can be run: not a place to look
                goes_on[i] = one.arrive();
                return;
            }
            if (const double here = cost(one.x, *at[i], *one.belief); here < one.best.cost)
                one.best = {one.x, here};
            if (one.pass == kCorrections || (one.pass > 0 && one.best.cost > hopeless)) {
                goes_on[i] = one.arrive();
                return;
            }
            ++one.pass;
            one.x = corrected(from, {one.x, std::move(*at[i])}, *one.belief, one.held);
            goes_on[i] = true;
        });
        std::vector<Walk*> left;
        for (std::size_t i = 0; i < going.size(); ++i)
            if (goes_on[i])
                left.push_back(going[i]);
        going = std::move(left);
    }
}

Found Search::looked_round(Found known, const Belief& belief) const {
    std::vector<Walk> walks = walks_round(known, belief);
    walk(known.place, known.cost + kHopeless, walks);
    Tried lowest;
    for (Walk& one : walks)
        if (!one.found.empty() && one.found.front().cost < lowest.cost)
            lowest = std::move(one.found.front());
    if (lowest.cost > known.cost + kWorthGoing)
        return known;
    auto one = descended(lowest.x, belief);
    return one && one->cost < known.cost - kWorthAStep ? std::move(*one) : std::move(known);
}

Found Search::arrived(Place place, const Belief& belief) const {
    Found out;
    out.place = std::move(place);
    out.cost = cost(out.place.x, out.place.residuals, belief);
    Eigen::MatrixXd h = curvature(out.place);
    Eigen::MatrixXd careful = h / (kSigmaAllowance * kSigmaAllowance);
    h.diagonal() += belief.sd.cwiseAbs2().cwiseInverse();
    careful.diagonal() += belief.sd.cwiseAbs2().cwiseInverse();
    out.covariance = careful.ldlt().solve(Eigen::MatrixXd::Identity(h.rows(), h.cols()));
    out.log_evidence =
        -out.cost - 0.5 * h.ldlt().vectorD().array().log().sum() - belief.sd.array().log().sum();
    return out;
}

} // namespace bathmos
