// In which language the window speaks.
#pragma once

#include "app/settings/settings.h"

class QCoreApplication;

namespace bathmos::app {

/// Lets the window speak the language that was chosen and write numbers with its sign, the toolkit's own
/// words too where its translation is installed. To be asked once, before any window. The language: "en",
/// "de".
QString speak(QCoreApplication& application, const Settings& settings, const QLocale& desktop);

} // namespace bathmos::app
