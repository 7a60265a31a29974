#include "app/plot/map_plot.h"
#include "app/text/words.h"

#include <QKeyEvent>
#include <cmath>
#include <limits>
#include <qcustomplot.h>

namespace bathmos::app {

MapPlot::MapPlot(Theme& theme, const QString& name, QWidget* parent)
    : Plot(theme, name, parent), theme_(theme) {
    map_ = new QCPColorMap(canvas()->xAxis, canvas()->yAxis);
    map_->setInterpolate(false);
    map_->setTightBoundary(true);
    scale_ = new QCPColorScale(canvas());
    canvas()->plotLayout()->addElement(0, 1, scale_);
    scale_->setType(QCPAxis::atRight);
    scale_->setBarWidth(10);
    map_->setColorScale(scale_);
    auto* group = new QCPMarginGroup(canvas());
    canvas()->axisRect()->setMarginGroup(QCP::msBottom | QCP::msTop, group);
    scale_->setMarginGroup(QCP::msBottom | QCP::msTop, group);
    speed_line_ = new QCPItemStraightLine(canvas());
    speed_line_->setLayer(QStringLiteral("cursor"));
    restyle();
}

void MapPlot::set_speed(double speed) {
    speed_ = speed;
    speed_line_->point1->setCoords(0, speed);
    speed_line_->point2->setCoords(1, speed);
    draw_cursors();
}

void MapPlot::place_cursor(double x, double y) {
    emit speed_moved(y);
    emit cursor_moved(x);
}

void MapPlot::keyPressEvent(QKeyEvent* event) {
    const double step = event->modifiers() & Qt::ShiftModifier ? 100 : 10;
    if (event->key() == Qt::Key_Up)
        emit speed_moved(speed_ + step);
    else if (event->key() == Qt::Key_Down)
        emit speed_moved(speed_ - step);
    else
        Plot::keyPressEvent(event);
}

// Below zero (valve behind the kinematic motion) towards its colour, above zero (loft) towards the measured
// colour; zero is the panel.
void MapPlot::restyle() {
    Plot::restyle();
    if (!map_)
        return;
    QCPColorGradient gradient;
    gradient.clearColorStops();
    gradient.setColorStopAt(0, theme_.color(Role::Predicted));
    gradient.setColorStopAt(0.5, theme_.color(Role::Panel));
    gradient.setColorStopAt(1, theme_.color(Role::Measured));
    gradient.setNanHandling(QCPColorGradient::nhTransparent);
    map_->setGradient(gradient);
    speed_line_->setPen(QPen(theme_.color(Role::Ink), 1, Qt::DotLine));
    scale_->axis()->setTickLabelColor(theme_.color(Role::Ink));
    scale_->axis()->setLabelColor(theme_.color(Role::Ink));
    scale_->axis()->setTickLabelFont(Theme::number_font(12));
    scale_->axis()->setLabelFont(Theme::text_font(12));
    scale_->axis()->setBasePen(QPen(theme_.color(Role::Faint)));
    scale_->axis()->setTickPen(QPen(theme_.color(Role::Faint)));
}

void MapPlot::set_values(double speed_low, double speed_high, double angle_low, double angle_high,
                         const QVector<QVector<double>>& rows) {
    if (rows.isEmpty()) {
        map_->data()->clear();
        canvas()->replot(QCustomPlot::rpQueuedReplot);
        return;
    }
    const auto columns = rows.front().size();
    auto* cells = new QCPColorMapData(static_cast<int>(columns), static_cast<int>(rows.size()),
                                      QCPRange(angle_low, angle_high), QCPRange(speed_low, speed_high));
    double most = 1e-9;
    for (int y = 0; y < rows.size(); ++y)
        for (int x = 0; x < columns; ++x) {
            const double value = x < rows[y].size() ? rows[y][x] : std::numeric_limits<double>::quiet_NaN();
            cells->setCell(x, y, value);
            if (std::isfinite(value))
                most = std::max(most, std::abs(value));
        }
    map_->setData(cells);
    map_->setDataRange(QCPRange(-most, most));
    redraw();
}

void MapPlot::set_scale_label(const QString& label) {
    label_ = label;
    scale_->axis()->setLabel(label);
}

double MapPlot::value_at(double angle, double speed) const {
    QCPColorMapData* cells = map_->data();
    if (cells->isEmpty() || !cells->keyRange().contains(angle) || !cells->valueRange().contains(speed))
        return std::numeric_limits<double>::quiet_NaN();
    return cells->data(angle, speed);
}

QString MapPlot::reading(double x, double y) const {
    return tr("%1° crank, %2 rev/min\n%3  %4")
        .arg(fixed(x, 1), fixed(y, 0), label_, digits(value_at(x, y), 3));
}

} // namespace bathmos::app
