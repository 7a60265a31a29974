// Samples of a running rig, cut into turns at the index pulses.
#pragma once

#include "core/live/rig_message.h"
#include "core/rig/rig_trace.h"

namespace bathmos::live {

/// One turn between two pulses, with readings of its own.
struct Turn {
    double speed_rpm = 0; ///< crank
    double time_s = 0;    ///< since the hello, at its end; by turns where the encoder clocks
    bool follows_on = true;
    std::vector<float> crank_deg, lift_mm;
    double oil_C = std::numeric_limits<double>::quiet_NaN(); ///< as the last reading said; NaN: none has
};

class TurnCutter {
  public:
    /// Throws InputError for a hello that no rig can mean.
    explicit TurnCutter(const Hello& hello);

    /// The turns that a block finishes. A gap between blocks, or a turn longer than a stopped rig's, ends the
    /// turn unfinished. Throws InputError for a block that contradicts the hello.
    std::vector<Turn> add(const Block& block);
    std::uint64_t lost() const { return lost_; } ///< samples that a gap left out

  private:
    void finish(std::uint64_t pulse, double pulse_rpm, std::vector<Turn>& out);

    std::size_t channels_, lift_;
    double to_mm_, rate_Hz_, samples_a_turn_, degrees_;
    std::uint64_t next_ = 0, lost_ = 0;
    std::vector<float> open_; ///< readings since the last pulse, mm
    bool heard_ = false, in_turn_ = false, follows_ = false;
    double time_s_ = 0;
};

/// What the oil has: a device of its own goes before the rig, until it falls silent.
class OilHeard {
  public:
    /// Of the rig itself.
    void hear(const Reading& reading) { rig_C_ = reading.oil_C; }
    /// Of a device; one without a temperature ends what that device said.
    void hear(const DeviceReading& reading);
    /// Degrees C; empty where nobody says it.
    std::optional<double> now_C() const { return device_C_ ? device_C_ : rig_C_; }

  private:
    std::optional<double> rig_C_, device_C_;
    std::string device_; ///< that said device_C_
};

/// Adds a turn to a trace.
void append(const Turn& turn, RigTrace& trace);

} // namespace bathmos::live
