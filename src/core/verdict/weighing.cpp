#include "core/verdict/weighing.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

constexpr double kSignOf = 0.5;     // a cause brings its own sign at least so often
constexpr double kCannotBe = 1e-3;  // likelihood of a drift as the first trouble where it begins too late
constexpr double kJustChanged = 4;  // times likelier that there are two
constexpr double kLeastPair = 0.01; // that is told

double under_one(const Evidence& e, Cause cause) {
    return e.under.empty() ? likelihood(e.symptom, cause) : e.under[static_cast<std::size_t>(cause)];
}

// Likelihood of a symptom that is there as surely as `seen` says, where it is brought with probability `p`.
double as_seen(const Evidence& e, double p) {
    return std::pow(e.seen * p + (1 - e.seen) * (1 - p), e.relevance);
}

bool is_sign_of(const Evidence& e, Cause cause) {
    return info(e.symptom).group == SymptomGroup::Logged && likelihood(e.symptom, cause) >= kSignOf;
}

double alone(const Evidence& e, Cause cause) {
    return e.too_late && is_sign_of(e, cause) ? kCannotBe : as_seen(e, under_one(e, cause));
}

// What model, rig and bench say of the train, and what was changed in it, nothing elsewhere can bring.
bool of_the_train_alone(const Evidence& e) {
    const SymptomGroup group = info(e.symptom).group;
    const bool around = e.symptom == Symptom::BoostRaised || e.symptom == Symptom::OilRaised;
    return group == SymptomGroup::Model || group == SymptomGroup::Rig || group == SymptomGroup::Bench ||
           (group == SymptomGroup::Changes && !around);
}

double together(const Evidence& e, Cause train, Cause elsewhere) {
    const double one = under_one(e, train);
    return as_seen(e, of_the_train_alone(e) ? one : 1 - (1 - one) * (1 - under_one(e, elsewhere)));
}

// All pairs, unnormed: of a trouble of the train and one elsewhere that shows its own sign.
std::vector<WeighedPair> pairs_of(const std::vector<Evidence>& evidence, const WeighingRules& rules,
                                  const std::vector<Cause>& possible) {
    std::vector<WeighedPair> out;
    for (const Cause elsewhere : possible) {
        const auto sign = std::find_if(evidence.begin(), evidence.end(), [&](const Evidence& e) {
            return e.seen > kSignOf && e.relevance > 0 && is_sign_of(e, elsewhere);
        });
        if (info(elsewhere).valve_train || sign == evidence.end())
            continue;
        for (const Cause train : possible) {
            if (!info(train).valve_train)
                continue;
            double p = info(train).prior * info(elsewhere).prior * (rules.just_changed ? kJustChanged : 1);
            for (const Evidence& e : evidence)
                p *= together(e, train, elsewhere);
            out.push_back(sign->too_late ? WeighedPair{train, elsewhere, p}
                                         : WeighedPair{elsewhere, train, p});
        }
    }
    return out;
}

std::vector<Argument> arguments_of(const std::vector<Evidence>& evidence, Cause cause,
                                   const std::vector<Cause>& possible) {
    std::vector<Argument> out;
    for (std::size_t k = 0; k < evidence.size(); ++k) {
        double mean = 0, priors = 0;
        for (const Cause one : possible) {
            mean += info(one).prior * alone(evidence[k], one);
            priors += info(one).prior;
        }
        if (const double w = std::log(alone(evidence[k], cause) * priors / mean); std::abs(w) > 0.1)
            out.push_back({k, w});
    }
    std::stable_sort(out.begin(), out.end(), [](const Argument& a, const Argument& b) {
        return std::abs(a.weight) > std::abs(b.weight);
    });
    return out;
}

// Likeliest first.
template <class Weighed>
void sort_by_probability(std::vector<Weighed>& all) {
    std::stable_sort(all.begin(), all.end(),
                     [](const Weighed& a, const Weighed& b) { return a.probability > b.probability; });
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

Weighing weigh(const std::vector<Evidence>& evidence, const WeighingRules& rules) {
    Weighing out;
    std::vector<Cause> possible;
    for (std::size_t i = 0; i < kCauses; ++i)
        if (const auto cause = static_cast<Cause>(i);
            std::find(rules.impossible.begin(), rules.impossible.end(), cause) == rules.impossible.end())
            possible.push_back(cause);
    double sum = 0;
    for (const Cause cause : possible) {
        double p = info(cause).prior;
        for (const Evidence& e : evidence)
            p *= alone(e, cause);
        out.causes.push_back({cause, p, arguments_of(evidence, cause, possible)});
        sum += p;
    }
    out.pairs = pairs_of(evidence, rules, possible);
    for (const WeighedPair& pair : out.pairs)
        sum += pair.probability;
    for (WeighedCause& c : out.causes) {
        c.probability /= sum;
        out.valve_train += info(c.cause).valve_train ? c.probability : 0;
    }
    for (WeighedPair& pair : out.pairs) {
        pair.probability /= sum;
        out.valve_train += pair.probability;
        for (WeighedCause& c : out.causes)
            c.probability += c.cause == pair.first ? pair.probability : 0;
    }
    std::erase_if(out.pairs, [](const WeighedPair& pair) { return pair.probability < kLeastPair; });
    for (const WeighedCause& c : out.causes)
        if (c.probability > 0)
            out.entropy_bit -= c.probability * std::log2(c.probability);
    sort_by_probability(out.causes);
    sort_by_probability(out.pairs);
    return out;
}

} // namespace bathmos
