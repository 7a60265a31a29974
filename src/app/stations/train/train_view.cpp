#include "app/stations/train/train_view.h"

#include "app/stations/train/checks_panel.h"
#include "app/text/words.h"
#include "core/fit/recheck.h"
#include "core/motion/motion_pose.h"
#include "core/units/units.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <map>

namespace bathmos::app {

namespace {
// Where a part that is too small to be drawn has its sign: at what holds it.
PartKind drawn_with(PartKind kind) {
    switch (kind) {
    case PartKind::Locks:
        return PartKind::Retainer;
    case PartKind::Cap:
        return PartKind::Valve;
    case PartKind::Seal:
        return PartKind::Guide;
    case PartKind::Stand:
        return PartKind::Rocker;
    case PartKind::Shim:
        return PartKind::Seat;
    default:
        return kind;
    }
}

// The kind of part that an outline belongs to; empty for the head itself.
std::optional<PartKind> kind_of_key(const std::string& key) {
    if (key == "lobe.follower")
        return PartKind::Lifter;
    if (key == "spring seat")
        return PartKind::Seat;
    if (key == "springs")
        return PartKind::Spring;
    if (key == "seat" || key == "pivot")
        return std::nullopt;
    return find_part_kind(key);
}
} // namespace

TrainView::TrainView(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    setObjectName(QStringLiteral("train_view"));
    setMinimumSize(260, 280);
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(tr("Click a part, or go through them with the up and down keys, to see it on the shelf"));
    const auto again = [this] {
        describe();
        update();
    };
    connect(&context_.document, &Document::records_changed, this, again);
    connect(&context_.document, &Document::judged, this, again);
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
    return shown.motion && !shown.old ? tr("computed at %1 rev/min").arg(fixed(shown.motion->speed_rpm, 0))
                                      : tr("rigid, not computed");
}

void TrainView::describe() {
    if (!context_.document.rigid())
        return setAccessibleName(tr("Drawing of the train: nothing to draw"));
    const TrainPose now = pose();
    setAccessibleName(
        tr("Drawing of the train at %1 degrees, valve lift %2, %3 %4")
            .arg(fixed(context_.cursors.crank_deg(), 1))
            .arg(context_.units.text(Quantity::Length, now.lift_m), pose_source(), troubles(now)));
}

OutlineFrame TrainView::frame() const {
    return outline_frame(context_.document.train(), *context_.document.rigid(), size(), 20, 40);
}

std::vector<TrainView::OnScreen> TrainView::drawn() const {
    if (!context_.document.rigid())
        return {};
    const OutlineFrame f = frame();
    std::vector<OnScreen> out;
    for (DrawnPart& part : draw_train(context_.document.train(), *context_.document.rigid(), pose())) {
        const QPainterPath path = outline_path(part, f);
        out.push_back({std::move(part), path});
    }
    return out;
}

std::optional<QPointF> TrainView::middle_of(PartKind kind) const {
    std::optional<QRectF> box;
    for (const OnScreen& one : drawn())
        if (kind_of_key(one.part.key) == kind)
            box = box ? box->united(one.path.boundingRect()) : one.path.boundingRect();
    return box ? std::optional(box->center()) : std::nullopt;
}

// The worst finding of each part as its sign beside it; waived ones do not show.
void TrainView::paint_findings(QPainter& painter) const {
    std::map<PartKind, Severity> worst;
    for (const FoundFit& found : context_.document.findings()) {
        const auto kind = kind_of({found.finding.part, "", Quantity::Count, {}, {}, "", ""});
        if (!kind || found.waiver != 0)
            continue;
        const auto at = worst.emplace(drawn_with(*kind), found.finding.severity).first;
        at->second = std::max(at->second, found.finding.severity);
    }
    painter.setFont(Theme::text_font(16, true));
    for (const auto& [kind, severity] : worst)
        if (const auto at = middle_of(kind)) {
            painter.setPen(context_.theme.color(severity == Severity::Stop   ? Role::StopMark
                                                : severity == Severity::Warn ? Role::LimitMark
                                                                             : Role::Ink));
            painter.drawText(QRectF(at->x() + 14, at->y() - 12, 24, 24), Qt::AlignCenter, sign_of(severity));
        }
}

void TrainView::choose(PartKind kind) {
    chosen_ = kind;
    describe();
    update();
    emit part_chosen(kind);
}

void TrainView::mousePressEvent(QMouseEvent* event) {
    const std::vector<OnScreen> all = drawn();
    for (auto one = all.rbegin(); one != all.rend(); ++one) { // the front one first
        QPainterPathStroker wide;
        wide.setWidth(8);
        const bool hit = one->part.closed ? one->path.contains(event->position())
                                          : wide.createStroke(one->path).contains(event->position());
        const auto kind = hit ? kind_of_key(one->part.key) : std::nullopt;
        if (kind)
            return choose(*kind);
    }
}

// Up and down go through the parts from cam to valve.
void TrainView::keyPressEvent(QKeyEvent* event) {
    const int step = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
    std::vector<PartKind> there;
    for (const PartKindInfo& kind : part_kinds())
        if (step != 0 && middle_of(kind.kind))
            there.push_back(kind.kind);
    if (there.empty())
        return QWidget::keyPressEvent(event);
    const auto at = chosen_ ? std::find(there.begin(), there.end(), *chosen_) : there.end();
    const auto count = static_cast<int>(there.size());
    const int now = at == there.end() ? (step > 0 ? -1 : count) : static_cast<int>(at - there.begin());
    choose(there[static_cast<std::size_t>(std::clamp(now + step, 0, count - 1))]);
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
    const TrainPose now = pose();
    const std::set<std::string> assumed = assumed_parts(context_.document.train());
    for (const OnScreen& one : drawn())
        paint_outline(painter, context_.theme, one.part, one.path,
                      chosen_ && kind_of_key(one.part.key) == chosen_, assumed.contains(one.part.key));
    paint_findings(painter);
    painter.setPen(context_.theme.color(Role::Ink));
    painter.setFont(Theme::text_font(12));
    const QString trouble = troubles(now);
    painter.drawText(QRectF(8, 6, width() - 16, 18), Qt::AlignLeft,
                     tr("valve lift %1%2")
                         .arg(context_.units.text(Quantity::Length, now.lift_m),
                              trouble.isEmpty() ? QString() : QStringLiteral("  · ") + trouble));
    painter.setPen(context_.theme.color(Role::Faint));
    QString scale_words =
        exaggeration_ == 1 ? tr("to scale") : tr("deflections drawn × %1").arg(exaggeration_);
    if (rod_is_shortened(context_.document.train()))
        scale_words += tr("; rod shortened");
    painter.drawText(QRectF(8, 22, width() - 16, 18), Qt::AlignLeft,
                     QStringLiteral("%1; %2").arg(scale_words, pose_source()));
    if (!assumed.empty())
        painter.drawText(QRectF(8, height() - 21, width() - 120, 18), Qt::AlignLeft,
                         tr("dotted: numbers assumed"));
    const double margin = 20, scale = frame().scale;
    const double bar_mm = context_.units.system_of(Quantity::Length) == UnitSystem::Metric ? 0.02 : kInch_m;
    const QPointF a(width() - margin - bar_mm * scale, height() - 12), b(width() - margin, height() - 12);
    painter.setPen(QPen(context_.theme.color(Role::Faint), 1.5));
    painter.drawLine(a, b);
    painter.drawText(QRectF(a.x() - 60, a.y() - 9, 54, 18), Qt::AlignRight | Qt::AlignVCenter,
                     context_.units.system_of(Quantity::Length) == UnitSystem::Metric ? tr("20 mm")
                                                                                      : tr("1 in"));
}

} // namespace bathmos::app
