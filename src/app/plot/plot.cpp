#include "app/plot/plot.h"

#include "app/plot/plot_face.h"
#include "app/text/words.h"

#include <QAccessible>
#include <QApplication>
#include <QClipboard>
#include <QFile>
#include <QFileDialog>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QRubberBand>
#include <QSvgGenerator>
#include <QToolTip>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <qcustomplot.h>

namespace bathmos::app {

namespace {
constexpr int kGrab_px = 6, kDrag_px = 6;
constexpr double kWheelZoom = 0.85;

Qt::PenStyle style_of(Stroke stroke) {
    return stroke == Stroke::Dashed ? Qt::DashLine : Qt::SolidLine;
}
} // namespace

Plot::Plot(Theme& theme, const QString& name, QWidget* parent)
    : QWidget(parent), theme_(theme), name_(name), canvas_(new QCustomPlot(this)),
      band_(new QRubberBand(QRubberBand::Rectangle, canvas_)) {
    give_plots_a_face();
    setObjectName(name);
    setAccessibleName(name);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(160, 90);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(canvas_);
    canvas_->setFocusPolicy(Qt::NoFocus);
    canvas_->setMouseTracking(true);
    canvas_->installEventFilter(this);
    canvas_->setPlottingHint(QCP::phFastPolylines);
    if (QLocale().decimalPoint() == QStringLiteral(","))
        canvas_->setLocale(QLocale()); // numbers at the axes
    canvas_->axisRect()->setupFullAxesBox();
    canvas_->axisRect()->setMinimumMargins(QMargins(66, 2, 14, 24));
    canvas_->addLayer(QStringLiteral("cursor"), canvas_->layer(QStringLiteral("overlay")),
                      QCustomPlot::limBelow);
    canvas_->layer(QStringLiteral("cursor"))->setMode(QCPLayer::lmBuffered);
    cursor_line_ = new QCPItemStraightLine(canvas_);
    cursor_line_->setLayer(QStringLiteral("cursor"));
    cursor_line_->setVisible(false); // until somebody places it
    note_ = new QCPItemText(canvas_);
    note_->setLayer(QStringLiteral("overlay"));
    note_->position->setType(QCPItemPosition::ptAxisRectRatio);
    note_->position->setCoords(0.01, 0.02);
    note_->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    note_->setVisible(false);
    connect(&theme_, &Theme::changed, this, [this] { restyle(); });
    restyle();
}

Plot::~Plot() = default;

void Plot::restyle() {
    const QPen rule(theme_.color(Role::Rule), 1), ink(theme_.color(Role::Faint), 1);
    canvas_->setBackground(theme_.color(Role::Panel));
    for (QCPAxis* axis : {canvas_->xAxis, canvas_->yAxis, canvas_->xAxis2, canvas_->yAxis2}) {
        axis->setBasePen(ink);
        axis->setTickPen(ink);
        axis->setSubTickPen(ink);
        axis->setTickLabelColor(theme_.color(Role::Ink));
        axis->setLabelColor(theme_.color(Role::Ink));
        axis->setTickLabelFont(Theme::number_font(12));
        axis->setLabelFont(Theme::text_font(12));
        axis->grid()->setPen(rule);
        axis->grid()->setZeroLinePen(rule);
        axis->setSubTicks(false);
    }
    canvas_->legend->setFont(Theme::text_font(12));
    canvas_->legend->setTextColor(theme_.color(Role::Ink));
    QColor back = theme_.color(Role::Panel);
    back.setAlpha(200);
    canvas_->legend->setBrush(Qt::NoBrush);
    cursor_line_->setPen(QPen(theme_.color(Role::Ink), 1, Qt::DotLine));
    note_->setFont(Theme::text_font(12, true));
    note_->setColor(theme_.color(Role::LimitMark));
    note_->setBrush(back);
    for (const Curve& curve : curves_)
        style_curve(curve);
    const QColor bundle = bundle_faded_ ? theme_.faded(bundle_role_) : theme_.color(bundle_role_);
    for (QCPGraph* graph : bundle_)
        graph->setPen(QPen(bundle, 1));
    draw_limits();
    canvas_->replot(QCustomPlot::rpQueuedReplot);
}

void Plot::style_curve(const Curve& curve) {
    const QColor color = curve.faded ? theme_.faded(curve.role) : theme_.color(curve.role);
    curve.graph->setPen(QPen(color, curve.stroke == Stroke::Solid ? 1.6 : 1.2, style_of(curve.stroke)));
    curve.graph->setLineStyle(curve.stroke == Stroke::Points ? QCPGraph::lsNone : QCPGraph::lsLine);
    if (curve.stroke == Stroke::Dots || curve.stroke == Stroke::Points)
        curve.graph->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, color, color, 5));
}

