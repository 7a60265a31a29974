#include "io/live/rig_cbor.h"

#include "core/problem/input_error.h"
#include "io/json/json.h"

#include <bit>
#include <cmath>
#include <cstring>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

static_assert(std::endian::native == std::endian::little, "samples go as little-endian floats");

constexpr std::size_t kDeepestFrame = 12, kMostPulses = 1'000'000;
constexpr std::uint8_t kTag24[] = {0xd8, 0x18};

[[noreturn]] void refuse_message(const std::string& place, const std::string& what, const std::string& mend) {
    throw InputError({"", place, what, mend});
}

// ---- a walk over CBOR that trusts nothing: depth and lengths, before the library makes values of it
class CborWalk {
  public:
    explicit CborWalk(std::span<const std::uint8_t> bytes) : bytes_(bytes) {}
    void whole() {
        item(0);
        if (at_ != bytes_.size())
            refuse_message("frame", "holds more than one message", "one frame, one message");
    }

  private:
    std::uint8_t byte() {
        if (at_ == bytes_.size())
            refuse_message("frame", "ends within a message", "the rig's program must be mended");
        return bytes_[at_++];
    }
    std::uint64_t number(std::uint8_t info) {
        if (info < 24)
            return info;
        if (info > 27)
            refuse_message("frame", "has a length that is not stated", "state lengths");
        std::uint64_t out = 0;
        for (int i = 0; i < 1 << (info - 24); ++i)
            out = out << 8 | byte();
        return out;
    }
    void skip(std::uint64_t count) {
        if (count > bytes_.size() - at_)
            refuse_message("frame",
                           fmt::format("holds {} bytes less than it says", count - (bytes_.size() - at_)),
                           "the rig's program must be mended");
        at_ += count;
    }
    void item(std::size_t depth) {
        if (depth > kDeepestFrame)
            refuse_message("frame", "is nested deeper than any message", "the rig's program must be mended");
        const std::uint8_t head = byte();
        const std::uint8_t kind = head >> 5, info = head & 31;
        const std::uint64_t count = number(info);
        if (kind == 2 || kind == 3)
            skip(count);
        else if (kind == 4 || kind == 5)
            for (std::uint64_t i = 0; i < count; ++i) { // each takes a byte: a count that lies ends with them
                item(depth + 1);
                if (kind == 5)
                    item(depth + 1);
            }
        else if (kind == 6)
            item(depth + 1);
    }

    std::span<const std::uint8_t> bytes_;
    std::size_t at_ = 0;
};

// ---- reading one object, with the key in every refusal
class MessageReader {
  public:
    MessageReader(const Json& json, std::string path) : json_(json), path_(std::move(path)) {
        if (!json.is_object())
            refuse_message(path_, "is no map", "must be a map");
    }
    bool has(const char* key) const { return json_.contains(key) && !json_[key].is_null(); }
    const Json& at(const char* key) const {
        if (!has(key))
            refuse_message(path_ + "." + key, "is missing", "say it");
        return json_[key];
    }
    double number(const char* key) const {
        const Json& one = at(key);
        if (!one.is_number() || !std::isfinite(one.get<double>()))
            refuse_message(path_ + "." + key, "is no number", "must be a number");
        return one.get<double>();
    }
    double number_or(const char* key, double usual) const { return has(key) ? number(key) : usual; }
    std::uint64_t count(const char* key) const {
        const Json& one = at(key);
        if (!one.is_number_unsigned())
            refuse_message(path_ + "." + key, "is no count", "must be a whole number from 0 up");
        return one.get<std::uint64_t>();
    }
    std::string text_or(const char* key, const std::string& usual) const {
        if (!has(key))
            return usual;
        if (!json_[key].is_string())
            refuse_message(path_ + "." + key, "is no text", "must be text");
        return json_[key].get<std::string>();
    }
    const Json& list(const char* key) const {
        const Json& one = at(key);
        if (!one.is_array())
            refuse_message(path_ + "." + key, "is no list", "must be a list");
        return one;
    }
    const std::string& path() const { return path_; }

  private:
    const Json& json_;
    std::string path_;
};

live::Hello hello_of(const MessageReader& reader) {
    if (reader.text_or("format", "") != "bathmos-rig-stream" || reader.number_or("version", 0) != 1)
        refuse_message("hello", "is of another protocol or version", "speak version 1 of docs/rig-stream.md");
    live::Hello out;
    out.rig = reader.text_or("rig", "");
    out.valve = reader.text_or("valve", "");
    const Json& channels = reader.list("channels");
    for (std::size_t i = 0; i < channels.size(); ++i) {
        const MessageReader one(channels[i], fmt::format("hello.channels[{}]", i));
        out.channels.push_back({one.text_or("name", ""), one.text_or("unit", "")});
    }
    const std::string index = reader.text_or("index", "cam");
    if (index != "cam" && index != "crank")
        refuse_message("hello.index", fmt::format("is \"{}\"", index), "must be cam or crank");
    out.once_per_crank_turn = index == "crank";
    out.samples_a_turn = reader.number_or("samples_a_turn", 0);
    out.rate_Hz = reader.number_or("rate_Hz", 0);
    out.most_rpm = reader.number_or("most_rpm", 0);
    live::lift_channel(out); // what no rig can mean
    return out;
}

