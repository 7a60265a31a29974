// A measuring device as somebody described it: where it is, and what its lines say. Remembered by name.
#pragma once

#include "core/instrument/instrument_line.h"

#include <QString>
#include <QStringList>
#include <optional>

namespace bathmos::app {

struct InstrumentSetup {
    QString name;
    bool network = false;
    QString port; ///< serial: its device file
    int baud = 9600;
    QString host = QStringLiteral("127.0.0.1");
    quint16 host_port = 0;
    std::vector<instrument::Channel> channels;
    bool on_its_button = false; ///< each line is a reading, taken as it comes
    QString asks;               ///< sent twice a second to a device that speaks only when asked
    QString after_reading;      ///< sent once a reading was taken
    bool operator==(const InstrumentSetup&) const = default;
};

/// "serial /dev/ttyUSB0" or "127.0.0.1:4001", for a person.
QString place_of(const InstrumentSetup& setup);
/// "" or what is missing, in words.
QString problem_of(const InstrumentSetup& setup);

/// Names of those that were remembered, sorted.
QStringList remembered_instruments();
std::optional<InstrumentSetup> remembered_instrument(const QString& name);
void remember_instrument(const InstrumentSetup& setup);
void forget_instrument(const QString& name);

} // namespace bathmos::app
