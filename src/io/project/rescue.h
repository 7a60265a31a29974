// What can still be read of a damaged project.
#pragma once

#include <filesystem>
#include <stop_token>
#include <string>
#include <vector>

namespace bathmos::io {

struct RescueReport {
    std::size_t records = 0, traces = 0;
    std::vector<std::string> lost; ///< in words: "revision 12: its text is damaged"
};

/// Copies every record and trace that can be read into a new project `to`; references to what is lost are
/// mended or taken out, and told. The damaged file is left as it is. Throws InputError when nothing at all
/// can be read, or `to` cannot be made.
/// Throws Stopped, and then leaves no `to`.
RescueReport rescue(const std::filesystem::path& damaged, const std::filesystem::path& to,
                    const std::stop_token& stop = {});

} // namespace bathmos::io
