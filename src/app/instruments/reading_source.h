// Where a sheet's readings come from beside the keyboard.
#pragma once

#include "core/instrument/instrument_line.h"

#include <vector>

namespace bathmos::app {

struct InstrumentValue {
    instrument::Channel channel;
    double si = 0;
};

class ReadingSource {
  public:
    virtual ~ReadingSource() = default;
    /// Whether a device is connected at all.
    virtual bool there() const = 0;
    /// What it shows now; empty, and the reason told, where that is nothing to take.
    virtual std::vector<InstrumentValue> read_now() = 0;
    /// A reading of it went into the sheet.
    virtual void was_taken() = 0;
};

/// The first of the values that reads what has this key and quantity; null where none does.
const InstrumentValue* value_for(const std::vector<InstrumentValue>& values, std::string_view key,
                                 Quantity quantity);

} // namespace bathmos::app
