#include "app/shell/print_page.h"

#include "app/plot/plot.h"
#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QPaintDevice>
#include <QPainter>
#include <QWidget>
#include <algorithm>

namespace bathmos::app {

namespace {
constexpr double kLine = 1.0 / 45; // of the page's width
}

namespace {
bool draw_page(QWidget& view, const PrintedWords& words, QPaintDevice& page) {
    for (Plot* plot : view.findChildren<Plot*>()) // a look just changed is not drawn yet
        plot->draw_now();
    QPainter painter(&page);
    if (!painter.isActive() || view.width() < 1 || view.height() < 1)
        return false;
    const double wide = page.width(), high = page.height(), line = kLine * wide;
    const auto write = [&](double top, const QString& text, double size, bool strong) {
        painter.setFont(Theme::text_font(std::max(1, static_cast<int>(size * line)), strong));
        painter.drawText(QRectF(0, top, wide, 1.4 * line),
                         Qt::AlignLeft | Qt::AlignVCenter | Qt::TextSingleLine,
                         painter.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(wide)));
    };
    write(0, words.title, 0.8, true);
    write(1.3 * line, words.under, 0.55, false);
    write(high - 1.4 * line, words.caution, 0.55, false);
    const double top = 3 * line, room = high - top - 2 * line;
    const double scale = std::min(wide / view.width(), room / view.height());
    painter.translate((wide - scale * view.width()) / 2, top);
    painter.scale(scale, scale);
    view.render(&painter, {}, {}, QWidget::DrawChildren);
    return painter.end();
}
} // namespace

bool print_view(QWidget& view, Theme& theme, const PrintedWords& words, QPaintDevice& page) {
    const Look look = theme.look();
    theme.set_look(Look::Light);
    QCoreApplication::processEvents(QEventLoop::ExcludeUserInputEvents); // palettes arrive by the queue
    const bool drawn = draw_page(view, words, page);
    theme.set_look(look);
    return drawn;
}

} // namespace bathmos::app
