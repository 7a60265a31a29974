#include "app/shell/threshold_strip.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {
constexpr int kSide = 24, kAxisFromBottom = 26, kRowHeight = 15, kTop = 6, kGap = 6;

QString kind_name(StripMark::Kind kind) {
    switch (kind) {
    case StripMark::Kind::Model:
        return ThresholdStrip::tr("model limit");
    case StripMark::Kind::ModelForce:
        return ThresholdStrip::tr("model");
    case StripMark::Kind::Rigid:
        return ThresholdStrip::tr("rigid bound");
    case StripMark::Kind::ModelOnset:
        return ThresholdStrip::tr("model onset");
    case StripMark::Kind::RigOnset:
        return ThresholdStrip::tr("rig onset");
    case StripMark::Kind::RigLimit:
        return ThresholdStrip::tr("rig limit");
    case StripMark::Kind::DynoBreak:
        return ThresholdStrip::tr("dyno break");
    case StripMark::Kind::Before:
        return ThresholdStrip::tr("before");
    case StripMark::Kind::Trial:
        return ThresholdStrip::tr("trial");
    case StripMark::Kind::Compared:
        return ThresholdStrip::tr("compared");
    case StripMark::Kind::Target:
        break;
    }
    return ThresholdStrip::tr("target");
}
} // namespace

ThresholdStrip::ThresholdStrip(Theme& theme, Cursors& cursors, QWidget* parent)
    : QWidget(parent), theme_(theme), cursors_(cursors) {
    setObjectName(QStringLiteral("threshold_strip"));
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(96);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setToolTip(
        tr("Drag, or use the arrow keys: this speed is the speed of all views. Shift moves by 100 rev/min."));
    set_marks({});
    connect(&cursors_, &Cursors::speed_changed, this, [this] { set_marks(marks_); });
    connect(&theme_, &Theme::changed, this, QOverload<>::of(&QWidget::update));
}

void ThresholdStrip::set_marks(const QVector<StripMark>& marks) {
    marks_ = marks;
    QString spoken = tr("Threshold strip, speed cursor at %1 rev/min").arg(cursors_.speed_rpm(), 0, 'f', 0);
    for (const StripMark& mark : marks_)
        spoken += QStringLiteral("; ") + words_of(mark);
    if (band_)
        spoken += QStringLiteral("; ") + band_->text;
    setAccessibleName(spoken);
    update();
}

void ThresholdStrip::set_band(const std::optional<StripBand>& band) {
    band_ = band;
    set_marks(marks_);
}

void ThresholdStrip::set_range(double low_rpm, double high_rpm) {
    low_rpm_ = low_rpm;
    high_rpm_ = std::max(high_rpm, low_rpm + 100);
    update();
}

double ThresholdStrip::pixel_of(double rpm) const {
    return kSide + (rpm - low_rpm_) / (high_rpm_ - low_rpm_) * (width() - 2 * kSide);
}

double ThresholdStrip::speed_at(double pixel) const {
    return low_rpm_ + (pixel - kSide) / (width() - 2 * kSide) * (high_rpm_ - low_rpm_);
}

QColor ThresholdStrip::color_of(const StripMark& mark) const {
    using Kind = StripMark::Kind;
    const Role role =
        mark.kind == Kind::Model || mark.kind == Kind::ModelForce || mark.kind == Kind::ModelOnset ||
                mark.kind == Kind::Trial || mark.kind == Kind::Before || mark.kind == Kind::Compared
            ? Role::Predicted
        : mark.kind == Kind::RigOnset || mark.kind == Kind::RigLimit || mark.kind == Kind::DynoBreak
            ? Role::Measured
        : mark.kind == Kind::Rigid ? Role::Kinematic
                                   : Role::Ink;
    return mark.old || mark.kind == Kind::Before || mark.kind == Kind::Compared ? theme_.faded(role)
                                                                                : theme_.color(role);
}

