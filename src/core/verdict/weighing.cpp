#include "core/verdict/weighing.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

// Likelihood of a symptom that is there as surely as `seen` says.
double likelihood_of(const Evidence& e, Cause cause) {
    const double p =
        e.under.empty() ? likelihood(e.symptom, cause) : e.under[static_cast<std::size_t>(cause)];
    return std::pow(e.seen * p + (1 - e.seen) * (1 - p), e.relevance);
}

} // namespace

double Weighing::of(Cause cause) const {
    for (const WeighedCause& c : causes)
        if (c.cause == cause)
            return c.probability;
    return 0;
}

double Weighing::settled() const {
    return causes.size() < 2 ? 1 : 1 - entropy_bit / std::log2(static_cast<double>(causes.size()));
}

double Weighing::share_settled_by(double information_bit) const {
    return entropy_bit > 0 ? std::clamp(information_bit / entropy_bit, 0.0, 1.0) : 0;
}

Weighing weigh(const std::vector<Evidence>& evidence, const std::vector<Cause>& impossible) {
    Weighing out;
    double sum = 0;
    for (std::size_t i = 0; i < kCauses; ++i) {
        const auto cause = static_cast<Cause>(i);
        if (std::find(impossible.begin(), impossible.end(), cause) != impossible.end())
            continue;
        double p = info(cause).prior;
        for (const Evidence& e : evidence)
            p *= likelihood_of(e, cause);
        out.causes.push_back({cause, p, {}});
        sum += p;
    }
    for (WeighedCause& c : out.causes) {
        c.probability /= sum;
        if (info(c.cause).valve_train)
            out.valve_train += c.probability;
        if (c.probability > 0)
            out.entropy_bit -= c.probability * std::log2(c.probability);
    }
    for (std::size_t k = 0; k < evidence.size(); ++k) {
        double mean = 0, priors = 0;
        for (const WeighedCause& c : out.causes) {
            mean += info(c.cause).prior * likelihood_of(evidence[k], c.cause);
            priors += info(c.cause).prior;
        }
        mean /= priors;
        for (WeighedCause& c : out.causes)
            if (const double w = std::log(likelihood_of(evidence[k], c.cause) / mean); std::abs(w) > 0.1)
                c.arguments.push_back({k, w});
    }
    for (WeighedCause& c : out.causes)
        std::stable_sort(c.arguments.begin(), c.arguments.end(), [](const Argument& a, const Argument& b) {
            return std::abs(a.weight) > std::abs(b.weight);
        });
    std::stable_sort(out.causes.begin(), out.causes.end(), [](const WeighedCause& a, const WeighedCause& b) {
        return a.probability > b.probability;
    });
    return out;
}

} // namespace bathmos
