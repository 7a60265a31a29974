// The demo's project: shipped beside the program, opened as a copy.
#pragma once

#include <QString>

namespace bathmos::app {

/// The shipped project; "" where the program was installed without it.
QString shipped_demo();

/// A copy of it in a folder of the user's, made where there is none yet. Throws InputError.
QString demo_copy(const QString& shipped, const QString& folder);

} // namespace bathmos::app