// Labels take the first row in which they run into no other, left of their mark, else right of it.
QVector<QRectF> ThresholdStrip::word_boxes() const {
    QVector<int> order(marks_.size());
    for (int i = 0; i < order.size(); ++i)
        order[i] = i;
    std::sort(order.begin(), order.end(),
              [&](int a, int b) { return marks_[a].speed_rpm > marks_[b].speed_rpm; });
    const QFontMetrics metrics(Theme::text_font(12));
    const int most = std::max(1, (height() - kAxisFromBottom - kTop) / kRowHeight);
    QVector<QRectF> out(marks_.size());
    const auto free = [&](const QRectF& box) {
        return box.left() >= 0 && box.right() <= width() &&
               std::none_of(out.begin(), out.end(), [&](const QRectF& other) {
                   return other.adjusted(-kGap, 0, kGap, 0).intersects(box);
               });
    };
    for (int i : order) {
        const double at = pixel_of(marks_[i].speed_rpm);
        const double wide = metrics.horizontalAdvance(words_of(marks_[i]));
        const auto put = [&](double from) {
            for (int row = 0; row < most; ++row)
                if (const QRectF box(from, kTop + row * kRowHeight, wide, kRowHeight); free(box)) {
                    out[i] = box;
                    return true;
                }
            return false;
        };
        if (!put(at - kGap - wide))
            put(at + kGap);
    }
    return out;
}

QString ThresholdStrip::words_of(const StripMark& mark) {
    return kind_name(mark.kind) + QLatin1Char(' ') + mark.text;
}

void ThresholdStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme_.color(Role::Panel));
    painter.setPen(theme_.color(Role::Rule));
    painter.drawLine(0, 0, width(), 0);
    paint_band(painter);
    paint_axis(painter);
    const QVector<QRectF> words = word_boxes();
    for (int i = 0; i < marks_.size(); ++i)
        paint_mark(painter, marks_[i], words[i]);
    for (int i = 0; i < marks_.size(); ++i)
        paint_words(painter, marks_[i], words[i]);
    paint_cursor(painter);
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme_.color(Role::Predicted), 2));
        painter.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

void ThresholdStrip::paint_axis(QPainter& painter) const {
    const int y = height() - kAxisFromBottom;
    painter.setPen(QPen(theme_.color(Role::Ink), 1));
    painter.drawLine(kSide, y, width() - kSide, y);
    painter.setFont(Theme::number_font(12));
    for (double rpm = std::ceil(low_rpm_ / 500) * 500; rpm <= high_rpm_; rpm += 500) {
        const double x = pixel_of(rpm);
        const bool whole = std::fmod(rpm, 1000) == 0;
        painter.drawLine(QPointF(x, y), QPointF(x, y + (whole ? 5 : 3)));
        if (whole)
            painter.drawText(QRectF(x - 30, y + 5, 60, 16), Qt::AlignCenter, QString::number(rpm, 'f', 0));
    }
    painter.setFont(Theme::text_font(12));
    painter.setPen(theme_.color(Role::Faint));
    painter.drawText(QRectF(width() - 110, y - 18, 100, 16), Qt::AlignRight, tr("rev/min"));
}

// A bar on the axis from 10 to 90 %, notched at 50 %; open ends run out of the strip.
void ThresholdStrip::paint_band(QPainter& painter) const {
    if (!band_ || !band_->low_rpm)
        return;
    const double axis = height() - kAxisFromBottom;
    const double a = pixel_of(*band_->low_rpm), b = band_->high_rpm ? pixel_of(*band_->high_rpm) : width();
    QColor color = band_->old ? theme_.faded(Role::Predicted) : theme_.color(Role::Predicted);
    painter.setPen(QPen(color, 1));
    color.setAlphaF(0.22F);
    painter.setBrush(color);
    painter.drawRect(QRectF(a, axis - 7, b - a, 7));
    if (band_->middle_rpm) {
        const double m = pixel_of(*band_->middle_rpm);
        painter.drawLine(QPointF(m, axis - 7), QPointF(m, axis));
    }
}

