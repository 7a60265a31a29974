// Pictures of the main views for the documentation, from whatever is open.
#pragma once

#include <QString>

namespace bathmos::app {

class MainWindow;

/// Waits for the sweep and the rig run, then writes one PNG a view. False if something could not be written
/// or computed.
bool write_shots(MainWindow& window, const QString& folder);

} // namespace bathmos::app
