#include "core/verdict/agreement.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kAlike = 0.02;

const char* name_of(Claimant claimant) {
    return claimant == Claimant::Model ? "model" : claimant == Claimant::Rig ? "rig" : "dyno";
}

std::string first_large(std::string text) {
    if (!text.empty())
        text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
    return text;
}

// Rounded to ten: none of the three is known better.
double tens(double rpm) {
    return 10 * std::round(rpm / 10);
}

std::string apart(const SpeedClaim& one, double from_rpm) {
    return fmt::format("the {} is {:.0f} {}", name_of(one.claimant), tens(std::abs(one.speed_rpm - from_rpm)),
                       one.speed_rpm < from_rpm ? "lower" : "higher");
}

std::string span(double low_rpm, double high_rpm) {
    return tens(low_rpm) == tens(high_rpm)
               ? fmt::format("{:.0f} rev/min", tens(low_rpm))
               : fmt::format("{:.0f} to {:.0f} rev/min", tens(low_rpm), tens(high_rpm));
}

// Two that agree, and the third apart from them.
std::string two_of_three(const SpeedClaim& a, const SpeedClaim& b, const SpeedClaim& third) {
    return first_large(
        fmt::format("{} and {} agree, {}; {}", name_of(a.claimant), name_of(b.claimant),
                    span(std::min(a.speed_rpm, b.speed_rpm), std::max(a.speed_rpm, b.speed_rpm)),
                    apart(third, 0.5 * (a.speed_rpm + b.speed_rpm))));
}

} // namespace

bool agree(const SpeedClaim& a, const SpeedClaim& b) {
    return std::abs(a.speed_rpm - b.speed_rpm) <= std::max(std::hypot(a.half_width_rpm, b.half_width_rpm),
                                                           kAlike * 0.5 * (a.speed_rpm + b.speed_rpm));
}

std::string agreement_in_words(const std::vector<SpeedClaim>& claims) {
    if (claims.empty())
        return {};
    if (claims.size() == 1)
        return fmt::format("Only the {} speaks so far", name_of(claims[0].claimant));
    const auto [low, high] =
        std::minmax_element(claims.begin(), claims.end(), [](const SpeedClaim& a, const SpeedClaim& b) {
            return a.speed_rpm < b.speed_rpm;
        });
    bool all = true;
    for (std::size_t i = 0; i < claims.size(); ++i)
        for (std::size_t k = i + 1; k < claims.size(); ++k)
            all = all && agree(claims[i], claims[k]);
    if (claims.size() == 2)
        return all ? first_large(fmt::format("{} and {} agree: {}", name_of(claims[0].claimant),
                                             name_of(claims[1].claimant),
                                             span(low->speed_rpm, high->speed_rpm)))
                   : first_large(fmt::format("{} and {} disagree: {}", name_of(claims[0].claimant),
                                             name_of(claims[1].claimant),
                                             apart(claims[1], claims[0].speed_rpm)));
    if (all)
        return fmt::format("Model, rig and dyno agree: {}", span(low->speed_rpm, high->speed_rpm));
    // The nearest two that agree, if any.
    const std::vector<std::size_t> pairs[] = {{0, 1, 2}, {0, 2, 1}, {1, 2, 0}};
    const std::vector<std::size_t>* best = nullptr;
    for (const auto& pair : pairs) {
        const auto gap = [&](const std::vector<std::size_t>& p) {
            return std::abs(claims[p[0]].speed_rpm - claims[p[1]].speed_rpm);
        };
        if (agree(claims[pair[0]], claims[pair[1]]) && (!best || gap(pair) < gap(*best)))
            best = &pair;
    }
    if (best)
        return two_of_three(claims[(*best)[0]], claims[(*best)[1]], claims[(*best)[2]]);
    return fmt::format("Model, rig and dyno disagree: {}", span(low->speed_rpm, high->speed_rpm));
}

} // namespace bathmos
