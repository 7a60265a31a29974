// A run on disk as it comes: the rig's own frames, one after another, so that whatever happens all is there
// up to the last second (docs/rig-stream.md, *.rig-stream).
#pragma once

#include "io/live/rig_cbor.h"
#include "io/rig/rig_file.h"

#include <chrono>
#include <filesystem>

namespace bathmos::io {

/// Appends frames to a file that nobody else may replace while it grows.
class Recorder {
  public:
    /// Throws InputError where the file is there already or cannot be made.
    explicit Recorder(const std::filesystem::path& path);
    ~Recorder();
    Recorder(const Recorder&) = delete;
    Recorder& operator=(const Recorder&) = delete;

    /// Adds a frame; once a second all is on disk. A full disk: the file ends with the last whole frame, and
    /// "" turns into what is wrong; later frames are tried again.
    void add(std::span<const std::uint8_t> content);
    /// All that was added is on disk.
    void settle();
    void settle_if_due(); ///< the same once a second
    const std::string& problem() const { return problem_; }
    std::uint64_t bytes() const { return bytes_; }       ///< in the file
    std::uint64_t not_kept() const { return not_kept_; } ///< frames that found no room

  private:
    void write_out();

    std::filesystem::path path_;
    int file_ = -1;
    Bytes waiting_;
    std::uint64_t bytes_ = 0, not_kept_ = 0;
    std::string problem_;
    std::chrono::steady_clock::time_point settled_ = std::chrono::steady_clock::now();
};

/// What a recording holds beside its turns.
struct RecordingFacts {
    std::size_t pieces = 0; ///< hellos: one more for each reconnecting
    live::Hello hello;      ///< the first
    std::vector<live::RigEvent> events;
    std::uint64_t samples = 0, lost = 0; ///< lost: left out between blocks
    bool cut = false;                    ///< it ends within a frame
    std::string broken; ///< why it could not be followed, to its end or to the next piece; ""
};

bool is_recording(const std::filesystem::path& path);
/// The turns of a recording. A cut or broken end loses nothing before it. Beyond kMostReadings the rest is
/// left out. Throws InputError where there is no rig stream or no turn in it; Stopped.
RigTrace read_recording(const std::filesystem::path& path, RecordingFacts* facts = nullptr,
                        const ReadOptions& options = {});

} // namespace bathmos::io
