#include "app/shell/threshold_strip.h"
#include "app/text/words.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <numeric>

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
    case StripMark::Kind::Overspeed:
        return ThresholdStrip::tr("may see");
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
        tr("Drag, or use the arrow keys: this speed is the speed of all views. Shift moves by 100 rev/min.\n"
           "Up and Down go through the claims, Enter or a second click shows where one comes from.\n"
           "Wheel, + and − change the range, the right button moves it, a double click or 0 fits it."));
    set_marks({});
    connect(&cursors_, &Cursors::speed_changed, this, [this] { set_marks(marks_); });
    connect(&theme_, &Theme::changed, this, QOverload<>::of(&QWidget::update));
}

void ThresholdStrip::set_marks(const QVector<StripMark>& marks) {
    const auto same = [&](const StripMark& a, const StripMark& b) { return a.kind == b.kind; };
    if (chosen_ >= 0) { // the same claim, wherever it stands now
        const StripMark was = marks_[chosen_];
        const auto at =
            std::find_if(marks.begin(), marks.end(), [&](const StripMark& m) { return same(m, was); });
        chosen_ = at == marks.end() ? -1 : static_cast<int>(at - marks.begin());
    }
    marks_ = marks;
    if (fitted_)
        fit_claims();
    place();
    QString spoken = tr("Threshold strip, speed cursor at %1 rev/min").arg(fixed(cursors_.speed_rpm(), 0));
    for (const StripMark& mark : marks_)
        spoken += QStringLiteral("; ") + words_of(mark);
    if (band_)
        spoken += QStringLiteral("; ") + band_->text;
    if (!sentence().isEmpty())
        spoken += QStringLiteral("; ") + sentence();
    setAccessibleName(spoken);
    update();
}

void ThresholdStrip::set_band(const std::optional<StripBand>& band) {
    band_ = band;
    set_marks(marks_);
}

void ThresholdStrip::set_reach(double low_rpm, double high_rpm) {
    reach_low_rpm_ = low_rpm;
    reach_high_rpm_ = std::max(high_rpm, low_rpm + 100);
    if (fitted_)
        fit_claims();
    update();
}

void ThresholdStrip::set_agreement(const QString& words) {
    if (words == agreement_)
        return;
    agreement_ = words;
    set_marks(marks_);
}

void ThresholdStrip::fit_claims() {
    fitted_ = true;
    double low = reach_low_rpm_, high = reach_high_rpm_;
    if (!marks_.isEmpty()) {
        const auto [first, last] =
            std::minmax_element(marks_.begin(), marks_.end(), [](const StripMark& a, const StripMark& b) {
                return a.speed_rpm < b.speed_rpm;
            });
        low = first->speed_rpm;
        high = last->speed_rpm;
        if (band_ && band_->low_rpm)
            low = std::min(low, *band_->low_rpm);
        if (band_ && band_->high_rpm)
            high = std::max(high, *band_->high_rpm);
        low *= 0.85;
        high *= 1.1;
    }
    low_rpm_ = low;
    high_rpm_ = std::max(high, low + 100);
    place();
    update();
}

// What somebody wants to see, within what there can be.
void ThresholdStrip::look(double low_rpm, double high_rpm) {
    constexpr double kLeastSpan_rpm = 200, kMost_rpm = 30000;
    if (high_rpm - low_rpm < kLeastSpan_rpm || high_rpm - low_rpm > kMost_rpm)
        return;
    const double by = std::clamp(0.0, -low_rpm, std::max(-low_rpm, kMost_rpm - high_rpm));
    low_rpm_ = low_rpm + by;
    high_rpm_ = high_rpm + by;
    fitted_ = false;
    place();
    update();
}

void ThresholdStrip::zoom(double factor, double round_rpm) {
    look(round_rpm + (low_rpm_ - round_rpm) * factor, round_rpm + (high_rpm_ - round_rpm) * factor);
}

void ThresholdStrip::choose(int mark) {
    chosen_ = mark;
    set_marks(marks_);
}

// From claim to claim in the order of their speeds.
void ThresholdStrip::choose_next(int step) {
    QVector<int> order(marks_.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(),
              [&](int a, int b) { return marks_[a].speed_rpm < marks_[b].speed_rpm; });
    if (order.isEmpty())
        return;
    const auto at = order.indexOf(chosen_);
    const auto next =
        at < 0 ? (step > 0 ? 0 : order.size() - 1) : std::clamp(at + step, qsizetype{0}, order.size() - 1);
    choose(order[next]);
}