void Plot::set_axes(const QString& x_label, const QString& y_label) {
    x_label_ = x_label;
    y_label_ = y_label;
    canvas_->xAxis->setLabel(x_label);
    canvas_->yAxis->setLabel(y_label);
}

// The legend stands in a row of its own above the axes, where it cannot hide a curve.
void Plot::make_legend() {
    QCPLayoutGrid* grid = canvas_->plotLayout();
    grid->insertRow(0);
    grid->addElement(0, 0, canvas_->legend);
    grid->setRowStretchFactor(0, 0.001);
    grid->setRowSpacing(0);
    canvas_->legend->setFillOrder(QCPLegend::foColumnsFirst);
    canvas_->legend->setMargins(QMargins(66, 2, 0, 0));
    canvas_->legend->setBorderPen(Qt::NoPen);
    canvas_->legend->setVisible(true);
}

int Plot::add_curve(const QString& name, Role role, Stroke stroke) {
    if (curves_.isEmpty())
        make_legend();
    QCPGraph* graph = canvas_->addGraph();
    graph->setName(name);
    curves_.push_back({graph, role, stroke, false});
    style_curve(curves_.back());
    return static_cast<int>(curves_.size()) - 1;
}

void Plot::set_curve(int curve, const QVector<double>& x, const QVector<double>& y, bool faded) {
    Curve& c = curves_[curve];
    c.graph->setData(x, y, true);
    if (!x.isEmpty() && !c.graph->name().isEmpty())
        c.graph->addToLegend();
    else
        c.graph->removeFromLegend();
    if (c.faded != faded) {
        c.faded = faded;
        style_curve(c);
    }
}

void Plot::restyle_curve(int curve, const QString& name, Role role, Stroke stroke) {
    Curve& c = curves_[curve];
    c.graph->setName(name);
    c.role = role;
    c.stroke = stroke;
    style_curve(c);
}

void Plot::set_dot_every(int curve, int n) {
    curves_[curve].graph->setScatterSkip(n - 1);
}

void Plot::clear_curve(int curve) {
    set_curve(curve, {}, {});
}

void Plot::set_bundle(const QVector<double>& x, const QVector<QVector<double>>& ys, Role role, bool faded) {
    while (bundle_.size() > ys.size())
        canvas_->removeGraph(bundle_.takeLast());
    while (bundle_.size() < ys.size()) {
        QCPGraph* graph = canvas_->addGraph();
        graph->removeFromLegend();
        graph->setLayer(QStringLiteral("grid")); // what has a name is drawn over it
        bundle_.push_back(graph);
    }
    bundle_role_ = role;
    bundle_faded_ = faded;
    for (int i = 0; i < ys.size(); ++i) {
        bundle_[i]->setPen(QPen(faded ? theme_.faded(role) : theme_.color(role), 1));
        bundle_[i]->setData(x, ys[i], true);
    }
}

void Plot::set_limits(const Limits& limits) {
    limits_ = limits;
    draw_limits();
}

void Plot::draw_limits() {
    for (int i = canvas_->itemCount() - 1; i >= 0; --i)
        if (canvas_->item(i)->objectName() == QLatin1String("limit") ||
            canvas_->item(i)->objectName() == QLatin1String("mark"))
            canvas_->removeItem(i);
    const QColor color = theme_.color(Role::LimitMark);
    const auto hatch = [&](double from,
                           double to) { // a band of 3 % of the view, hatched, on the forbidden side
        auto* area = new QCPItemRect(canvas_);
        area->setObjectName(QStringLiteral("limit"));
        area->setLayer(QStringLiteral("grid"));
        area->topLeft->setTypeX(QCPItemPosition::ptAxisRectRatio);
        area->bottomRight->setTypeX(QCPItemPosition::ptAxisRectRatio);
        area->topLeft->setCoords(0, to);
        area->bottomRight->setCoords(1, from);
        area->setPen(Qt::NoPen);
        area->setBrush(QBrush(color, Qt::BDiagPattern));
        auto* edge = new QCPItemStraightLine(canvas_);
        edge->setObjectName(QStringLiteral("limit"));
        edge->setLayer(QStringLiteral("grid"));
        edge->point1->setCoords(0, from);
        edge->point2->setCoords(1, from);
        edge->setPen(QPen(color, 1));
    };
    const double view = canvas_->yAxis->range().size();
    if (limits_.above)
        hatch(*limits_.above, *limits_.above + 0.03 * view);
    if (limits_.below)
        hatch(*limits_.below, *limits_.below - 0.03 * view);
    int row = 0;
    for (const Mark& mark : marks_) {
        auto* line = new QCPItemStraightLine(canvas_);
        line->setObjectName(QStringLiteral("mark"));
        line->point1->setCoords(mark.x, 0);
        line->point2->setCoords(mark.x, 1);
        line->setPen(QPen(theme_.color(mark.role), 1, Qt::DashDotLine));
        auto* text = new QCPItemText(canvas_);
        text->setObjectName(QStringLiteral("mark"));
        text->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
        const double step = 0.09 * row++;
        text->position->setCoords(mark.x, mark_words_ == MarkWords::Top ? 0.10 + step : 0.90 - step);
        text->setPositionAlignment(Qt::AlignRight | Qt::AlignTop);
        text->setText(mark.text + QChar(0x2009));
        text->setFont(Theme::text_font(12));
        text->setColor(theme_.color(mark.role));
    }
}

