#include "print/fonts.h"

#include <QFontDatabase>

static void init_fonts() { // the macro wants to stand outside of any namespace
    Q_INIT_RESOURCE(fonts);
}

namespace bathmos::print {

bool load_fonts() {
    init_fonts();
    bool all = true;
    for (const char* name : {"Inter-Regular.otf", "Inter-SemiBold.otf", "JetBrainsMono-Regular.ttf"})
        all = QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/") + QLatin1String(name)) >= 0 && all;
    return all;
}

} // namespace bathmos::print
