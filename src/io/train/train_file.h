// Train files, *.train.json (formats.md).
#pragma once

#include "core/train/train.h"

#include <filesystem>
#include <string>
#include <string_view>

namespace bathmos::io {

/// Reads and checks a train. Throws InputError naming source, key, what is wrong and what would be right.
Train parse_train(std::string_view text, const std::string& source);
Train read_train(const std::filesystem::path& path);

/// The file's text for a train; parse_train of it gives an equal train. Numbers carry at most 12 digits.
std::string train_text(const Train& train);
void write_train(const std::filesystem::path& path, const Train& train);

} // namespace bathmos::io
