// Trains drawn at random over all layouts and part kinds, the same for the same number.
#pragma once

#include "core/train/train.h"

namespace bathmos::independent {

struct RandomCase {
    Train train;
    double speed_rpm;
};

/// Case `number` of the series: a train that check_train accepts, and a speed for it.
RandomCase random_case(unsigned number);
/// The same with some of the model's options: camshaft torsion, elastic valve, lash from the loaded rest,
/// drive ripple, scatter of the coils' pitch.
RandomCase random_case_with_options(unsigned number);

} // namespace bathmos::independent
