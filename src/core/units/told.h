// Something that a person should be told, with the short name of the rule that found it.
#pragma once

#include "core/units/measured_text.h"

#include <string>

namespace bathmos {

struct Told {
    std::string rule;
    MeasuredText text;
};

} // namespace bathmos
