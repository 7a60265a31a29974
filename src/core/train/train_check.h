// Whether a train can be computed at all: ranges of each number, and parts that contradict each other.
#pragma once

#include "core/problem/input_error.h"
#include "core/train/train.h"

#include <vector>

namespace bathmos {

/// Every problem of a train, each with the key as location; empty when it can be computed. Only impossible
/// values count: what is merely unwise is a finding (train_figures.h).
std::vector<InputProblem> check_train(const Train& train);

/// Throws InputError with the first problem.
void require_valid(const Train& train);

} // namespace bathmos
