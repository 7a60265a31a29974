// A running rig listened to: recorded as it comes, cut, shown, reduced, watched by its stop rules and taken
// through a programme; without a window. Three threads: the line and the disk; cycles, rules and programme;
// the reduction. One that is too slow leaves out pictures, never samples.
#pragma once

#include "core/live/live_run.h"
#include "core/live/programme.h"
#include "core/live/stop_rules.h"
#include "io/live/recording.h"
#include "io/live/rig_link.h"

#include <condition_variable>
#include <thread>

namespace bathmos::session {

struct LiveSetup {
    std::string host, port;
    Train train; ///< as believed: what turns stand over, and are aligned by
    LimitsInForce limits{};
    bool reversed = false;
    std::filesystem::path recording; ///< a new file; "" keeps nothing
    std::vector<live::StopLimit> stops = live::usual_stop_limits();
};

enum class LiveState { Connecting, Listening, Lost };

/// Something to be told, newest last.
struct LiveNote {
    double time_s = 0; ///< since the session began
    std::string kind;  ///< "connected", "lost", "event", "answer", "stop", "disk", "refused", "programme"
    MeasuredText text;
};

/// A device beside the rig, as it was heard last.
struct LiveDevice {
    live::DeviceReading reading; ///< all that it has said within kSilentDevice_s
    double heard_s = 0;          ///< since the session began
    double rpm_s = -1e9, oil_s = -1e9;
    bool silent = false; ///< nothing for kSilentDevice_s
    /// Since when its speed is not the index's; and whether that was told.
    std::optional<double> apart_since_s{};
    bool apart_told = false;
};
/// After so long without a word a device counts as silent, and one number of it as no longer said.
inline constexpr double kSilentDevice_s = 3;
inline constexpr std::size_t kMostDevices = 16; ///< more are a fault of whoever sends them, and not heard

/// What is so at a moment; plain values.
struct LiveSnapshot {
    LiveState state = LiveState::Connecting;
    std::uint64_t number = 0; ///< grows with every change
    live::Hello hello;
    double rpm = 0;
    std::optional<double> oil_C;     ///< of a device where one says it, else of the rig
    std::vector<LiveDevice> devices; ///< that were heard, in that order
    live::LiveCycle cycle;           ///< the last good one
    std::shared_ptr<const RigRun> run;
    std::vector<live::OrderLine> orders;
    std::uint64_t samples = 0, lost = 0, good_cycles = 0, bad_cycles = 0, not_shown = 0;
    std::uint64_t bytes_kept = 0, not_kept = 0; ///< not_kept: messages that found no room on a full disk
    std::string disk_problem;
    std::size_t pieces = 0, leg = 0, legs = 0;
    bool programme = false, at_speed = false, programme_done = false;
    std::optional<live::StopReason> stopped;
    std::vector<LiveNote> notes; ///< the last ones
};

class LiveSession {
  public:
    /// Begins to listen. Throws InputError for a recording that is there already, and a train that cannot be
    /// run.
    explicit LiveSession(LiveSetup setup);
    /// Ends the line; the recording is whole on disk.
    ~LiveSession();
    LiveSession(const LiveSession&) = delete;
    LiveSession& operator=(const LiveSession&) = delete;

    LiveSnapshot snapshot() const;
    /// The kinematic lift on the grid.
    const std::vector<double>& asked_m() const { return asked_m_; }
    const std::filesystem::path& recording() const { return setup_.recording; }

    /// Takes the rig through a programme, from its first leg. Throws InputError for one that this rig cannot
    /// turn.
    void start(const live::Programme& programme);
    /// The operator's word: ends the programme and asks the rig to stop.
    void stop(const std::string& why);
    /// Ends the programme and asks for a speed.
    void set_speed(double rpm);
    /// What a device beside the rig says: kept in the recording, watched by the rules, shown. Its speed
    /// stands where the rig says none, and is held against the index.
    void hear_device(const live::DeviceReading& reading);

  private:
    void listen(const std::stop_token& stop);
    void hear_frame(std::span<const std::uint8_t> content, const std::optional<live::Message>& message);
    void hear(const live::Hello& hello);
    void hear(const live::Block& block);
    void look(const std::stop_token& stop);
    void look_at(std::vector<live::Turn> turns);
    void go_on_with_programme();
    void reduce(const std::stop_token& stop);
    void record(const live::DeviceReading& reading);
    void record_devices();
    void look_after_devices();
    void take_oil();
    void take_device(const live::DeviceReading& reading);
    LiveDevice* device_named(const std::string& name);
    void compare_speeds(LiveDevice& device);
    std::optional<double> device_rpm() const;
    void note(const std::string& kind, MeasuredText text);
    void end_programme();
    void stop_by(const live::StopReason& reason);

    LiveSetup setup_;
    std::vector<double> asked_m_;
    std::optional<io::Recorder> recorder_; ///< the line's thread alone
    std::optional<live::TurnCutter> cutter_;
    io::RigLink link_;
    std::chrono::steady_clock::time_point begun_ = std::chrono::steady_clock::now();

    mutable std::mutex guard_; ///< of all below
    std::condition_variable_any turned_, due_;
    std::vector<live::Turn> queue_;
    std::optional<live::LiveRun> run_;
    live::StopWatch watch_;
    std::optional<live::ProgrammeRunner> programme_;
    double rig_s_ = 0;
    double cycle_rpm_ = 0, cycle_s_ = -1e9; ///< the last turn's, by the index, and when it came
    live::OilHeard oil_;
    std::vector<live::DeviceReading> to_record_; ///< of devices; the line's thread writes them
    LiveSnapshot now_;

    std::jthread reducer_, looker_, listener_; ///< ended in the order listener, looker, reducer
};

} // namespace bathmos::session