QString ThresholdStrip::sentence() const {
    if (chosen_ < 0 || chosen_ >= marks_.size())
        return agreement_;
    const StripMark& mark = marks_[chosen_];
    return words_of(mark) + (mark.source.isEmpty() ? QString() : QStringLiteral(": ") + mark.source) +
           (mark.link.isEmpty() ? QString() : tr(" · Enter goes there"));
}

QRectF ThresholdStrip::sentence_box() const {
    const QString text = sentence();
    if (text.isEmpty())
        return {};
    const double wide = QFontMetricsF(Theme::text_font(12)).horizontalAdvance(text);
    return {8, kTop, std::min(wide, 0.62 * width()), kRowHeight};
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

void ThresholdStrip::place() {
    const QFontMetricsF metrics(Theme::text_font(12));
    QVector<LabelWish> wishes;
    for (const StripMark& mark : marks_)
        wishes.push_back({pixel_of(mark.speed_rpm), metrics.horizontalAdvance(words_of(mark)),
                          metrics.horizontalAdvance(short_words_of(mark))});
    LabelRoom room{static_cast<double>(width()),
                   kTop,
                   kRowHeight,
                   kGap,
                   std::max(1, (height() - kAxisFromBottom - kTop) / kRowHeight),
                   sentence_box()};
    labels_ = place_labels(wishes, room);
}

QVector<QRectF> ThresholdStrip::word_boxes() const {
    QVector<QRectF> out;
    for (const PlacedLabel& label : labels_)
        out.push_back(label.box);
    return out;
}

void ThresholdStrip::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    place();
}

QString ThresholdStrip::words_of(const StripMark& mark) {
    return kind_name(mark.kind) + QLatin1Char(' ') + mark.text;
}

QString ThresholdStrip::short_words_of(const StripMark& mark) {
    return kind_name(mark.kind) + QLatin1Char(' ') + fixed(mark.speed_rpm, 0);
}

void ThresholdStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme_.color(Role::Panel));
    painter.setPen(theme_.color(Role::Rule));
    painter.drawLine(0, 0, width(), 0);
    paint_band(painter);
    paint_axis(painter);
    for (int i = 0; i < marks_.size(); ++i)
        paint_mark(painter, marks_[i], labels_[i]);
    for (int i = 0; i < marks_.size(); ++i)
        paint_words(painter, marks_[i], labels_[i]);
    const QRectF box = sentence_box();
    painter.setFont(Theme::text_font(12));
    painter.setPen(theme_.color(chosen_ >= 0 ? Role::Ink : Role::Faint));
    painter.drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
                     QFontMetricsF(painter.font()).elidedText(sentence(), Qt::ElideRight, box.width() + 1));
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
    const double step = high_rpm_ - low_rpm_ > 12000 ? 1000 : high_rpm_ - low_rpm_ > 2500 ? 500 : 100;
    const double named = step == 100 ? 500 : 2 * step;
    for (double rpm = std::ceil(low_rpm_ / step) * step; rpm <= high_rpm_; rpm += step) {
        const double x = pixel_of(rpm);
        const bool whole = std::fmod(rpm, named) == 0;
        painter.drawLine(QPointF(x, y), QPointF(x, y + (whole ? 5 : 3)));
        if (whole)
            painter.drawText(QRectF(x - 30, y + 5, 60, 16), Qt::AlignCenter, fixed(rpm, 0));
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

void ThresholdStrip::paint_mark(QPainter& painter, const StripMark& mark, const PlacedLabel& label) const {
    using Kind = StripMark::Kind;
    const double x = pixel_of(mark.speed_rpm), axis = height() - kAxisFromBottom,
                 y = label.box.isEmpty() ? axis - 12 : label.box.top();
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
    else if (mark.kind == Kind::Target || mark.kind == Kind::Overspeed)
        sign.addRect(x - 4, axis - 8, 8, 8);
    else
        sign.addPolygon(
            QPolygonF({{x, axis}, {x - 5, axis - 5}, {x, axis - 10}, {x + 5, axis - 5}, {x, axis}}));
    painter.drawPath(sign);
}

void ThresholdStrip::paint_words(QPainter& painter, const StripMark& mark, const PlacedLabel& label) const {
    if (label.box.isEmpty())
        return;
    const bool chosen = chosen_ >= 0 && &mark == &marks_[chosen_];
    painter.setFont(Theme::text_font(12));
    painter.setPen(color_of(mark));
    painter.drawText(label.box, Qt::AlignCenter | Qt::TextDontClip,
                     label.narrow ? short_words_of(mark) : words_of(mark));
    if (chosen)
        painter.drawLine(label.box.bottomLeft(), label.box.bottomRight());
}

void ThresholdStrip::paint_cursor(QPainter& painter) const {
    const double rpm = cursors_.speed_rpm(), x = pixel_of(rpm);
    const bool left = rpm<low_rpm_, right = rpm> high_rpm_; // out of sight: the side that it is on
    painter.setPen(QPen(theme_.color(Role::Ink), 1, Qt::DotLine));
    if (!left && !right)
        painter.drawLine(QPointF(x, 2), QPointF(x, height() - 2));
    const QString text = (left ? QStringLiteral("◂ ") : QString()) + fixed(rpm, 0) +
                         (right ? QStringLiteral(" ▸") : QString());
    const QRectF box(std::clamp(x - 32.0, 2.0, width() - 66.0), height() - 20, 64, 18);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme_.color(Role::Ink));
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(theme_.color(Role::Panel));
    painter.setFont(Theme::number_font(12));
    painter.drawText(box, Qt::AlignCenter, text);
}

