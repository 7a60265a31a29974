// Outlines of a train's drawing on screen: where they go and how they look, for every view that has one.
#pragma once

#include "app/theme/theme.h"
#include "core/train/train_drawing.h"

#include <QPainter>
#include <QPainterPath>
#include <QSizeF>
#include <set>

namespace bathmos::app {

/// Holds the train closed and open, so that a picture does not jump while parts move.
struct OutlineFrame {
    double scale, middle_m, high_m, top, across;
    QPointF place(const DrawnPoint& p) const {
        return {across / 2 + (p.x_m - middle_m) * scale, top + (high_m - p.y_m) * scale};
    }
};
OutlineFrame outline_frame(const Train& train, const RigidMotion& rigid, const QSizeF& size, double margin,
                           double caption);
QPainterPath outline_path(const DrawnPart& part, const OutlineFrame& frame);
/// `assumed`: dotted, as somebody still has to measure the part.
void paint_outline(QPainter& painter, const Theme& theme, const DrawnPart& part, const QPainterPath& path,
                   bool chosen, bool assumed);

/// The valve shut; lash is not marked as contact lost.
std::vector<DrawnPart> resting(const Train& train, const RigidMotion& rigid);

/// Keys of drawn parts of which a number was assumed.
std::set<std::string> assumed_parts(const Train& train);

} // namespace bathmos::app