void Plot::set_marks(const QVector<Mark>& marks, MarkWords words) {
    marks_ = marks;
    mark_words_ = words;
    draw_limits();
}

void Plot::set_cursor(double x) {
    cursor_ = x;
    cursor_line_->setVisible(true);
    cursor_line_->point1->setCoords(x, 0);
    cursor_line_->point2->setCoords(x, 1);
    if (hasFocus() && QAccessible::isActive()) {
        QAccessibleEvent moved(this, QAccessible::DescriptionChanged);
        QAccessible::updateAccessibility(&moved);
    }
    draw_cursors();
}

// The layer has a buffer of its own: far cheaper than a whole redraw.
void Plot::draw_cursors() {
    cursors_old_ = !isVisible();
    if (!cursors_old_)
        canvas_->layer(QStringLiteral("cursor"))->replot();
}

void Plot::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (cursors_old_)
        draw_cursors();
}

void Plot::set_note(const QString& note) {
    note_text_ = note;
    note_->setText(note);
    note_->setVisible(!note.isEmpty());
}

void Plot::set_x_range(double low, double high) {
    x_range_ = {low, high};
}
void Plot::set_y_at_least(double low, double high) {
    y_at_least_ = {low, high};
}

void Plot::fit() {
    zoomed_ = false;
    canvas_->rescaleAxes(true);
    if (x_range_)
        canvas_->xAxis->setRange(x_range_->first, x_range_->second);
    QCPRange y = canvas_->yAxis->range();
    if (y_at_least_) {
        y.lower = std::min(y.lower, y_at_least_->first);
        y.upper = std::max(y.upper, y_at_least_->second);
    }
    const double room = 0.06 * std::max(y.size(), 1e-9);
    canvas_->yAxis->setRange(y.lower - room, y.upper + room);
    draw_limits();
    canvas_->replot(QCustomPlot::rpQueuedReplot);
}

void Plot::redraw() {
    if (!zoomed_)
        fit();
    else
        canvas_->replot(QCustomPlot::rpQueuedReplot);
}

void Plot::draw_now() {
    canvas_->replot(QCustomPlot::rpImmediateRefresh);
}

QVector<QPointF> Plot::points(int curve) const {
    QVector<QPointF> out;
    for (const QCPGraphData& point : *curves_[curve].graph->data())
        out.push_back({point.key, point.value});
    return out;
}

bool Plot::is_faded(int curve) const {
    return curves_[curve].faded;
}

QString Plot::table() const {
    QString out = x_label_;
    QVector<double> keys;
    for (const Curve& curve : curves_) {
        if (curve.graph->data()->isEmpty())
            continue;
        out += QLatin1Char('\t') + curve.graph->name() + QStringLiteral(" (") + y_label_ + QLatin1Char(')');
        for (const QCPGraphData& point : *curve.graph->data())
            keys.push_back(point.key);
    }
    std::sort(keys.begin(), keys.end());
    keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    for (double key : keys) {
        out += QLatin1Char('\n') + digits(key, 8);
        for (const Curve& curve : curves_) {
            if (curve.graph->data()->isEmpty())
                continue;
            const auto found = curve.graph->data()->findBegin(key, false);
            const bool here = found != curve.graph->data()->constEnd() && found->key == key;
            out += QLatin1Char('\t') +
                   (here && std::isfinite(found->value) ? digits(found->value, 8) : QString());
        }
    }
    return out + QLatin1Char('\n');
}

