// Trains and their sections as JSON (formats.md), for train files and for the records of a project.
#pragma once

#include "core/train/train.h"
#include "io/train/object_reader.h"

namespace bathmos::io {

/// The whole file's content. Numbers carry at most 12 digits.
Json train_json(const Train& train);

/// Throws InputError for a missing, unknown or impossible number; parts may still contradict each other
/// (check_train).
Train train_from_json(const Json& json);

/// Reads one section of a train file ("pushrod", "springs" ...) that stands in `owner`. `train` must have its
/// layout. Throws InputError.
void read_section(ObjectReader& owner, const std::string& section, Train& train);
/// Reads the key "tolerances" of `owner`, if it is there; the numbers it names must have been read.
void read_tolerances(ObjectReader& owner, Train& train);

/// A number as it is written: at most 12 digits, whole numbers without a point.
Json number_json(double value);

} // namespace bathmos::io