void ThresholdStrip::paint_mark(QPainter& painter, const StripMark& mark, const QRectF& words) const {
    using Kind = StripMark::Kind;
    const double x = pixel_of(mark.speed_rpm), axis = height() - kAxisFromBottom,
                 y = words.isEmpty() ? axis - 2 * kRowHeight : words.top();
    const QColor color = color_of(mark);
    const bool dashed = mark.kind == Kind::Rigid || mark.kind == Kind::RigLimit ||
                        mark.kind == Kind::ModelOnset || mark.kind == Kind::ModelForce ||
                        mark.kind == Kind::Trial;
    painter.setPen(QPen(color, dashed ? 1 : 2, dashed ? Qt::DashLine : Qt::SolidLine));
    painter.drawLine(QPointF(x, y + 2), QPointF(x, axis));
    if (mark.half_width_rpm > 0) { // known to within half a step
        const double a = pixel_of(mark.speed_rpm - mark.half_width_rpm),
                     b = pixel_of(mark.speed_rpm + mark.half_width_rpm);
        painter.setPen(QPen(color, 3));
        painter.drawLine(QPointF(a, axis - 4), QPointF(b, axis - 4));
    }
    painter.setPen(QPen(color, 1.5));
    painter.setBrush(dashed ? QBrush(theme_.color(Role::Panel)) : QBrush(color));
    QPainterPath sign;
    if (mark.kind == Kind::Model || mark.kind == Kind::ModelForce || mark.kind == Kind::Rigid ||
        mark.kind == Kind::ModelOnset || mark.kind == Kind::Trial || mark.kind == Kind::Before ||
        mark.kind == Kind::Compared)
        sign.addPolygon(QPolygonF({{x, axis}, {x - 5, axis - 9}, {x + 5, axis - 9}, {x, axis}}));
    else if (mark.kind == Kind::DynoBreak) // a bar that steps down
        sign.addPolygon(QPolygonF({{x - 7, axis - 10},
                                   {x, axis - 10},
                                   {x, axis - 5},
                                   {x + 7, axis - 5},
                                   {x + 7, axis},
                                   {x - 7, axis}}));
    else if (mark.kind == Kind::Target)
        sign.addRect(x - 4, axis - 8, 8, 8);
    else
        sign.addPolygon(
            QPolygonF({{x, axis}, {x - 5, axis - 5}, {x, axis - 10}, {x + 5, axis - 5}, {x, axis}}));
    painter.drawPath(sign);
}

void ThresholdStrip::paint_words(QPainter& painter, const StripMark& mark, const QRectF& box) const {
    if (box.isEmpty())
        return;
    painter.setFont(Theme::text_font(12));
    painter.setPen(color_of(mark));
    painter.fillRect(box.adjusted(-2, 0, 2, 0), theme_.color(Role::Panel)); // over other marks' lines
    painter.drawText(box, Qt::AlignCenter | Qt::TextDontClip, words_of(mark));
}

void ThresholdStrip::paint_cursor(QPainter& painter) const {
    const double x = pixel_of(cursors_.speed_rpm());
    painter.setPen(QPen(theme_.color(Role::Ink), 1, Qt::DotLine));
    painter.drawLine(QPointF(x, 2), QPointF(x, height() - 2));
    const QRectF box(std::clamp(x - 32.0, 2.0, width() - 66.0), height() - 20, 64, 18);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme_.color(Role::Ink));
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(theme_.color(Role::Panel));
    painter.setFont(Theme::number_font(12));
    painter.drawText(box, Qt::AlignCenter, QString::number(cursors_.speed_rpm(), 'f', 0));
}

void ThresholdStrip::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton)
        cursors_.set_speed(std::clamp(speed_at(event->position().x()), low_rpm_, high_rpm_));
}

void ThresholdStrip::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons() & Qt::LeftButton)
        cursors_.set_speed(std::clamp(speed_at(event->position().x()), low_rpm_, high_rpm_));
}

void ThresholdStrip::keyPressEvent(QKeyEvent* event) {
    const double step = event->modifiers() & Qt::ShiftModifier ? 100 : 10;
    if (event->key() == Qt::Key_Left)
        cursors_.set_speed(std::max(low_rpm_, cursors_.speed_rpm() - step));
    else if (event->key() == Qt::Key_Right)
        cursors_.set_speed(std::min(high_rpm_, cursors_.speed_rpm() + step));
    else
        QWidget::keyPressEvent(event);
}

} // namespace bathmos::app
