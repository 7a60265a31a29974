#include "app/stations/bench/sheet_drawing.h"

#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <map>

namespace bathmos::app {

namespace {

constexpr double kWidth = 460, kHeight = 170; // of the drawing's own places, scaled to the widget
constexpr double kHead = 5;

} // namespace

SheetDrawing::SheetDrawing(const Theme& theme, QWidget* parent) : QWidget(parent), theme_(theme) {
    setObjectName(QStringLiteral("bench_drawing"));
    setAccessibleName(tr("Where the instrument goes"));
    connect(&theme_, &Theme::changed, this, qOverload<>(&QWidget::update));
}

void SheetDrawing::set_kind(const QString& kind) {
    kind_ = kind;
    key_.clear();
    update();
}

void SheetDrawing::point_at(const QString& key) {
    key_ = key;
    update();
}

QPen SheetDrawing::pen(const QStringList& keys) const {
    return set_off(keys) ? QPen(theme_.color(Role::Measured), 2.4) : QPen(theme_.color(Role::Faint), 1.2);
}

void SheetDrawing::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const double scale = std::min(width() / kWidth, height() / kHeight);
    painter.translate((width() - scale * kWidth) / 2, 0);
    painter.scale(scale, scale);
    painter.setFont(Theme::text_font(12));
    using Draw = void (SheetDrawing::*)(QPainter&) const;
    static const std::map<QString, Draw> drawings = {
        {QStringLiteral("height"), &SheetDrawing::draw_height},
        {QStringLiteral("head"), &SheetDrawing::draw_height},
        {QStringLiteral("steps"), &SheetDrawing::draw_steps},
        {QStringLiteral("spring"), &SheetDrawing::draw_spring},
        {QStringLiteral("near_solid"), &SheetDrawing::draw_spring},
        {QStringLiteral("spring_set"), &SheetDrawing::draw_spring},
        {QStringLiteral("ratio"), &SheetDrawing::draw_ratio},
        {QStringLiteral("stiffness"), &SheetDrawing::draw_stiffness},
        {QStringLiteral("compliance"), &SheetDrawing::draw_stiffness},
        {QStringLiteral("rocker_inertia"), &SheetDrawing::draw_swing},
        {QStringLiteral("rocker_scale"), &SheetDrawing::draw_rocker_on_scale},
        {QStringLiteral("weigh"), &SheetDrawing::draw_scale},
        {QStringLiteral("weigh_set"), &SheetDrawing::draw_scale},
        {QStringLiteral("lash"), &SheetDrawing::draw_lash},
        {QStringLiteral("mark"), &SheetDrawing::draw_mark},
        {QStringLiteral("clearance"), &SheetDrawing::draw_clearance},
        {QStringLiteral("contact"), &SheetDrawing::draw_contact},
        {QStringLiteral("degree_wheel"), &SheetDrawing::draw_degree_wheel}};
    if (const auto draw = drawings.find(kind_); draw != drawings.end())
        (this->*draw->second)(painter);
}

void SheetDrawing::arrow(QPainter& painter, QPointF from, QPointF to, const QString& text,
                         const QStringList& keys) const {
    painter.setPen(pen(keys));
    painter.drawLine(from, to);
    const double way = std::atan2(to.y() - from.y(), to.x() - from.x());
    for (const double side : {-0.45, 0.45})
        painter.drawLine(to, to - kHead * 1.6 * QPointF(std::cos(way + side), std::sin(way + side)));
    painter.drawText(from + QPointF(7, 4), text);
}

void SheetDrawing::dimension(QPainter& painter, QPointF from, QPointF to, const QString& text,
                             const QStringList& keys) const {
    painter.setPen(pen(keys));
    painter.drawLine(from, to);
    const QPointF along = to - from;
    const double length = std::hypot(along.x(), along.y());
    const QPointF across = kHead * QPointF(-along.y(), along.x()) / length;
    for (const QPointF end : {from, to})
        painter.drawLine(end - across, end + across);
    const double words = painter.fontMetrics().horizontalAdvance(text);
    if (std::abs(along.y()) > std::abs(along.x()))
        painter.drawText((from + to) / 2 + QPointF(7, 4), text);
    else if (std::abs(along.x()) > words + 8)
        painter.drawText((from + to) / 2 + QPointF(-words / 2, -5), text);
    else
        painter.drawText(QPointF(std::max(from.x(), to.x()) + 7, to.y() + 4), text);
}

