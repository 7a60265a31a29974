// A paper as PDF.
#pragma once

#include "io/paper/printed_paper.h"

#include <filesystem>

namespace bathmos::print {

/// A4 upright with page numbers, written whole or not at all. The same paper makes the same bytes, its date
/// among them: the clock of the machine is not asked. Wants a QGuiApplication and load_fonts(). Throws
/// InputError (source = path).
void write_paper_pdf(const std::filesystem::path& path, const io::PrintedPaper& paper);

} // namespace bathmos::print
