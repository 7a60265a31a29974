// A sheet that is being filled in, as the text of a sheet file, and back.
#pragma once

#include "core/bench/sheet_kind.h"

#include <string>
#include <string_view>

namespace bathmos::io {

/// The text of a *.sheet.json with what was filled in; what was not is left out, so that reading it tells
/// what is missing. Throws InputError for a kind that is not there.
std::string draft_text(const bench::SheetDraft& draft);

/// The same back. A sheet that others wrote fills what this program asks for, and leaves the rest. Throws
/// InputError for what is no sheet.
bench::SheetDraft draft_of(std::string_view text);

} // namespace bathmos::io