std::vector<float> floats_of(const Json& json, const std::string& place) {
    std::vector<float> out;
    if (json.is_binary()) {
        const auto& bytes = json.get_binary();
        if (bytes.size() % sizeof(float) != 0)
            refuse_message(place, fmt::format("{} bytes are no whole floats", bytes.size()),
                           "send little-endian 32-bit floats");
        out.resize(bytes.size() / sizeof(float));
        std::memcpy(out.data(), bytes.data(), bytes.size());
        return out;
    }
    if (!json.is_array())
        refuse_message(place, "is neither bytes nor a list", "send little-endian 32-bit floats");
    for (const Json& one : json)
        out.push_back(one.is_number() ? one.get<float>() : std::nanf(""));
    return out;
}

live::Block block_of(const MessageReader& reader) {
    live::Block out;
    out.first = reader.count("first");
    const Json& pulses = reader.list("pulses");
    if (pulses.size() > kMostPulses)
        refuse_message("block.pulses", fmt::format("{} pulses", pulses.size()), "no rig turns so");
    for (const Json& one : pulses) {
        if (!one.is_number_unsigned() || one.get<std::uint64_t>() > kMostFrameBytes)
            refuse_message("block.pulses", "holds no number of a sample",
                           "must count from the block's first sample");
        out.pulses.push_back(one.get<std::uint32_t>());
    }
    if (reader.has("pulse_rpm"))
        out.pulse_rpm = floats_of(reader.at("pulse_rpm"), "block.pulse_rpm");
    out.samples = floats_of(reader.at("samples"), "block.samples");
    return out;
}

live::Request request_of(const MessageReader& reader) {
    live::Request out;
    const std::string kind = reader.text_or("kind", "");
    if (kind == "set_speed")
        out.kind = live::Request::Kind::SetSpeed;
    else if (kind == "hold")
        out.kind = live::Request::Kind::Hold;
    else if (kind != "stop")
        refuse_message("request.kind", fmt::format("is \"{}\"", kind), "must be set_speed, hold or stop");
    out.number = reader.count("number");
    out.rpm = reader.number_or("rpm", 0);
    out.rpm_per_s = reader.number_or("rpm_per_s", 0);
    out.why = reader.text_or("why", "");
    return out;
}

std::optional<live::Message> message_of(const Json& json) {
    if (!json.is_object() || json.size() != 1)
        refuse_message("message", "is no map of one key", "say {kind: {..}}");
    const std::string kind = json.begin().key();
    const Json& content = json.begin().value();
    if (kind == "hello")
        return hello_of({content, kind});
    if (kind == "block")
        return block_of({content, kind});
    if (kind == "reading") {
        const MessageReader reader(content, kind);
        live::Reading out{reader.number_or("time_s", 0), reader.number_or("rpm", 0), std::nullopt};
        if (reader.has("oil_C"))
            out.oil_C = reader.number("oil_C");
        return out;
    }
    if (kind == "device") {
        const MessageReader reader(content, kind);
        live::DeviceReading out{reader.text_or("device", ""), {}, {}};
        if (reader.has("rpm"))
            out.rpm = reader.number("rpm");
        if (reader.has("oil_C"))
            out.oil_C = reader.number("oil_C");
        return out;
    }
    if (kind == "event") {
        const MessageReader reader(content, kind);
        return live::RigEvent{reader.text_or("kind", ""), reader.text_or("text", "")};
    }
    if (kind == "request")
        return request_of({content, kind});
    if (kind == "answer") {
        const MessageReader reader(content, kind);
        return live::Answer{reader.count("number"), reader.has("done") && reader.at("done") == Json(true),
                            reader.text_or("text", "")};
    }
    return std::nullopt; // of a later version: passed over
}

Json binary_of(const std::vector<float>& values) {
    std::vector<std::uint8_t> bytes(values.size() * sizeof(float));
    if (!bytes.empty())
        std::memcpy(bytes.data(), values.data(), bytes.size());
    return Json::binary(std::move(bytes));
}

