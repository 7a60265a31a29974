// A part of the window as a page of PDF.
#pragma once

#include <QString>

class QWidget;

namespace bathmos::app {

/// One A4 page, landscape: title, a line of words, and the widget as it stands on screen. False where the
/// file cannot be written.
bool write_page_pdf(const QString& path, QWidget& widget, const QString& title, const QString& words);

} // namespace bathmos::app
