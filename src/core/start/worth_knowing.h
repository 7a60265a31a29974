// Which of the numbers that nobody has measured is worth measuring first.
#pragma once

#include "core/uncertainty/limit_uncertainty.h"

#include <string>
#include <string_view>
#include <vector>

namespace bathmos {

/// One thing to do at the bench, for all the numbers that it tells.
struct WorthKnowing {
    std::string_view act; ///< "weigh the valve"
    std::vector<std::string> keys;
    double share = 0;     ///< of the variance of the limit, for all its numbers
    double width_rpm = 0; ///< of the band from 10 to 90 % once it is done
};

/// What the limit's variance over the drawn trains owes to each number that was assumed, or is estimated in
/// every train, whatever the shape of that: the correlation ratio over five groups of equal size [Pearson
/// 1905], freed of chance. Largest share first; less than 4 % is left out. The band narrows by the square
/// root of what is left of the variance. Empty where the band is open or fewer than 40 trains have a limit.
std::vector<WorthKnowing> worth_knowing(const LimitUncertainty& drawn);

} // namespace bathmos
