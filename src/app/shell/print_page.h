// A view on paper.
#pragma once

#include <QString>

class QPaintDevice;
class QWidget;

namespace bathmos::app {

struct PrintedWords {
    QString title;   ///< what it is of: train, revision
    QString under;   ///< file, limits, day
    QString caution; ///< at the foot
};

/// Draws the view as large as the page has room, its words as such, its plots as they stand on the screen.
/// False where nothing can be drawn there.
bool print_view(QWidget& view, const PrintedWords& words, QPaintDevice& page);

} // namespace bathmos::app
