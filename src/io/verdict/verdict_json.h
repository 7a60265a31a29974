// A verdict, and a study of changes, as JSON (bathmos-cli diagnose).
#pragma once

#include "core/verdict/changes.h"
#include "core/verdict/verdict.h"

#include <string>

namespace bathmos::io {

/// Keys as docs/format.md names them; with `study`, "would_help" and "combinations" too.
std::string verdict_json(const CaseFile& file, const Verdict& verdict, const ChangeStudy* study = nullptr);

} // namespace bathmos::io
