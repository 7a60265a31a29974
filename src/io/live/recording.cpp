#include "io/live/recording.h"

#include "core/live/turn_cutter.h"
#include "core/problem/input_error.h"
#include "io/text/encoding.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <optional>
#include <unistd.h>

namespace bathmos::io {

namespace {

using namespace std::chrono_literals;

constexpr auto kSettleEvery = 1s;
constexpr std::size_t kRecordingPiece = 1u << 20, kWriteAt = 256u << 10, kMostEvents = 10'000;
constexpr std::size_t kMostWaiting = 64u << 20; // while the disk is full

// Follows a recording's messages.
class RecordingReader {
  public:
    RecordingReader(const std::filesystem::path& path, RecordingFacts& facts) : path_(path), facts_(facts) {
        trace.source = shown_path(path);
    }
    /// False: no more are wanted.
    bool hear(live::Message&& message) {
        if (auto* hello = std::get_if<live::Hello>(&message))
            begin(std::move(*hello));
        else if (const auto* reading = std::get_if<live::Reading>(&message))
            oil_.hear(*reading);
        else if (const auto* device = std::get_if<live::DeviceReading>(&message))
            oil_.hear(*device);
        else if (auto* event = std::get_if<live::RigEvent>(&message)) {
            if (facts_.events.size() < kMostEvents)
                facts_.events.push_back(std::move(*event));
        } else if (const auto* block = std::get_if<live::Block>(&message); block && cutter_) {
            try {
                return take(*block);
            } catch (const InputError& error) { // the listener broke off here, too: the next piece goes on
                facts_.broken = error.what();
                end();
                cutter_.reset();
            }
        }
        return true;
    }
    /// Of a piece.
    void end() {
        if (cutter_)
            facts_.lost += cutter_->lost();
    }

    RigTrace trace;

  private:
    void begin(live::Hello hello) {
        if (facts_.pieces > 0 && hello.once_per_crank_turn != facts_.hello.once_per_crank_turn)
            throw InputError({shown_path(path_), fmt::format("piece {}", facts_.pieces + 1),
                              "has its index another number of times a cycle than the piece before",
                              "read the pieces as two runs"});
        end();
        oil_ = {};
        cutter_.emplace(hello);
        trace.once_per_crank_turn = hello.once_per_crank_turn;
        if (facts_.pieces++ == 0) {
            trace.valve = hello.valve;
            facts_.hello = std::move(hello);
        }
    }
    bool take(const live::Block& block) {
        for (live::Turn& turn : cutter_->add(block)) {
            if (const auto oil_C = oil_.now_C())
                turn.oil_C = *oil_C;
            if (trace.lift_mm.size() + turn.lift_mm.size() > kMostReadings)
                return false;
            append(turn, trace);
        }
        facts_.samples += block.samples.size() / std::max<std::size_t>(1, facts_.hello.channels.size());
        return true;
    }

    const std::filesystem::path& path_;
    RecordingFacts& facts_;
    std::optional<live::TurnCutter> cutter_;
    live::OilHeard oil_;
};

} // namespace

Recorder::Recorder(const std::filesystem::path& path) : path_(path) {
    file_ = ::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644);
    if (file_ < 0)
        throw InputError({shown_path(path), "",
                          errno == EEXIST ? std::string("is there already")
                                          : fmt::format("cannot be made: {}", std::strerror(errno)),
                          "choose another name: a recording replaces nothing"});
}

Recorder::~Recorder() {
    settle();
    ::close(file_);
}

void Recorder::add(std::span<const std::uint8_t> content) {
    if (waiting_.size() + content.size() > kMostWaiting) {
        ++not_kept_;
    } else {
        append_frame(waiting_, content);
    }
    if (waiting_.size() >= kWriteAt && problem_.empty())
        write_out();
    settle_if_due();
}

void Recorder::settle_if_due() {
    if (std::chrono::steady_clock::now() - settled_ >= kSettleEvery)
        settle();
}

void Recorder::settle() {
    write_out();
    if (problem_.empty())
        ::fdatasync(file_);
    settled_ = std::chrono::steady_clock::now();
}

// All that waits or nothing: the file ends with a whole frame.
void Recorder::write_out() {
    std::size_t written = 0;
    while (written < waiting_.size()) {
        const ssize_t now = ::write(file_, waiting_.data() + written, waiting_.size() - written);
        if (now < 0 && errno == EINTR)
            continue;
        if (now <= 0) {
            problem_ = fmt::format("{}: {}", shown_path(path_), std::strerror(errno));
            if (::ftruncate(file_, static_cast<off_t>(bytes_)) == 0)
                ::lseek(file_, static_cast<off_t>(bytes_), SEEK_SET);
            return;
        }
        written += static_cast<std::size_t>(now);
    }
    problem_.clear();
    bytes_ += written;
    waiting_.clear();
}

bool is_recording(const std::filesystem::path& path) {
    return path.extension() == ".rig-stream";
}

RigTrace read_recording(const std::filesystem::path& path, RecordingFacts* facts,
                        const ReadOptions& options) {
    std::ifstream file(path, std::ios::binary);
    std::error_code none;
    if (!file || !std::filesystem::is_regular_file(path, none))
        throw InputError({shown_path(path), "", "cannot be read", "choose a recording (*.rig-stream)"});
    const double size = std::max(1.0, static_cast<double>(std::filesystem::file_size(path, none)));
    RecordingFacts found;
    RecordingReader reading(path, found);
    FrameSplitter frames;
    Bytes piece(kRecordingPiece);
    double read = 0;
    for (bool more = true; more;) {
        throw_if_stopped(options.stop);
        file.read(reinterpret_cast<char*>(piece.data()), static_cast<std::streamsize>(piece.size()));
        const auto got = static_cast<std::size_t>(file.gcount());
        more = got == piece.size();
        frames.add({piece.data(), got});
        read += static_cast<double>(got);
        if (options.progress)
            options.progress(read / size);
        try {
            while (const std::optional<Bytes> content = frames.next())
                if (auto message = rig_message(*content); message && !reading.hear(std::move(*message)))
                    more = false;
        } catch (const InputError& error) {
            if (found.pieces == 0 || !error.problem().source.empty())
                throw error.problem().source.empty() ? error.in(shown_path(path)) : error;
            found.broken = error.what();
            more = false;
        }
    }
    reading.end();
    found.cut = frames.waiting() > 0 && found.broken.empty();
    if (reading.trace.turns.empty())
        throw InputError({shown_path(path), "", "holds no whole turn",
                          "record at least one turn of the cam, with its index pulse"});
    if (facts)
        *facts = std::move(found);
    return std::move(reading.trace);
}

} // namespace bathmos::io