bool Plot::export_to(const QString& path) const {
    if (path.endsWith(QLatin1String(".csv"))) {
        QFile file(path);
        const QByteArray text = table().replace(QLatin1Char('\t'), QLatin1Char(',')).toUtf8();
        return file.open(QIODevice::WriteOnly) && file.write(text) == text.size();
    }
    if (path.endsWith(QLatin1String(".svg"))) {
        QSvgGenerator svg;
        svg.setFileName(path);
        svg.setSize(canvas_->size());
        svg.setViewBox(canvas_->rect());
        svg.setTitle(name_);
        QCPPainter painter;
        if (!painter.begin(&svg))
            return false;
        painter.setMode(QCPPainter::pmVectorized);
        canvas_->toPainter(&painter, canvas_->width(), canvas_->height());
        return painter.end();
    }
    if (path.endsWith(QLatin1String(".pdf")))
        return canvas_->savePdf(path);
    return canvas_->savePng(path, 0, 0, 2);
}

QPointF Plot::pixel_of(double x, double y) const {
    return canvas_->mapTo(this, QPoint(static_cast<int>(std::lround(canvas_->xAxis->coordToPixel(x))),
                                       static_cast<int>(std::lround(canvas_->yAxis->coordToPixel(y)))));
}

QString Plot::spoken() const {
    const double middle = canvas_->yAxis->range().center();
    QString text = cursor_line_->visible() ? reading(cursor_, middle) : tr("no cursor in %1").arg(x_label_);
    if (!note_text_.isEmpty())
        text += QLatin1Char('\n') + note_text_;
    return text.replace(QLatin1Char('\n'), QStringLiteral("; "));
}

QString Plot::reading(double x, double y) const {
    QString text = QStringLiteral("%1  %2").arg(x_label_, fixed(x, 1));
    bool any = false;
    for (const Curve& curve : curves_) {
        const auto shown = curve.graph->data();
        if (shown->isEmpty() || x < shown->constBegin()->key || x > (shown->constEnd() - 1)->key)
            continue;
        auto after = shown->findBegin(x, false);
        if (after == shown->constEnd())
            continue;
        const auto before = after == shown->constBegin() ? after : after - 1;
        const double span = after->key - before->key;
        const double share = span > 0 ? (x - before->key) / span : 0;
        const double value = before->value + share * (after->value - before->value);
        text += QStringLiteral("\n%1  %2").arg(curve.graph->name(), digits(value, 4));
        any = true;
    }
    return any ? text : text + QStringLiteral("\n%1  %2").arg(y_label_, digits(y, 4));
}

bool Plot::eventFilter(QObject* watched, QEvent* event) {
    if (watched != canvas_)
        return QWidget::eventFilter(watched, event);
    switch (event->type()) {
    case QEvent::MouseButtonPress:
        if (auto* mouse = static_cast<QMouseEvent*>(event); mouse->button() == Qt::LeftButton) {
            setFocus(Qt::MouseFocusReason);
            press(mouse->pos());
            return true;
        }
        break;
    case QEvent::MouseMove: {
        auto* mouse = static_cast<QMouseEvent*>(event);
        move(mouse->pos(), mouse->buttons() & Qt::LeftButton);
        return true;
    }
    case QEvent::MouseButtonRelease:
        if (auto* mouse = static_cast<QMouseEvent*>(event); mouse->button() == Qt::LeftButton) {
            release(mouse->pos());
            return true;
        }
        break;
    case QEvent::MouseButtonDblClick:
        drag_ = Drag::None;
        fit();
        return true;
    case QEvent::Wheel: {
        auto* turned = static_cast<QWheelEvent*>(event);
        wheel(turned->position().toPoint(), turned->angleDelta().y() / 120.0);
        return true;
    }
    case QEvent::ContextMenu:
        show_menu(static_cast<QContextMenuEvent*>(event)->globalPos());
        return true;
    default:
        break;
    }
    return QWidget::eventFilter(watched, event);
}

void Plot::press(const QPoint& at) {
    pressed_at_ = at;
    const double line = canvas_->xAxis->coordToPixel(cursor_);
    drag_ = std::abs(at.x() - line) <= kGrab_px ? Drag::Cursor : Drag::None;
}

