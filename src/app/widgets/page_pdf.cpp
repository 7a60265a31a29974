#include "app/widgets/page_pdf.h"

#include "app/theme/theme.h"

#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>
#include <QWidget>

namespace bathmos::app {

bool write_page_pdf(const QString& path, QWidget& widget, const QString& title, const QString& words) {
    QSaveFile file(path);
    if (!file.open(QIODevice::WriteOnly))
        return false;
    {
        QPdfWriter writer(&file);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setPageOrientation(QPageLayout::Landscape);
        writer.setTitle(title);
        writer.setResolution(144);
        QPainter painter(&writer);
        if (!painter.isActive())
            return false;
        const QRect page(0, 0, writer.width(), writer.height());
        painter.setFont(Theme::text_font(22, true));
        painter.drawText(page, Qt::AlignLeft | Qt::AlignTop, title);
        painter.setFont(Theme::text_font(16));
        painter.drawText(page.adjusted(0, 36, 0, 0), Qt::AlignLeft | Qt::AlignTop, words);
        const QRect room = page.adjusted(0, 72, 0, 0);
        const double scale =
            std::min(room.width() / double(widget.width()), room.height() / double(widget.height()));
        painter.translate(room.topLeft());
        painter.scale(scale, scale);
        widget.render(&painter);
    }
    return file.commit();
}

} // namespace bathmos::app
