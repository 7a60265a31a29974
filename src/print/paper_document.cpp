#include "print/paper_document.h"

#include "io/paper/chart_svg.h"

#include <QAbstractTextDocumentLayout>
#include <QPaintDevice>
#include <QPainter>
#include <QSvgRenderer>
#include <QTextDocument>
#include <QTextImageFormat>

namespace bathmos::print {

ChartPainter::ChartPainter(const std::vector<std::string>& charts, QObject* parent) : QObject(parent) {
    for (const std::string& chart : charts)
        charts_.push_back(std::make_unique<QSvgRenderer>(QByteArray::fromStdString(chart)));
}

ChartPainter::~ChartPainter() = default;

QSizeF ChartPainter::intrinsicSize(QTextDocument* document, int, const QTextFormat& format) {
    const QTextImageFormat image = format.toImageFormat();
    const QPaintDevice* device = document->documentLayout()->paintDevice();
    const double pixel = device ? device->logicalDpiX() / 96.0 : 1;
    return QSizeF(image.width(), image.height()) * pixel;
}

void ChartPainter::drawObject(QPainter* painter, const QRectF& place, QTextDocument*, int,
                              const QTextFormat& format) {
    const QString name = format.toImageFormat().name();
    bool fine = false;
    const auto number = static_cast<std::size_t>(name.section(QLatin1Char(':'), 1).toUInt(&fine));
    if (fine && number < charts_.size())
        charts_[number]->render(painter, place);
}

std::unique_ptr<QTextDocument> document_of(const io::PrintedPaper& paper) {
    auto out = std::make_unique<QTextDocument>();
    out->setDefaultFont(QFont(QStringLiteral("Inter"), 10));
    out->setHtml(QString::fromStdString(paper.html));
    out->documentLayout()->registerHandler(QTextFormat::ImageObject,
                                           new ChartPainter(paper.charts, out.get()));
    out->markContentsDirty(0, out->characterCount());
    return out;
}

} // namespace bathmos::print
