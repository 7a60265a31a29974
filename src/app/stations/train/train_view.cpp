#include "app/stations/train/train_view.h"

#include "core/motion/motion_pose.h"
#include "core/units/units.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace bathmos::app {

TrainView::TrainView(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    setObjectName(QStringLiteral("train_view"));
    setMinimumSize(260, 280);
    const auto again = [this] {
        describe();
        update();
    };
    connect(&context_.document, &Document::changed, this, again);
    connect(&context_.cursors, &Cursors::crank_changed, this, again);
    connect(&context_.cursors, &Cursors::speed_changed, this, again);
    connect(&context_.sweep, &SweepRunner::motions_changed, this, again);
    connect(&context_.units, &DisplayUnits::changed, this, again);
    connect(&context_.theme, &Theme::changed, this, again);
}

TrainPose TrainView::pose() const {
    const RigidMotion* rigid = context_.document.rigid();
    const double crank = context_.cursors.crank_deg();
    TrainPose pose = rigid_pose(*rigid, radians(crank / 2));
    const SweepRunner::Shown shown = context_.sweep.shown_at(context_.cursors.speed_rpm());
    if (!shown.motion || shown.old)
        return pose;
    return motion_pose(context_.document.train(), *rigid, *shown.motion, crank, exaggeration_);
}

void TrainView::set_exaggeration(double factor) {
    exaggeration_ = factor;
    describe();
    update();
}

// What is wrong at this angle, in words.
QString TrainView::troubles(const TrainPose& pose) const {
    QStringList out;
    if (pose.cam_apart)
        out << tr("cam and follower apart");
    if (pose.link_apart)
        out << tr("pushrod loose");
    if (pose.tip_apart && pose.lift_m > 0)
        out << tr("rocker off the stem");
    for (std::size_t i = 0; i < pose.coils.size(); ++i) {
        const auto& closed = pose.coils[i].closed;
        if (std::find(closed.begin(), closed.end(), true) != closed.end())
            out << tr("coils of %1 meet")
                       .arg(QString::fromStdString(context_.document.train().springs[i].name));
    }
    return out.join(QStringLiteral(" · "));
}

QString TrainView::pose_source() const {
    const SweepRunner::Shown shown = context_.sweep.shown_at(context_.cursors.speed_rpm());
    return shown.motion && !shown.old ? tr("computed at %1 rev/min").arg(shown.motion->speed_rpm, 0, 'f', 0)
                                      : tr("rigid, not computed");
}

void TrainView::describe() {
    if (!context_.document.rigid())
        return setAccessibleName(tr("Drawing of the train: nothing to draw"));
    const TrainPose now = pose();
    setAccessibleName(
        tr("Drawing of the train at %1 degrees, valve lift %2, %3 %4")
            .arg(context_.cursors.crank_deg(), 0, 'f', 1)
            .arg(context_.units.text(Quantity::Length, now.lift_m), pose_source(), troubles(now)));
}

void TrainView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), context_.theme.color(Role::Panel));
    const RigidMotion* rigid = context_.document.rigid();
    if (!rigid) {
        painter.setPen(context_.theme.color(Role::Faint));
        painter.drawText(rect(), Qt::AlignCenter,
                         tr("The train cannot be drawn until its problems are solved."));
        return;
    }
    const Train& train = context_.document.train();
    // The frame is that of the closed train, so that the picture does not jump while parts move.
    double left = 1e9, right = -1e9, low = 1e9, high = -1e9;
    for (const double angle : {-kPi, 0.0})
        for (const DrawnPart& part : draw_train(train, *rigid, rigid_pose(*rigid, angle)))
            for (const DrawnPoint& p : part.outline) {
                left = std::min(left, p.x_m);
                right = std::max(right, p.x_m);
                low = std::min(low, p.y_m);
                high = std::max(high, p.y_m);
            }
    const double margin = 20, caption = 40;
    const double scale =
        std::min((width() - 2 * margin) / (right - left), (height() - margin - caption - 8) / (high - low));
    const auto place = [&](const DrawnPoint& p) {
        return QPointF(width() / 2.0 + (p.x_m - 0.5 * (left + right)) * scale,
                       caption + (high - p.y_m) * scale);
    };
    const TrainPose now = pose();
    for (const DrawnPart& part : draw_train(train, *rigid, now)) {
        QPainterPath path;
        path.moveTo(place(part.outline.front()));
        for (const DrawnPoint& p : part.outline)
            path.lineTo(place(p));
        if (part.closed)
            path.closeSubpath();
        const Role role = part.apart || part.clash                            ? Role::StopMark
                          : part.key == "valve" || part.key == "retainer"     ? Role::Predicted
                          : part.key == "lobe" || part.key == "lobe.follower" ? Role::Ink
                                                                              : Role::Faint;
        painter.setPen(QPen(context_.theme.color(role), 1.4, part.apart ? Qt::DashLine : Qt::SolidLine,
                            Qt::RoundCap, Qt::RoundJoin));
        QColor fill = context_.theme.color(
            part.key == "seat" || part.key == "spring seat" || part.key == "guide" ? Role::Rule
                                                                                   : Role::Paper);
        if (part.clash) // filled as well as coloured
            fill = context_.theme.color(Role::StopMark);
        painter.setBrush(part.closed ? QBrush(fill) : QBrush(Qt::NoBrush));
        painter.drawPath(path);
    }
    painter.setPen(context_.theme.color(Role::Ink));
    painter.setFont(Theme::text_font(12));
    const QString trouble = troubles(now);
    painter.drawText(QRectF(8, 6, width() - 16, 18), Qt::AlignLeft,
                     tr("valve lift %1%2")
                         .arg(context_.units.text(Quantity::Length, now.lift_m),
                              trouble.isEmpty() ? QString() : QStringLiteral("  · ") + trouble));
    painter.setPen(context_.theme.color(Role::Faint));
    const QString scale_words =
        exaggeration_ == 1 ? tr("to scale") : tr("deflections drawn × %1").arg(exaggeration_);
    painter.drawText(QRectF(8, 22, width() - 16, 18), Qt::AlignLeft,
                     QStringLiteral("%1; %2").arg(scale_words, pose_source()));
    const double bar_mm = context_.units.system() == UnitSystem::Metric ? 0.02 : kInch_m;
    const QPointF a(width() - margin - bar_mm * scale, height() - 12), b(width() - margin, height() - 12);
    painter.setPen(QPen(context_.theme.color(Role::Faint), 1.5));
    painter.drawLine(a, b);
    painter.drawText(QRectF(a.x() - 60, a.y() - 9, 54, 18), Qt::AlignRight | Qt::AlignVCenter,
                     context_.units.system() == UnitSystem::Metric ? tr("20 mm") : tr("1 in"));
}

} // namespace bathmos::app
