// A text file line by line, in pieces: memory does not grow with the file.
#pragma once

#include "io/text/encoding.h"

#include <cstdint>
#include <filesystem>
#include <fstream>
#include <string>
#include <string_view>

namespace bathmos::io {

class LineSource {
  public:
    /// Throws InputError where the file cannot be read. Lines of a UTF-16 file come in UTF-8, those of others
    /// as they are.
    LineSource(const std::filesystem::path& path, Encoding encoding);

    /// Calls line(text) for each line that ends in the next piece (1 MB) of the file, without its line feed.
    /// False at the end of the file. Throws InputError for a line of more than a million letters.
    template <class F>
    bool read_piece(F line) {
        if (!next_piece())
            return false;
        std::string_view view = piece_;
        for (std::size_t end = view.find('\n'); end != std::string_view::npos; end = view.find('\n')) {
            if (rest_.empty()) {
                line(view.substr(0, end));
            } else {
                rest_.append(view.substr(0, end));
                line(std::string_view(rest_));
                rest_.clear();
            }
            view.remove_prefix(end + 1);
        }
        keep_rest(view);
        if (!file_ && !rest_.empty())
            line(std::string_view(rest_));
        return true;
    }
    /// How much of the file has been read, 0..1.
    double share() const;

  private:
    bool next_piece();
    void keep_rest(std::string_view view);
    void to_one_byte_letters();

    std::filesystem::path path_;
    Encoding encoding_;
    std::ifstream file_;
    std::string piece_, rest_, half_;
    std::uint64_t size_ = 1, read_ = 0;
};

} // namespace bathmos::io
