// What a running rig and its listener say to each other, as values (docs/rig-stream.md).
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace bathmos::live {

/// One column of a rig's samples.
struct RigChannel {
    std::string name; ///< "lift", others as the rig calls them
    std::string unit; ///< "mm", "in", "um", "thou" for lift
    bool operator==(const RigChannel&) const = default;
};

/// The first thing a rig says, and again after each reconnecting.
struct Hello {
    std::string rig, valve;
    std::vector<RigChannel> channels; ///< in the order of a block's samples; one is "lift"
    bool once_per_crank_turn = false; ///< index pulses: one a crank turn, else one a cam turn
    /// Samples a turn of the index where the encoder clocks them; 0: samples come by time.
    double samples_a_turn = 0;
    double rate_Hz = 0;  ///< of samples by time; 0 where the encoder clocks them
    double most_rpm = 0; ///< that the rig can be asked for; 0: it takes no requests
    bool operator==(const Hello&) const = default;
};

/// Samples on end.
struct Block {
    std::uint64_t first = 0;           ///< number of its first sample since the rig began
    std::vector<std::uint32_t> pulses; ///< samples of this block at which the index came
    std::vector<float> pulse_rpm;      ///< crank speed at each, where the encoder clocks the samples
    std::vector<float> samples;        ///< channel after channel, sample after sample; NaN where lost
    bool operator==(const Block&) const = default;
};

/// Slow readings: speed, temperatures.
struct Reading {
    double time_s = 0; ///< since the hello
    double rpm = 0;
    std::optional<double> oil_C;
    bool operator==(const Reading&) const = default;
};

/// All that a device of its own says beside the rig: a tachometer, a thermometer. Neither: it has fallen
/// silent.
struct DeviceReading {
    std::string device; ///< its name
    std::optional<double> rpm, oil_C;
    bool operator==(const DeviceReading&) const = default;
};

/// Something that happened at the rig: "holding", "stopped", "interlock", "fault".
struct RigEvent {
    std::string kind, text;
    bool operator==(const RigEvent&) const = default;
};

/// What the listener asks for. A request is no safety device: the rig decides.
struct Request {
    enum class Kind { SetSpeed, Hold, Stop };
    Kind kind = Kind::Stop;
    std::uint64_t number = 0;
    double rpm = 0, rpm_per_s = 0; ///< of SetSpeed; 0: as the rig likes
    std::string why;               ///< of Stop
    bool operator==(const Request&) const = default;
};
/// What the rig answers.
struct Answer {
    std::uint64_t number = 0;
    bool done = false;
    std::string text;
    bool operator==(const Answer&) const = default;
};

using Message = std::variant<Hello, Block, Reading, RigEvent, Request, Answer, DeviceReading>;

/// mm in one unit of a lift channel; empty for a unit that is none of length.
std::optional<double> lift_unit_mm(const std::string& unit);
/// Place of the lift among a hello's channels. Throws InputError for a hello that no rig can mean: no lift, a
/// unit of no length, neither samples a turn nor a rate, or both.
std::size_t lift_channel(const Hello& hello);

} // namespace bathmos::live
