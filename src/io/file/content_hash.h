// What a content is called by itself.
#pragma once

#include <string>
#include <string_view>

namespace bathmos::io {

/// 128 bits (XXH3) of bytes, as hexadecimal: two contents with the same hash are the same content, unless
/// somebody means harm.
std::string content_hash(std::string_view bytes);

} // namespace bathmos::io