void SheetDrawing::coil(QPainter& painter, double x, double top, double bottom, double width) const {
    painter.setPen(QPen(theme_.color(Role::Ink), 2));
    QPainterPath path(QPointF(x - width / 2, top));
    constexpr int kTurns = 5;
    for (int i = 0; i < 2 * kTurns; ++i)
        path.lineTo(x + (i % 2 ? -1 : 1) * width / 2, top + (bottom - top) * (i + 1) / (2 * kTurns));
    painter.drawPath(path);
}

void SheetDrawing::dial(QPainter& painter, QPointF middle, QPointF tip, const QStringList& keys) const {
    painter.setPen(pen(keys));
    painter.drawEllipse(middle, 15, 15);
    painter.drawLine(middle, middle + QPointF(8, -8));
    const QPointF way = tip - middle;
    painter.drawLine(middle + 15 * way / std::hypot(way.x(), way.y()), tip);
}

// Left the retainer cut open with ball and depths, right the spring between seat and retainer.
void SheetDrawing::draw_height(QPainter& painter) const {
    const QPen line(theme_.color(Role::Ink), 1.6);
    painter.setPen(line);
    painter.drawLine(QPointF(40, 40), QPointF(78, 40)); // top face
    painter.drawLine(QPointF(122, 40), QPointF(160, 40));
    painter.drawLine(QPointF(78, 40), QPointF(88, 110)); // taper
    painter.drawLine(QPointF(122, 40), QPointF(112, 110));
    painter.drawLine(QPointF(40, 40), QPointF(40, 70));
    painter.drawLine(QPointF(160, 40), QPointF(160, 70));
    painter.drawLine(QPointF(40, 70), QPointF(70, 70)); // step
    painter.drawLine(QPointF(160, 70), QPointF(130, 70));
    painter.drawLine(QPointF(70, 70), QPointF(72, 110));
    painter.drawLine(QPointF(130, 70), QPointF(128, 110));
    painter.setPen(pen({QStringLiteral("ball_mm"), QStringLiteral("ball_new_mm")}));
    painter.drawEllipse(QPointF(100, 74), 16.5, 16.5);
    dimension(painter, {176, 40}, {176, 70}, tr("step"),
              {QStringLiteral("old.step_mm"), QStringLiteral("new.step_mm")});
    dimension(painter, {22, 40}, {22, 57}, tr(""),
              {QStringLiteral("old.ball_depth_mm"), QStringLiteral("new.ball_depth_mm"),
               QStringLiteral("ball_depth_mm")});
    painter.drawText(QPointF(2, 30), tr("ball depth"));
    painter.setPen(pen({QStringLiteral("old.taper_deg"), QStringLiteral("new.taper_deg"),
                        QStringLiteral("lock_taper_deg")}));
    painter.drawText(QPointF(82, 128), tr("taper"));
    painter.setPen(line);
    painter.drawLine(QPointF(270, 34), QPointF(370, 34));
    painter.drawLine(QPointF(270, 150), QPointF(370, 150));
    coil(painter, 320, 34, 150, 56);
    dimension(painter, {388, 34}, {388, 150}, tr("height"),
              {QStringLiteral("old_height_mm"), QStringLiteral("micrometer_mm"), QStringLiteral("wanted_mm"),
               QStringLiteral("height_mm")});
    painter.setPen(pen({QStringLiteral("shims_mm")}));
    painter.drawRect(QRectF(276, 146, 88, 4));
    painter.drawText(QPointF(232, 150), tr("shims"));
}

// A retainer from the side with two steps, and the end coils of the springs that sit on them.
void SheetDrawing::draw_steps(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), 1.6));
    QPainterPath retainer(QPointF(110, 36));
    for (const QPointF corner : {QPointF(330, 36), QPointF(330, 62), QPointF(290, 62), QPointF(290, 88),
                                 QPointF(258, 88), QPointF(258, 108), QPointF(182, 108), QPointF(182, 88),
                                 QPointF(150, 88), QPointF(150, 62), QPointF(110, 62)})
        retainer.lineTo(corner);
    retainer.closeSubpath();
    painter.drawPath(retainer);
    painter.setPen(pen({QStringLiteral("inside_mm"), QStringLiteral("outside_mm")}));
    for (const QPointF wire : {QPointF(138, 73), QPointF(302, 73), QPointF(172, 98), QPointF(268, 98)})
        painter.drawEllipse(wire, 9, 9);
    painter.drawText(QPointF(318, 96), tr("spring"));
    dimension(painter, {150, 134}, {290, 134}, tr("step"), {QStringLiteral("step_diameter_mm")});
    dimension(painter, {88, 36}, {88, 62}, tr(""), {QStringLiteral("step_mm")});
    painter.drawText(QPointF(50, 30), tr("depth"));
    dimension(painter, {372, 62}, {372, 150}, tr("height"), {QStringLiteral("height_mm")});
}

