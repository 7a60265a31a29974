// Lists of numbers in a form: one list a column, in the units of the screen.
#pragma once

#include <vector>

namespace bathmos::app {

using Columns = std::vector<std::vector<double>>;

inline std::vector<double> scaled(std::vector<double> values, double factor) {
    for (double& value : values)
        value *= factor;
    return values;
}

} // namespace bathmos::app
