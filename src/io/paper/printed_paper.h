// A paper on its way to the printer: what bathmos-cli hands to bathmos-print.
#pragma once

#include "core/paper/paper.h"

#include <string_view>

namespace bathmos::io {

struct PrintedPaper {
    std::string title;
    std::string date;                ///< 2026-02-27: what the file says of its making
    std::string html;                ///< paper_html_for_printing()
    std::vector<std::string> charts; ///< SVG, in the order of the pictures' names
};
PrintedPaper printed(const paper::Paper& paper, const std::string& date);

/// As JSON {title, date, html, charts}, and back. Back throws InputError; `source` names the file.
std::string printed_text(const PrintedPaper& paper);
PrintedPaper parse_printed(std::string_view text, const std::string& source);

} // namespace bathmos::io
