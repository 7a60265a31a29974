// Text that came from elsewhere as UTF-8: by its byte-order mark, by its zero bytes, or as Windows-1252 where
// it is no UTF-8. Everything inside the program is UTF-8, so that it can always be shown, kept and exported.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace bathmos::io {

enum class Encoding { Utf8, Utf16Little, Utf16Big, Windows1252 };

/// By the first bytes of a file: its mark, else zeros in every other byte (UTF-16), else whether they are
/// UTF-8. A character cut off at the end of the sample does not count.
Encoding encoding_of(std::string_view sample);
/// In words: "UTF-16, low byte first".
std::string_view name_of(Encoding encoding);

/// Whether every byte belongs to a whole UTF-8 character.
bool is_utf8(std::string_view text);

/// The text in UTF-8, without its mark. What stands for no character becomes U+FFFD.
std::string to_utf8(std::string_view bytes, Encoding encoding);
/// The same by its own bytes.
std::string to_utf8(std::string_view bytes);

/// A path or file name to show or keep: UTF-8 whatever its bytes are.
std::string shown_path(const std::filesystem::path& path);

/// The text without bytes that steer a terminal: each control character but tab and line feed becomes '?'.
std::string printable(std::string_view text);

} // namespace bathmos::io
