// A sheet that is being filled in, as the text of a sheet file, and back.
#pragma once

#include "core/bench/sheet_kind.h"

#include <string>
#include <string_view>

namespace bathmos::io {

/// The text of a *.sheet.json with what was filled in; what was not is left out, so that reading it tells
/// what is missing. Throws InputError for a kind that is not there.
std::string draft_text(const bench::SheetDraft& draft);

/// The same back, half filled in or whole. A sheet that others wrote fills what this program asks for, and
/// leaves the rest. Throws InputError for what is no sheet; that its readings are right, parse_sheet() tells.
bench::SheetDraft draft_of(std::string_view text);

/// All of a sheet in the making, half typed rows too, as text for a record, SI; and the same back. Throws
/// InputError for what is none.
std::string kept_text(const bench::SheetDraft& draft);
bench::SheetDraft kept_draft(std::string_view text);

} // namespace bathmos::io