void SheetDrawing::draw_spring(QPainter& painter) const {
    const bool set = kind_ == QStringLiteral("spring_set");
    const int springs = set ? 4 : 1;
    const QStringList height =
        set ? QStringList{QStringLiteral("seat_height_mm"), QStringLiteral("open_height_mm")}
            : QStringList{QStringLiteral("height_mm"), QStringLiteral("resolution_height_mm"),
                          QStringLiteral("installed_height_mm"), QStringLiteral("margin_mm"),
                          QStringLiteral("loft_mm")};
    const double left = set ? 100 : 200, width = set ? 60.0 * springs : 60;
    painter.setPen(QPen(theme_.color(Role::Ink), 1.6));
    painter.drawRect(QRectF(left - 20, 140, width + 40, 14));
    painter.drawRect(QRectF(left - 20, 36, width + 40, 8));
    for (int i = 0; i < springs; ++i)
        coil(painter, left + 30 + 60 * i, 44, 140, 40);
    dimension(painter, {left + width + 36, 44}, {left + width + 36, 140}, tr("height"), height);
    arrow(painter, {left + width / 2, 16}, {left + width / 2, 35}, tr("load"),
          {QStringLiteral("load_N"), QStringLiteral("seat_N"), QStringLiteral("open_N"),
           QStringLiteral("before_N"), QStringLiteral("resolution_load_N"),
           QStringLiteral("zero_before_load_N"), QStringLiteral("zero_after_load_N")});
}

void SheetDrawing::draw_ratio(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), 2));
    painter.drawLine(QPointF(130, 82), QPointF(220, 70)); // rocker
    painter.drawLine(QPointF(220, 70), QPointF(340, 84));
    painter.drawEllipse(QPointF(220, 72), 7, 7);
    painter.drawLine(QPointF(130, 82), QPointF(130, 130)); // link
    painter.drawEllipse(QPointF(130, 148), 20, 15);        // lobe
    painter.drawLine(QPointF(340, 84), QPointF(340, 150)); // valve
    painter.drawLine(QPointF(318, 156), QPointF(340, 146));
    painter.drawLine(QPointF(362, 156), QPointF(340, 146));
    const QStringList rise = {QStringLiteral("rise_mm"), QStringLiteral("resolution_rise_mm")};
    const QStringList lift = {QStringLiteral("lift_mm"), QStringLiteral("working.lift_mm"),
                              QStringLiteral("resolution_lift_mm")};
    dial(painter, {70, 96}, {122, 122}, rise);
    painter.drawText(QPointF(40, 72), tr("rise"));
    dial(painter, {410, 50}, {352, 92}, lift);
    painter.drawText(QPointF(400, 24), tr("lift"));
    coil(painter, 340, 98, 140, 34);
    painter.setPen(pen({QStringLiteral("working.force_N")}));
    painter.drawText(QPointF(372, 124), tr("spring"));
}

void SheetDrawing::draw_stiffness(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), 2));
    painter.drawLine(QPointF(100, 90), QPointF(300, 78)); // the part
    painter.drawLine(QPointF(100, 96), QPointF(300, 84));
    painter.drawRect(QRectF(70, 70, 30, 60)); // its support
    arrow(painter, {296, 22}, {296, 74}, tr("force"), {QStringLiteral("force_N")});
    dial(painter, {296, 142}, {296, 88}, {QStringLiteral("dial_mm"), QStringLiteral("resolution_dial_mm")});
    painter.drawText(QPointF(318, 146), tr("dial"));
}

void SheetDrawing::draw_swing(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), 2));
    painter.drawEllipse(QPointF(220, 34), 6, 6);
    painter.drawLine(QPointF(220, 40), QPointF(262, 140));
    painter.drawEllipse(QPointF(262, 140), 10, 10);
    painter.setPen(pen({QStringLiteral("swing_s")}));
    painter.drawArc(QRectF(110, -76, 220, 220), -60 * 16, -60 * 16);
    painter.drawText(QPointF(150, 160), tr("ten swings"));
    dimension(painter, {240, 38}, {272, 112}, tr("pivot to centre of mass"),
              {QStringLiteral("pivot_to_centre_mm")});
    painter.setPen(pen({QStringLiteral("mass_g")}));
    painter.drawEllipse(QPointF(250, 112), 3, 3);
}

} // namespace bathmos::app
