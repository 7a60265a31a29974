// A view on paper.
#pragma once

#include <QString>

class QPaintDevice;
class QWidget;

namespace bathmos::app {

class Theme;

struct PrintedWords {
    QString title;   ///< what it is of: train, revision
    QString under;   ///< file, limits, day
    QString caution; ///< at the foot
};

/// In the light look, whatever the window's. Draws the view as large as the page has room, its words as such,
/// its plots as they stand on the screen. False where nothing can be drawn there.
bool print_view(QWidget& view, Theme& theme, const PrintedWords& words, QPaintDevice& page);

} // namespace bathmos::app
