// A paper as one HTML file that needs no other, no script and no network.
#pragma once

#include "core/paper/paper.h"

#include <string_view>

namespace bathmos::io {

/// Text with what HTML takes for its own made harmless.
std::string html_text(std::string_view text);

/// The whole file, pictures in it as SVG; the same paper makes the same bytes.
std::string paper_html(const paper::Paper& paper);

/// The same in the part of HTML that Qt's text documents know; pictures by name, "chart:0", "chart:1".
std::string paper_html_for_printing(const paper::Paper& paper);

} // namespace bathmos::io
