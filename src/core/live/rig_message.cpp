#include "core/live/rig_message.h"

#include "core/problem/input_error.h"

#include <cmath>
#include <fmt/format.h>

namespace bathmos::live {

namespace {

constexpr std::size_t kMostChannels = 64;
constexpr double kMostRate_Hz = 5e6, kLeastSamples = 90, kMostSamples = 100'000;

} // namespace

std::optional<double> lift_unit_mm(const std::string& unit) {
    for (const auto& [name, mm] :
         {std::pair{"mm", 1.0}, {"um", 1e-3}, {"in", 25.4}, {"thou", 0.0254}, {"m", 1e3}})
        if (unit == name)
            return mm;
    return std::nullopt;
}

std::size_t lift_channel(const Hello& hello) {
    const auto refuse = [](const std::string& place, const std::string& what, const std::string& mend) {
        throw InputError({"", place, what, mend});
    };
    if (hello.channels.empty() || hello.channels.size() > kMostChannels)
        refuse("hello.channels", fmt::format("{} channels", hello.channels.size()),
               fmt::format("say 1 to {}", kMostChannels));
    std::size_t lift = hello.channels.size();
    for (std::size_t i = 0; i < hello.channels.size(); ++i)
        if (hello.channels[i].name == "lift")
            lift = i;
    if (lift == hello.channels.size())
        refuse("hello.channels", "none is called \"lift\"", "name the valve's position so");
    if (!lift_unit_mm(hello.channels[lift].unit))
        refuse("hello.channels", fmt::format("the lift is in \"{}\"", hello.channels[lift].unit),
               "say mm, um, in, thou or m");
    const bool by_angle = hello.samples_a_turn != 0, by_time = hello.rate_Hz != 0;
    if (by_angle == by_time)
        refuse("hello", "says neither or both of samples a turn and a rate", "say the one that holds");
    if (by_angle && !(hello.samples_a_turn >= kLeastSamples && hello.samples_a_turn <= kMostSamples))
        refuse("hello.samples_a_turn", fmt::format("{:g}", hello.samples_a_turn),
               fmt::format("{:g} to {:g}", kLeastSamples, kMostSamples));
    if (by_time && !(hello.rate_Hz > 0 && hello.rate_Hz <= kMostRate_Hz))
        refuse("hello.rate_Hz", fmt::format("{:g}", hello.rate_Hz),
               fmt::format("above 0, to {:g}", kMostRate_Hz));
    return lift;
}

} // namespace bathmos::live
