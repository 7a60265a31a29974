// Papers as files: HTML by this program, PDF by bathmos-print, which stands beside it.
#pragma once

#include "core/paper/paper.h"

#include <filesystem>

namespace bathmos::cli {

/// A date as it was asked for, or today's. Throws InputError for what is none.
std::string date_asked(const std::string& asked);

/// Throws InputError for a name that ends neither in .html nor in .pdf: before any work.
void require_paper(const std::filesystem::path& path);

/// Writes *.html or *.pdf whole or not at all. Throws InputError where the folder refuses, or where
/// bathmos-print is not there.
void write_paper(const std::filesystem::path& path, const paper::Paper& paper, const std::string& date);

} // namespace bathmos::cli
