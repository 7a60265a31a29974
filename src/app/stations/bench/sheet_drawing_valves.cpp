// Drawings of what is weighed, and of what is measured with the valve in its place.
#include "app/stations/bench/sheet_drawing.h"

#include <QPainter>
#include <QPainterPath>
#include <array>
#include <cmath>

namespace bathmos::app {

namespace {
constexpr double kThick = 1.8;
}

void SheetDrawing::draw_scale(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawRect(QRectF(150, 116, 160, 40));
    painter.drawLine(QPointF(130, 104), QPointF(330, 104)); // pan
    painter.drawLine(QPointF(230, 104), QPointF(230, 116));
    static const std::array<std::pair<const char*, double>, 7> parts = {{{"valve_g", 150},
                                                                         {"retainer_g", 180},
                                                                         {"locks_g", 204},
                                                                         {"cap_g", 224},
                                                                         {"spring_g", 250},
                                                                         {"lifter_g", 280},
                                                                         {"pushrod_g", 308}}};
    if (kind_ != QStringLiteral("weigh")) { // a set: all alike
        for (int i = 0; i < 5; ++i) {
            painter.setPen(pen(i == 2 ? QStringList{QStringLiteral("mass_g")} : QStringList()));
            painter.drawRect(QRectF(40 + 90 * i, i == 2 ? 78 : 128, 26, 26));
        }
    } else {
        for (const auto& [key, x] : parts) {
            painter.setPen(pen({QLatin1String(key)}));
            painter.drawRoundedRect(QRectF(x - 9, set_off({QLatin1String(key)}) ? 78 : 50, 18, 26), 4, 4);
        }
    }
    painter.setPen(pen({QStringLiteral("zero_before_mass_g"), QStringLiteral("zero_after_mass_g"),
                        QStringLiteral("resolution_mass_g")}));
    painter.drawText(QRectF(150, 120, 160, 32), Qt::AlignCenter, tr("0.00"));
}

// Level on its two tips: one on the scale, the other on a stand as high.
void SheetDrawing::draw_rocker_on_scale(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawLine(QPointF(110, 84), QPointF(210, 66));
    painter.drawLine(QPointF(210, 66), QPointF(340, 84));
    painter.drawEllipse(QPointF(210, 70), 8, 8);
    painter.drawRect(QRectF(96, 86, 28, 66));
    painter.drawRect(QRectF(290, 104, 100, 48));
    painter.drawLine(QPointF(340, 84), QPointF(340, 104));
    painter.setPen(pen({QStringLiteral("valve_end_g"), QStringLiteral("mass_g")}));
    painter.drawText(QRectF(290, 104, 100, 48), Qt::AlignCenter, tr("valve's end"));
    dimension(painter, {110, 40}, {210, 40}, tr("to the cam"), {QStringLiteral("input_arm_mm")});
    dimension(painter, {210, 24}, {340, 24}, tr("to the valve"), {QStringLiteral("output_arm_mm")});
}

void SheetDrawing::draw_lash(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawLine(QPointF(90, 60), QPointF(190, 44)); // rocker
    painter.drawLine(QPointF(190, 44), QPointF(300, 60));
    painter.drawEllipse(QPointF(190, 48), 8, 8);
    painter.drawEllipse(QPointF(296, 66), 9, 9);
    painter.drawRect(QRectF(286, 84, 20, 70)); // stem
    painter.drawEllipse(QPointF(90, 124), 26, 26);
    painter.drawLine(QPointF(90, 60), QPointF(90, 98));
    const QStringList keys = {QStringLiteral("cold_mm"), QStringLiteral("hot_mm"),
                              QStringLiteral("before_mm"), QStringLiteral("wanted_mm")};
    painter.setPen(pen(keys));
    painter.drawLine(QPointF(276, 80), QPointF(400, 80)); // the feeler
    painter.drawText(QPointF(330, 72), tr("feeler"));
    painter.drawText(QPointF(124, 156), tr("base circle"));
}

// The tip from above, the rocker's path along it.
void SheetDrawing::draw_mark(QPainter& painter) const {
    painter.setPen(pen({QStringLiteral("cap_mm")}));
    painter.drawEllipse(QPointF(230, 84), 72, 72);
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawEllipse(QPointF(230, 84), 58, 58);
    painter.setPen(QPen(theme_.color(Role::Faint), 1, Qt::DashLine));
    painter.drawLine(QPointF(230, 14), QPointF(230, 154));
    painter.setPen(pen({QStringLiteral("width_mm")}));
    painter.drawRect(QRectF(238, 50, 16, 68));
    dimension(painter, {238, 46}, {254, 46}, tr("width"), {QStringLiteral("width_mm")});
    dimension(painter, {230, 124}, {246, 124}, tr("offset"), {QStringLiteral("offset_mm")});
    dimension(painter, {172, 166}, {288, 166}, tr("tip"), {QStringLiteral("tip_mm")});
    painter.setPen(QPen(theme_.color(Role::Faint), 1));
    painter.drawText(QPointF(40, 88), tr("to the pivot \u2190"));
}

void SheetDrawing::draw_clearance(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawLine(QPointF(110, 30), QPointF(200, 30)); // retainer
    painter.drawLine(QPointF(155, 30), QPointF(155, 120));
    painter.drawRect(QRectF(140, 66, 30, 22));              // seal
    painter.drawLine(QPointF(120, 120), QPointF(190, 120)); // head
    painter.drawLine(QPointF(60, 150), QPointF(250, 150));  // piston
    dimension(painter, {216, 30}, {216, 66}, tr("to the seal"), {QStringLiteral("to_seal_mm")});
    dimension(painter, {216, 120}, {216, 150}, tr("to the piston"),
              {QStringLiteral("gap_mm"), QStringLiteral("crank_deg"), QStringLiteral("piston_least_mm")});
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawLine(QPointF(330, 40), QPointF(430, 22)); // rocker over its retainer
    painter.drawLine(QPointF(300, 66), QPointF(390, 66));
    painter.drawLine(QPointF(345, 66), QPointF(345, 46));
    painter.drawLine(QPointF(345, 66), QPointF(345, 130));
    dimension(painter, {382, 32}, {382, 64}, tr("to the rocker"), {QStringLiteral("to_rocker_mm")});
    dimension(painter, {316, 70}, {316, 112}, tr("lift"),
              {QStringLiteral("lift_mm"), QStringLiteral("loft_mm")});
}

void SheetDrawing::draw_contact(QPainter& painter) const {
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawEllipse(QPointF(180, 118), 42, 42);
    painter.drawEllipse(QPointF(180, 56), 24, 22);
    painter.setPen(pen({QStringLiteral("axle_mm"), QStringLiteral("axle_width_mm")}));
    painter.drawEllipse(QPointF(180, 56), 8, 8);
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawRect(QRectF(300, 76, 70, 84)); // from the side
    painter.drawRect(QRectF(308, 32, 54, 44));
    dimension(painter, {308, 20}, {362, 20}, tr("width"), {QStringLiteral("width_mm")});
    arrow(painter, {180, 6}, {180, 32}, tr("force"),
          {QStringLiteral("speed_rpm"), QStringLiteral("allowed_MPa")});
}

void SheetDrawing::draw_degree_wheel(QPainter& painter) const {
    painter.setPen(pen({QStringLiteral("cam_deg"), QStringLiteral("card_duration_deg")}));
    painter.drawEllipse(QPointF(150, 90), 62, 62);
    for (int i = 0; i < 24; ++i) {
        const double at = i * M_PI / 12;
        const QPointF way(std::cos(at), std::sin(at));
        painter.drawLine(QPointF(150, 90) + 54 * way, QPointF(150, 90) + 62 * way);
    }
    painter.drawLine(QPointF(222, 90), QPointF(206, 90)); // its pointer
    painter.setPen(QPen(theme_.color(Role::Ink), kThick));
    painter.drawEllipse(QPointF(320, 116), 36, 32);
    painter.drawLine(QPointF(320, 84), QPointF(320, 66));
    dial(painter, {320, 34}, {320, 66},
         {QStringLiteral("rise_mm"), QStringLiteral("card_lift_mm"), QStringLiteral("card_height_mm")});
    painter.drawText(QPointF(344, 38), tr("rise"));
}

} // namespace bathmos::app