void Plot::move(const QPoint& at, bool pressed) {
    if (!pressed) {
        const bool inside = canvas_->axisRect()->rect().contains(at);
        const double line = canvas_->xAxis->coordToPixel(cursor_);
        canvas_->setCursor(inside && std::abs(at.x() - line) <= kGrab_px ? Qt::SizeHorCursor
                                                                         : Qt::CrossCursor);
        if (inside)
            QToolTip::showText(
                canvas_->mapToGlobal(at + QPoint(14, 10)),
                reading(canvas_->xAxis->pixelToCoord(at.x()), canvas_->yAxis->pixelToCoord(at.y())), canvas_);
        return;
    }
    if (drag_ == Drag::Cursor)
        return place_at(at);
    if ((at - pressed_at_).manhattanLength() < kDrag_px)
        return;
    drag_ = Drag::Zoom;
    band_->setGeometry(QRect(pressed_at_, at).normalized());
    band_->show();
}

void Plot::release(const QPoint& at) {
    band_->hide();
    if (drag_ == Drag::Zoom)
        zoom_to(QRect(pressed_at_, at).normalized());
    else
        place_at(at);
    drag_ = Drag::None;
}

void Plot::place_at(const QPoint& at) {
    const QCPRange x = canvas_->xAxis->range(), y = canvas_->yAxis->range();
    place_cursor(std::clamp(canvas_->xAxis->pixelToCoord(at.x()), x.lower, x.upper),
                 std::clamp(canvas_->yAxis->pixelToCoord(at.y()), y.lower, y.upper));
}

void Plot::place_cursor(double x, double) {
    emit cursor_moved(x);
}

void Plot::zoom_to(const QRect& area) {
    zoomed_ = true;
    if (area.width() >= kDrag_px)
        canvas_->xAxis->setRange(canvas_->xAxis->pixelToCoord(area.left()),
                                 canvas_->xAxis->pixelToCoord(area.right()));
    if (area.height() >= kDrag_px)
        canvas_->yAxis->setRange(canvas_->yAxis->pixelToCoord(area.bottom()),
                                 canvas_->yAxis->pixelToCoord(area.top()));
    draw_limits();
    canvas_->replot(QCustomPlot::rpQueuedReplot);
}

void Plot::wheel(const QPoint& at, double turns) {
    zoomed_ = true;
    const double factor = std::pow(kWheelZoom, turns);
    canvas_->xAxis->scaleRange(factor, canvas_->xAxis->pixelToCoord(at.x()));
    canvas_->yAxis->scaleRange(factor, canvas_->yAxis->pixelToCoord(at.y()));
    draw_limits();
    canvas_->replot(QCustomPlot::rpQueuedReplot);
}

void Plot::keyPressEvent(QKeyEvent* event) {
    const double step = cursor_step_ * (event->modifiers() & Qt::ShiftModifier ? 10 : 1);
    switch (event->key()) {
    case Qt::Key_Left:
        emit cursor_moved(cursor_ - step);
        return;
    case Qt::Key_Right:
        emit cursor_moved(cursor_ + step);
        return;
    case Qt::Key_Home:
        fit();
        return;
    case Qt::Key_Plus:
    case Qt::Key_Minus: {
        const QPoint middle = canvas_->axisRect()->rect().center();
        wheel(middle, event->key() == Qt::Key_Plus ? 1 : -1);
        return;
    }
    case Qt::Key_C:
        if (event->modifiers() & Qt::ControlModifier) {
            QApplication::clipboard()->setText(table());
            return;
        }
        break;
    case Qt::Key_Menu:
        show_menu(mapToGlobal(rect().center()));
        return;
    default:
        break;
    }
    QWidget::keyPressEvent(event);
}

void Plot::show_menu(const QPoint& at) {
    QMenu menu;
    menu.addAction(tr("Fit"), this, &Plot::fit);
    menu.addAction(tr("Copy numbers"), this, [this] { QApplication::clipboard()->setText(table()); });
    menu.addAction(tr("Save picture or numbers…"), this, [this] {
        const QString path =
            QFileDialog::getSaveFileName(this, tr("Save %1").arg(name_), name_ + QStringLiteral(".png"),
                                         tr("PNG (*.png);;SVG (*.svg);;PDF (*.pdf);;Numbers (*.csv)"));
        if (!path.isEmpty() && !export_to(path))
            QToolTip::showText(mapToGlobal(QPoint(20, 20)),
                               tr("%1 could not be written: check folder and disk").arg(path));
    });
    menu.exec(at);
}

} // namespace bathmos::app
