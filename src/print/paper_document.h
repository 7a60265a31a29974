// A paper as Qt's text document: to look at in the window, and to print.
#pragma once

#include "io/paper/printed_paper.h"

#include <QObject>
#include <QTextObjectInterface>
#include <memory>
#include <vector>

class QSvgRenderer;
class QTextDocument;

namespace bathmos::print {

/// Draws the charts of a document as lines, not as pixels, at any resolution.
class ChartPainter : public QObject, public QTextObjectInterface {
    Q_OBJECT
    Q_INTERFACES(QTextObjectInterface)
  public:
    explicit ChartPainter(const std::vector<std::string>& charts, QObject* parent = nullptr);
    ~ChartPainter() override;
    QSizeF intrinsicSize(QTextDocument* document, int position, const QTextFormat& format) override;
    void drawObject(QPainter* painter, const QRectF& place, QTextDocument* document, int position,
                    const QTextFormat& format) override;

  private:
    std::vector<std::unique_ptr<QSvgRenderer>> charts_;
};

/// The document of a paper; its charts are drawn by a painter that belongs to it.
std::unique_ptr<QTextDocument> document_of(const io::PrintedPaper& paper);

} // namespace bathmos::print
