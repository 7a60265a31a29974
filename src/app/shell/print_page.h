// A view on paper.
#pragma once

#include <QString>

class QPagedPaintDevice;
class QWidget;

namespace bathmos::app {

struct PrintedWords {
    QString title;   ///< what it is of: train, revision
    QString under;   ///< file, limits, day
    QString caution; ///< at the foot
};

/// Draws the view as large as the page has room, its words and curves as such and not as a picture.
/// False where nothing can be drawn there.
bool print_view(QWidget& view, const PrintedWords& words, QPagedPaintDevice& page);

} // namespace bathmos::app
