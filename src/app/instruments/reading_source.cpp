#include "app/instruments/reading_source.h"

#include <algorithm>

namespace bathmos::app {

const InstrumentValue* value_for(const std::vector<InstrumentValue>& values, std::string_view key,
                                 Quantity quantity) {
    const auto at = std::ranges::find_if(values, [&](const InstrumentValue& one) {
        const auto& feeds = one.channel.feeds;
        return one.channel.quantity == quantity &&
               (feeds.empty() || std::ranges::find(feeds, key) != feeds.end());
    });
    return at == values.end() ? nullptr : &*at;
}

} // namespace bathmos::app
