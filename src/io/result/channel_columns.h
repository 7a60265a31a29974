// The recorded channels of a motion as columns of files.
#pragma once

#include "core/dynamics/lanes.h"

#include <string_view>
#include <vector>

namespace bathmos::io {

struct ChannelColumn {
    Channel channel;
    std::string_view name; ///< unit in the name
    double to_unit;
};
const std::vector<ChannelColumn>& channel_columns();

} // namespace bathmos::io
