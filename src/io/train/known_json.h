// What is known of a train as a file: {"format": "bathmos-known", "version": 1, ...} (docs/format.md).
#pragma once

#include "core/start/known_train.h"
#include "io/json/json.h"

#include <filesystem>

namespace bathmos::io {

/// Throws InputError (location = key) for what is no such file, or a number that cannot be.
KnownTrain known_from_json(const Json& json);
/// The same, back; numbers carry twelve digits.
Json known_json(const KnownTrain& known);

/// The file. Throws InputError (source = path).
KnownTrain read_known(const std::filesystem::path& path);

} // namespace bathmos::io