struct ToJson {
    Json operator()(const live::Hello& hello) const {
        Json channels = Json::array();
        for (const live::RigChannel& one : hello.channels)
            channels.push_back({{"name", one.name}, {"unit", one.unit}});
        Json out = {{"format", "bathmos-rig-stream"},
                    {"version", 1},
                    {"rig", hello.rig},
                    {"valve", hello.valve},
                    {"channels", channels},
                    {"index", hello.once_per_crank_turn ? "crank" : "cam"}};
        for (const auto& [key, value] : {std::pair{"samples_a_turn", hello.samples_a_turn},
                                         {"rate_Hz", hello.rate_Hz},
                                         {"most_rpm", hello.most_rpm}})
            if (value > 0)
                out[key] = value;
        return {{"hello", out}};
    }
    Json operator()(const live::Block& block) const {
        Json out = {{"first", block.first}, {"pulses", block.pulses}, {"samples", binary_of(block.samples)}};
        if (!block.pulse_rpm.empty())
            out["pulse_rpm"] = binary_of(block.pulse_rpm);
        return {{"block", out}};
    }
    Json operator()(const live::Reading& reading) const {
        Json out = {{"time_s", reading.time_s}, {"rpm", reading.rpm}};
        if (reading.oil_C)
            out["oil_C"] = *reading.oil_C;
        return {{"reading", out}};
    }
    Json operator()(const live::DeviceReading& reading) const {
        Json out = {{"device", reading.device}};
        if (reading.rpm)
            out["rpm"] = *reading.rpm;
        if (reading.oil_C)
            out["oil_C"] = *reading.oil_C;
        return {{"device", out}};
    }
    Json operator()(const live::RigEvent& event) const {
        return {{"event", {{"kind", event.kind}, {"text", event.text}}}};
    }
    Json operator()(const live::Request& request) const {
        const char* kinds[] = {"set_speed", "hold", "stop"};
        return {{"request",
                 {{"kind", kinds[static_cast<std::size_t>(request.kind)]},
                  {"number", request.number},
                  {"rpm", request.rpm},
                  {"rpm_per_s", request.rpm_per_s},
                  {"why", request.why}}}};
    }
    Json operator()(const live::Answer& answer) const {
        return {{"answer", {{"number", answer.number}, {"done", answer.done}, {"text", answer.text}}}};
    }
};

} // namespace

void append_frame(Bytes& to, std::span<const std::uint8_t> content) {
    to.insert(to.end(), std::begin(kTag24), std::end(kTag24));
    to.push_back(0x5a);
    for (int shift = 24; shift >= 0; shift -= 8)
        to.push_back(static_cast<std::uint8_t>(content.size() >> shift));
    to.insert(to.end(), content.begin(), content.end());
}

Bytes rig_content(const live::Message& message) {
    return Json::to_cbor(std::visit(ToJson{}, message));
}

Bytes rig_frame(const live::Message& message) {
    Bytes out;
    append_frame(out, rig_content(message));
    return out;
}

std::optional<live::Message> rig_message(std::span<const std::uint8_t> content) {
    CborWalk(content).whole();
    try {
        return message_of(
            Json::from_cbor(content.begin(), content.end(), true, true, Json::cbor_tag_handler_t::ignore));
    } catch (const Json::exception&) {
        refuse_message("frame", "is no CBOR that a message can be", "the rig's program must be mended");
    }
}

void FrameSplitter::add(std::span<const std::uint8_t> bytes) {
    if (at_ > 0 && at_ >= bytes_.size() / 2) {
        bytes_.erase(bytes_.begin(), bytes_.begin() + static_cast<std::ptrdiff_t>(at_));
        at_ = 0;
    }
    bytes_.insert(bytes_.end(), bytes.begin(), bytes.end());
}

std::optional<Bytes> FrameSplitter::next() {
    const std::size_t left = bytes_.size() - at_;
    const auto head = [&](std::size_t i) { return bytes_[at_ + i]; };
    for (std::size_t i = 0; i < std::min<std::size_t>(left, 2); ++i)
        if (head(i) != kTag24[i])
            refuse_message("stream", "is no rig stream", "connect to a rig that speaks docs/rig-stream.md");
    if (left < 3)
        return std::nullopt;
    const std::uint8_t kind = head(2), info = kind & 31;
    if (kind >> 5 != 2 || info > 27)
        refuse_message("stream", "holds no frame", "the rig's program must be mended");
    const std::size_t more = info < 24 ? 0 : std::size_t(1) << (info - 24);
    if (left < 3 + more)
        return std::nullopt;
    std::uint64_t length = info < 24 ? info : 0;
    for (std::size_t i = 0; i < more; ++i)
        length = length << 8 | head(3 + i);
    if (length > kMostFrameBytes)
        refuse_message("stream", fmt::format("a frame of {} bytes", length),
                       fmt::format("send frames of at most {} bytes", kMostFrameBytes));
    if (left < 3 + more + length)
        return std::nullopt;
    const auto begin = bytes_.begin() + static_cast<std::ptrdiff_t>(at_ + 3 + more);
    Bytes out(begin, begin + static_cast<std::ptrdiff_t>(length));
    at_ += 3 + more + length;
    return out;
}

} // namespace bathmos::io
