#include "core/calibration/hypotheses.h"

#include "core/problem/input_error.h"
#include "core/tasks/tasks.h"

#include <algorithm>
#include <mutex>

namespace bathmos {

namespace {

constexpr double kMayWin = 12;      // of evidence that looking round may win
constexpr double kWorthAnother = 1; // of evidence won: look round once more

// Two at once, settled on drawn engines (docs/calibration.md): cost a reading over which one departure does
// not explain the runs, how many causes are looked beside, and how many places beside each are gone down
// from.
constexpr double kBadlyExplained = 0.033;
constexpr std::size_t kFirsts = 3, kPlacesBeside = 3;
constexpr double kLeastSecond = 3; // of evidence, over the likeliest of one: else the second is not seen

// The train of a hypothesis where these of its numbers are as believed.
Train put_back(const FitModel& model, const WeighedHypothesis& one, std::span<const Widened> numbers) {
    Offsets x = one.found.place.x;
    for (const Widened& number : numbers)
        if (const std::size_t at = model.place_of(number.key, one.only.value_or(0)); at < model.size())
            x(static_cast<Eigen::Index>(at)) = 0;
    return model.train_at(x, 0);
}

} // namespace

bool less_likely(const WeighedHypothesis& a, const WeighedHypothesis& b) {
    return a.found.log_evidence < b.found.log_evidence;
}

std::vector<WeighedHypothesis>
look_for_departures(const Search& search, const FitModel& model, const Place& belief_itself, Found as_it_was,
                    const std::function<void(const WeighedHypothesis&)>& better) {
    std::vector<WeighedHypothesis> all = {
        {"as_believed", std::nullopt, as_believed(model), std::move(as_it_was)}};
    for (const Departure& row : departures())
        for (Suspected& one : suspected(row, model))
            all.push_back({std::string(row.cause), one.only, std::move(one.belief), {}, row.widened});
    std::vector<const Belief*> beliefs;
    for (std::size_t i = 1; i < all.size(); ++i)
        beliefs.push_back(&all[i].belief);
    const auto valleys = search.valleys(belief_itself, beliefs);
    std::mutex mutex;
    double most = all.front().found.log_evidence + kLeastEvidence;
    parallel_for(all.size() - 1, [&](std::size_t i) {
        WeighedHypothesis& one = all[i + 1];
        one.found = search.find(one.belief, belief_itself, valleys[i]);
        const std::scoped_lock lock(mutex);
        if (one.found.log_evidence > most) {
            most = one.found.log_evidence;
            better(one);
        }
    });
    return all;
}

void look_from_the_likeliest(const Search& search, std::vector<WeighedHypothesis>& all) {
    const Place winner = std::max_element(all.begin(), all.end(), less_likely)->found.place;
    parallel_for(all.size(), [&](std::size_t i) {
        all[i].found = search.found_from(winner, all[i].belief, std::move(all[i].found));
    });
}

bool look_round(const Search& search, std::vector<WeighedHypothesis>& all) {
    const double most = std::max_element(all.begin(), all.end(), less_likely)->found.log_evidence;
    const double belief = all.front().found.log_evidence;
    bool moved = false;
    for (WeighedHypothesis& one : all) {
        if (one.settled || (&one != &all.front() &&
                            one.found.log_evidence < std::max(most - kMayWin, belief + 0.5 * kLeastEvidence)))
            continue;
        const double before = one.found.log_evidence;
        one.found = search.looked_round(std::move(one.found), one.belief);
        one.settled = one.found.log_evidence < before + kWorthAnother;
        moved = moved || !one.settled;
    }
    return moved;
}

namespace {

// Another departure looked for beside one that was found, both believed to be possible.
struct Beside {
    const WeighedHypothesis* first;
    const Departure* second;
    Belief belief;
};

// The best of each cause, likeliest first; as believed is none.
std::vector<const WeighedHypothesis*> best_of_each(const std::vector<WeighedHypothesis>& all) {
    std::vector<const WeighedHypothesis*> out;
    for (std::size_t i = 1; i < all.size(); ++i) {
        const auto known = std::ranges::find(out, all[i].cause, [](const auto* one) { return one->cause; });
        if (known == out.end())
            out.push_back(&all[i]);
        else if (less_likely(**known, all[i]))
            *known = &all[i];
    }
    std::ranges::sort(out, [](const auto* a, const auto* b) { return less_likely(*b, *a); });
    return out;
}

std::vector<Beside> others_beside(const WeighedHypothesis& first, const FitModel& model) {
    std::vector<Beside> out;
    for (const Departure& row : departures())
        if (row.cause != first.cause)
            for (Suspected& one : suspected(row, model)) {
                one.belief.sd = one.belief.sd.cwiseMax(first.belief.sd);
                out.push_back({&first, &row, std::move(one.belief)});
            }
    return out;
}

std::size_t fitted_readings(const FitModel& model) {
    std::size_t out = 0;
    for (const ObservedSpeed& one : model.observed())
        out += one.held_out ? 0 : one.crank_deg.size();
    return out;
}

struct PlaceBeside {
    const Beside* beside;
    Search::Tried tried;
};

// The lowest places beside one departure, lowest first.
std::vector<PlaceBeside> lowest_beside(const Search& search, const std::vector<Beside>& all) {
    std::vector<const Belief*> beliefs;
    for (const Beside& one : all)
        beliefs.push_back(&one.belief);
    const auto valleys = search.valleys(all.front().first->found.place, beliefs);
    std::vector<PlaceBeside> out;
    for (std::size_t i = 0; i < all.size(); ++i)
        for (const Search::Tried& tried : valleys[i])
            out.push_back({&all[i], tried});
    std::ranges::stable_sort(out, {}, [](const PlaceBeside& one) { return one.tried.cost; });
    out.resize(std::min(out.size(), kPlacesBeside));
    return out;
}

} // namespace

std::optional<WeighedHypothesis> look_for_two(const Search& search, const FitModel& model,
                                              const std::vector<WeighedHypothesis>& all,
                                              const WeighedHypothesis& chosen) {
    if (model.trains() > 1 ||
        chosen.found.cost < kBadlyExplained * static_cast<double>(fitted_readings(model)))
        return std::nullopt;
    std::vector<const WeighedHypothesis*> firsts = best_of_each(all);
    firsts.resize(std::min(firsts.size(), kFirsts));
    std::optional<WeighedHypothesis> best;
    for (const WeighedHypothesis* first : firsts) {
        const std::vector<Beside> others = others_beside(*first, model);
        if (others.empty())
            continue;
        const std::vector<PlaceBeside> places = lowest_beside(search, others);
        std::vector<std::optional<WeighedHypothesis>> found(places.size());
        parallel_for(places.size(), [&](std::size_t i) {
            const Beside& beside = *places[i].beside;
            try {
                found[i] =
                    WeighedHypothesis{first->cause,
                                      std::nullopt,
                                      beside.belief,
                                      search.find(beside.belief, first->found.place, {places[i].tried}),
                                      first->widened,
                                      false,
                                      std::string(beside.second->cause),
                                      beside.second->widened};
            } catch (const InputError&) { // a train beside it cannot be run
            }
        });
        for (auto& one : found)
            if (one && (!best || less_likely(*best, *one)))
                best = std::move(one);
    }
    if (!best)
        return std::nullopt;
    best->found = search.looked_round(std::move(best->found), best->belief);
    const double of_one = std::max_element(all.begin(), all.end(), less_likely)->found.log_evidence;
    const double asked = std::max(chosen.found.log_evidence + kLeastEvidence, of_one + kLeastSecond);
    return best->found.log_evidence > asked ? best : std::nullopt;
}

std::vector<Hypothesis> ranked(const FitModel& model, const std::vector<WeighedHypothesis>& all,
                               const std::optional<WeighedHypothesis>& two) {
    std::vector<Hypothesis> out;
    for (const WeighedHypothesis& one : all) {
        const double over = one.found.log_evidence - all.front().found.log_evidence;
        const auto known = std::find_if(out.begin(), out.end(), [&](const Hypothesis& h) {
            return h.cause == one.cause && h.only == one.only;
        });
        if (known != out.end() && known->log_evidence >= over)
            continue;
        Hypothesis told{one.cause, one.only, over, model.train_at(one.found.place.x, 0),
                        put_back(model, one, one.widened)};
        if (known == out.end())
            out.push_back(std::move(told));
        else
            *known = std::move(told);
    }
    if (two)
        out.push_back({two->cause, two->only, two->found.log_evidence - all.front().found.log_evidence,
                       model.train_at(two->found.place.x, 0), put_back(model, *two, two->widened), two->with,
                       put_back(model, *two, two->with_widened)});
    std::stable_sort(out.begin(), out.end(), [](const Hypothesis& a, const Hypothesis& b) {
        return a.log_evidence > b.log_evidence;
    });
    return out;
}

} // namespace bathmos
