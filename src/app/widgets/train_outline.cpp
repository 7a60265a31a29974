#include "app/widgets/train_outline.h"

#include "core/train/assumed.h"
#include "core/units/units.h"

#include <algorithm>

namespace bathmos::app {

OutlineFrame outline_frame(const Train& train, const RigidMotion& rigid, const QSizeF& size, double margin,
                           double caption) {
    double left = 1e9, right = -1e9, low = 1e9, high = -1e9;
    for (const double angle : {-kPi, 0.0})
        for (const DrawnPart& part : draw_train(train, rigid, rigid_pose(rigid, angle)))
            for (const DrawnPoint& p : part.outline) {
                left = std::min(left, p.x_m);
                right = std::max(right, p.x_m);
                low = std::min(low, p.y_m);
                high = std::max(high, p.y_m);
            }
    return {std::min((size.width() - 2 * margin) / (right - left),
                     (size.height() - margin - caption - 8) / (high - low)),
            0.5 * (left + right), high, caption, size.width()};
}

QPainterPath outline_path(const DrawnPart& part, const OutlineFrame& frame) {
    QPainterPath path;
    path.moveTo(frame.place(part.outline.front()));
    for (const DrawnPoint& p : part.outline)
        path.lineTo(frame.place(p));
    if (part.closed)
        path.closeSubpath();
    return path;
}

void paint_outline(QPainter& painter, const Theme& theme, const DrawnPart& part, const QPainterPath& path,
                   bool chosen, bool assumed) {
    const Role role = part.apart || part.clash                            ? Role::StopMark
                      : part.key == "valve" || part.key == "retainer"     ? Role::Predicted
                      : part.key == "lobe" || part.key == "lobe.follower" ? Role::Ink
                                                                          : Role::Faint;
    painter.setPen(QPen(theme.color(chosen ? Role::Ink : role), chosen ? 2.6 : 1.4,
                        part.apart ? Qt::DashLine
                        : assumed  ? Qt::DotLine
                                   : Qt::SolidLine,
                        Qt::RoundCap, Qt::RoundJoin));
    QColor fill = theme.color(
        part.key == "seat" || part.key == "spring seat" || part.key == "guide" ? Role::Rule : Role::Paper);
    if (part.clash) // filled as well as coloured
        fill = theme.color(Role::StopMark);
    painter.setBrush(part.closed ? QBrush(fill) : QBrush(Qt::NoBrush));
    painter.drawPath(path);
}

std::vector<DrawnPart> resting(const Train& train, const RigidMotion& rigid) {
    TrainPose pose = rigid_pose(rigid, kPi);
    pose.cam_apart = pose.tip_apart = pose.link_apart = false;
    return draw_train(train, rigid, pose);
}

std::set<std::string> assumed_parts(const Train& train) {
    std::set<std::string> out;
    for (const AssumedNumber& one : assumed_numbers(train)) {
        const std::string part = one.key.substr(0, one.key.find_first_of(".["));
        out.insert(part);
        if (part == "lobe" && one.key.starts_with("lobe.follower"))
            out.insert("lobe.follower");
    }
    return out;
}

} // namespace bathmos::app
