#include "io/text/line_source.h"

#include "io/text/fields.h"

#include <algorithm>
#include <utility>

namespace bathmos::io {

namespace {

constexpr std::size_t kPieceBytes = 1 << 20, kMostLine = 1 << 20;

} // namespace

LineSource::LineSource(const std::filesystem::path& path, Encoding encoding)
    : path_(path), encoding_(encoding), file_(fields::open(path)) {
    std::error_code none;
    const std::uintmax_t size = std::filesystem::file_size(path, none);
    size_ = none ? 1 : std::max<std::uintmax_t>(size, 1);
}

double LineSource::share() const {
    return std::min(1.0, static_cast<double>(read_) / static_cast<double>(size_));
}

bool LineSource::next_piece() {
    if (!file_)
        return false;
    piece_.resize(kPieceBytes);
    file_.read(piece_.data(), static_cast<std::streamsize>(kPieceBytes));
    piece_.resize(static_cast<std::size_t>(file_.gcount()));
    read_ += piece_.size();
    if (encoding_ == Encoding::Utf16Little || encoding_ == Encoding::Utf16Big)
        to_one_byte_letters();
    return true;
}

// A character that is cut in two waits for the next piece.
void LineSource::to_one_byte_letters() {
    const std::string raw = std::exchange(half_, {}) + piece_;
    std::size_t whole = raw.size() - raw.size() % 2;
    if (file_ && whole >= 2) {
        const auto high =
            static_cast<unsigned char>(raw[whole - (encoding_ == Encoding::Utf16Little ? 1 : 2)]);
        if (high >= 0xD8 && high < 0xDC)
            whole -= 2;
    }
    half_ = raw.substr(whole);
    piece_ = to_utf8(std::string_view(raw).substr(0, whole), encoding_);
}

void LineSource::keep_rest(std::string_view view) {
    rest_.append(view);
    if (rest_.size() > kMostLine)
        fields::refuse_table(path_, "", "holds a line of more than a million letters",
                             "is this a table? export it as CSV");
}

} // namespace bathmos::io
