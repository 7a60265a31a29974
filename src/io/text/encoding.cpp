#include "io/text/encoding.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <iconv.h>
#include <stdexcept>

namespace bathmos::io {

namespace {

constexpr std::string_view kMark8 = "\xEF\xBB\xBF", kMark16Little = "\xFF\xFE", kMark16Big = "\xFE\xFF",
                           kUnknown = "\xEF\xBF\xBD";

// Bytes of the UTF-8 character that starts a text, 0 where none does; `cut`: the text ends within it.
std::size_t character(std::string_view text, bool* cut) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    const unsigned char first = byte(0);
    if (first < 0x80)
        return 1;
    const std::size_t size = first >= 0xC2 && first < 0xE0   ? 2
                             : first >= 0xE0 && first < 0xF0 ? 3
                             : first >= 0xF0 && first < 0xF5 ? 4
                                                             : 0;
    for (std::size_t i = 1; i < size; ++i) {
        if (i >= text.size()) {
            *cut = true;
            return 0;
        }
        // too long a form, a half of a pair, or beyond the last character
        const unsigned char least = i > 1           ? 0x80
                                    : first == 0xE0 ? 0xA0
                                    : first == 0xF0 ? 0x90
                                                    : 0x80,
                            most = i > 1           ? 0xBF
                                   : first == 0xED ? 0x9F
                                   : first == 0xF4 ? 0x8F
                                                   : 0xBF;
        if (byte(i) < least || byte(i) > most)
            return 0;
    }
    return size;
}

bool utf8_but_for_its_end(std::string_view text, bool end_may_be_cut) {
    while (!text.empty()) {
        bool cut = false;
        const std::size_t size = character(text, &cut);
        if (size == 0)
            return cut && end_may_be_cut;
        text.remove_prefix(size);
    }
    return true;
}

// Zero bytes where the other half of plain letters stands.
bool every_other_is_zero(std::string_view sample, std::size_t first) {
    std::size_t zeros = 0, others = 0;
    for (std::size_t i = 0; i + 1 < sample.size(); i += 2) {
        zeros += sample[i + first] == '\0';
        others += sample[i + 1 - first] == '\0';
    }
    return zeros > sample.size() / 4 && others == 0;
}

class Converter {
  public:
    explicit Converter(const char* from) : handle_(iconv_open("UTF-8", from)) {
        if (handle_ == reinterpret_cast<iconv_t>(-1))
            throw std::runtime_error(std::string("this system cannot read ") + from);
    }
    ~Converter() { iconv_close(handle_); }
    Converter(const Converter&) = delete;
    Converter& operator=(const Converter&) = delete;

    std::string convert(std::string_view bytes, std::size_t unit) const {
        std::string out;
        std::array<char, 4096> piece{};
        auto* from = const_cast<char*>(bytes.data()); // iconv's old signature; it does not write there
        std::size_t left = bytes.size();
        while (left > 0) {
            char* to = piece.data();
            std::size_t room = piece.size();
            const bool failed = iconv(handle_, &from, &left, &to, &room) == static_cast<std::size_t>(-1);
            const bool full = failed && room < 8;
            out.append(piece.data(), piece.size() - room);
            if (!failed || full)
                continue;
            out += kUnknown;
            const std::size_t skip = std::min(unit, left);
            from += skip;
            left -= skip;
        }
        return out;
    }

  private:
    iconv_t handle_;
};

} // namespace

Encoding encoding_of(std::string_view sample) {
    if (sample.starts_with(kMark8))
        return Encoding::Utf8;
    if (sample.starts_with(kMark16Little) || every_other_is_zero(sample, 1))
        return Encoding::Utf16Little;
    if (sample.starts_with(kMark16Big) || every_other_is_zero(sample, 0))
        return Encoding::Utf16Big;
    return utf8_but_for_its_end(sample, true) ? Encoding::Utf8 : Encoding::Windows1252;
}

std::string_view name_of(Encoding encoding) {
    constexpr std::string_view names[] = {"UTF-8", "UTF-16, low byte first", "UTF-16, high byte first",
                                          "Windows-1252"};
    return names[static_cast<std::size_t>(encoding)];
}

bool is_utf8(std::string_view text) {
    return utf8_but_for_its_end(text, false);
}

std::string to_utf8(std::string_view bytes, Encoding encoding) {
    switch (encoding) {
    case Encoding::Utf8:
        if (bytes.starts_with(kMark8))
            bytes.remove_prefix(kMark8.size());
        return is_utf8(bytes) ? std::string(bytes) : Converter("WINDOWS-1252").convert(bytes, 1);
    case Encoding::Utf16Little:
        if (bytes.starts_with(kMark16Little))
            bytes.remove_prefix(2);
        return Converter("UTF-16LE").convert(bytes, 2);
    case Encoding::Utf16Big:
        if (bytes.starts_with(kMark16Big))
            bytes.remove_prefix(2);
        return Converter("UTF-16BE").convert(bytes, 2);
    case Encoding::Windows1252:
        break;
    }
    return Converter("WINDOWS-1252").convert(bytes, 1);
}

std::string to_utf8(std::string_view bytes) {
    return to_utf8(bytes, encoding_of(bytes));
}

std::string shown_path(const std::filesystem::path& path) {
    return to_utf8(path.string(), Encoding::Utf8);
}

std::string printable(std::string_view text) {
    std::string out(text);
    for (char& c : out)
        if (const auto byte = static_cast<unsigned char>(c);
            (byte < 0x20 && c != '\n' && c != '\t') || byte == 0x7F)
            c = '?';
    // C1 controls in UTF-8: C2 80 .. C2 9F
    for (std::size_t i = 0; i + 1 < out.size(); ++i)
        if (out[i] == '\xC2' && static_cast<unsigned char>(out[i + 1]) < 0xA0) {
            out[i] = '?';
            out[i + 1] = '?';
        }
    return out;
}

} // namespace bathmos::io
