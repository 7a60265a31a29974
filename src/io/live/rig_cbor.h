// The rig stream's bytes (docs/rig-stream.md): messages as CBOR [RFC 8949], each in a frame of its own, which
// is CBOR too: an encoded data item (tag 24) whose length comes first.
#pragma once

#include "core/live/rig_message.h"

#include <span>

namespace bathmos::io {

using Bytes = std::vector<std::uint8_t>;

/// Longest frame that is taken: two seconds of the fastest rig.
inline constexpr std::size_t kMostFrameBytes = 8u << 20;

/// Adds a frame with that content.
void append_frame(Bytes& to, std::span<const std::uint8_t> content);
/// A message without its frame.
Bytes rig_content(const live::Message& message);
/// A message in its frame.
Bytes rig_frame(const live::Message& message);

/// A frame's content as a message; empty for a kind that this version does not know. Throws InputError for
/// what is no CBOR, nested deeper than any message, longer than the frame, or not as the protocol has it.
std::optional<live::Message> rig_message(std::span<const std::uint8_t> content);

/// Cuts a stream of bytes into frames.
class FrameSplitter {
  public:
    /// Adds bytes as they came.
    void add(std::span<const std::uint8_t> bytes);
    /// The content of the next whole frame; empty until more bytes come. Throws InputError for bytes that
    /// begin no frame, and for a frame that is too long: the stream cannot be followed any further.
    std::optional<Bytes> next();
    std::size_t waiting() const { return bytes_.size() - at_; } ///< bytes of a frame that is not whole

  private:
    Bytes bytes_;
    std::size_t at_ = 0;
};

} // namespace bathmos::io