void ThresholdStrip::move_cursor(double rpm) {
    cursors_.set_speed(
        std::clamp(rpm, std::min(reach_low_rpm_, low_rpm_), std::max(reach_high_rpm_, high_rpm_)));
}

// The mark whose words, or whose sign on the axis, are there.
int ThresholdStrip::mark_at(const QPointF& pixel) const {
    for (int i = 0; i < marks_.size(); ++i)
        if (labels_[i].box.contains(pixel))
            return i;
    const double axis = height() - kAxisFromBottom;
    for (int i = 0; i < marks_.size(); ++i)
        if (std::abs(pixel_of(marks_[i].speed_rpm) - pixel.x()) < 5 && pixel.y() > axis - 12 &&
            pixel.y() < axis)
            return i;
    return -1;
}

void ThresholdStrip::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::RightButton)
        pulled_from_px_ = event->position().x();
    if (event->button() != Qt::LeftButton)
        return;
    const int mark = mark_at(event->position());
    if (mark >= 0 && mark == chosen_ && !marks_[mark].link.isEmpty())
        emit link_wanted(marks_[mark].link);
    choose(mark);
    move_cursor(mark >= 0 ? marks_[mark].speed_rpm : speed_at(event->position().x()));
}

void ThresholdStrip::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons() & Qt::LeftButton && chosen_ < 0)
        move_cursor(speed_at(event->position().x()));
    if (event->buttons() & Qt::RightButton && pulled_from_px_) {
        const double by = speed_at(*pulled_from_px_) - speed_at(event->position().x());
        pulled_from_px_ = event->position().x();
        look(low_rpm_ + by, high_rpm_ + by);
    }
}

void ThresholdStrip::mouseDoubleClickEvent(QMouseEvent* event) {
    if (mark_at(event->position()) < 0)
        fit_claims();
}

void ThresholdStrip::wheelEvent(QWheelEvent* event) {
    constexpr double kNotch = 0.85;
    zoom(std::pow(kNotch, event->angleDelta().y() / 120.0), speed_at(event->position().x()));
    event->accept();
}

void ThresholdStrip::keyPressEvent(QKeyEvent* event) {
    const double step = event->modifiers() & Qt::ShiftModifier ? 100 : 10;
    switch (event->key()) {
    case Qt::Key_Left:
        return move_cursor(cursors_.speed_rpm() - step);
    case Qt::Key_Right:
        return move_cursor(cursors_.speed_rpm() + step);
    case Qt::Key_Up:
        return choose_next(1);
    case Qt::Key_Down:
        return choose_next(-1);
    case Qt::Key_Escape:
        return choose(-1);
    case Qt::Key_Plus:
        return zoom(0.8, cursors_.speed_rpm());
    case Qt::Key_Minus:
        return zoom(1.25, cursors_.speed_rpm());
    case Qt::Key_0:
        return fit_claims();
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (chosen_ >= 0 && !marks_[chosen_].link.isEmpty())
            emit link_wanted(marks_[chosen_].link);
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

} // namespace bathmos::app
