#include "app/stations/rig/departures_view.h"

#include "app/text/words.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {
constexpr double kWidest = 6; // standard deviations of belief either way; beyond stands at the edge
constexpr int kDepartureRow = 21, kScaleHeight = 24, kLabelWidth = 210, kEdge = 14, kDot = 4;
constexpr double kStandsOut_sigma = 2;
} // namespace

DeparturesView::DeparturesView(Theme& theme, QWidget* parent) : QWidget(parent), theme_(theme) {
    setObjectName(QStringLiteral("departures"));
    connect(&theme_, &Theme::changed, this, [this] { update(); });
}

void DeparturesView::set_numbers(const std::vector<FittedNumber>& numbers, bool faded) {
    numbers_ = numbers;
    faded_ = faded;
    std::stable_sort(numbers_.begin(), numbers_.end(), [](const FittedNumber& a, const FittedNumber& b) {
        return std::abs(a.departs_sigma) > std::abs(b.departs_sigma);
    });
    QString spoken = tr("Departures from belief");
    for (const FittedNumber& one : numbers_)
        spoken += tr("; %1 %2 standard deviations")
                      .arg(phrase(label_of(one.number)))
                      .arg(fixed(one.departs_sigma, 1));
    setAccessibleName(spoken);
    setMinimumHeight(sizeHint().height());
    update();
}

QStringList DeparturesView::labels() const {
    QStringList out;
    for (const FittedNumber& one : numbers_)
        out.push_back(phrase(label_of(one.number)));
    return out;
}

QSize DeparturesView::sizeHint() const {
    return {480, kScaleHeight + kDepartureRow * static_cast<int>(numbers_.size()) + 8};
}

double DeparturesView::pixel_at(double sigma) const {
    const double from = kLabelWidth, to = width() - kEdge;
    return from + (std::clamp(sigma, -kWidest, kWidest) + kWidest) / (2 * kWidest) * (to - from);
}

double DeparturesView::pixel_of(const QString& key) const {
    for (const FittedNumber& one : numbers_)
        if (words(one.number.key) == key)
            return pixel_at(one.departs_sigma);
    return pixel_at(0);
}

void DeparturesView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme_.color(Role::Panel));
    if (numbers_.empty())
        return;
    paint_belief(painter, kScaleHeight + kDepartureRow * static_cast<double>(numbers_.size()));
    double middle = kScaleHeight + 0.5 * kDepartureRow;
    for (const FittedNumber& one : numbers_) {
        paint_number(painter, one, middle);
        middle += kDepartureRow;
    }
}

// One and two standard deviations of belief as bands behind all rows, the scale on top.
void DeparturesView::paint_belief(QPainter& painter, double bottom) const {
    QColor band = theme_.color(Role::Kinematic);
    band.setAlphaF(0.09F);
    for (const double wide : {2.0, 1.0})
        painter.fillRect(QRectF(QPointF(pixel_at(-wide), kScaleHeight), QPointF(pixel_at(wide), bottom)),
                         band);
    painter.setFont(Theme::number_font(11));
    for (int sigma = -6; sigma <= 6; sigma += 2) {
        const double x = pixel_at(sigma);
        painter.setPen(theme_.color(Role::Rule));
        painter.drawLine(QPointF(x, kScaleHeight), QPointF(x, bottom));
        painter.setPen(theme_.color(Role::Faint));
        painter.drawText(QRectF(x - 20, 4, 40, 16), Qt::AlignCenter,
                         sigma == 0 ? tr("belief") : QStringLiteral("%1 σ").arg(sigma));
    }
}

void DeparturesView::paint_number(QPainter& painter, const FittedNumber& number, double middle) const {
    const bool departs = number.told && std::abs(number.departs_sigma) > kStandsOut_sigma;
    QColor color = faded_ ? theme_.faded(Role::Predicted) : theme_.color(Role::Predicted);
    if (!number.told)
        color = theme_.color(Role::Faint);
    painter.setFont(Theme::text_font(12, departs));
    painter.setPen(number.told ? theme_.color(Role::Ink) : theme_.color(Role::Faint));
    painter.drawText(
        QRectF(6, middle - 0.5 * kDepartureRow, kLabelWidth - 16, kDepartureRow),
        Qt::AlignLeft | Qt::AlignVCenter,
        painter.fontMetrics().elidedText(phrase(label_of(number.number)), Qt::ElideRight, kLabelWidth - 16));
    const double at = pixel_at(number.departs_sigma);
    const double half = number.prior_sd > 0 ? number.sd / number.prior_sd : 0;
    painter.setPen(QPen(color, departs ? 2.5 : 1.5));
    painter.drawLine(QPointF(pixel_at(number.departs_sigma - half), middle),
                     QPointF(pixel_at(number.departs_sigma + half), middle));
    painter.setBrush(number.told ? QBrush(color) : QBrush(theme_.color(Role::Panel)));
    painter.drawEllipse(QPointF(at, middle), kDot, kDot);
    if (std::abs(number.departs_sigma) > kWidest) // the true place in words, as it lies beyond
        painter.drawText(QRectF(number.departs_sigma < 0 ? at + 8 : at - 68, middle - 0.5 * kDepartureRow, 60,
                                kDepartureRow),
                         (number.departs_sigma < 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
                         QStringLiteral("%1 σ").arg(fixed(number.departs_sigma, 0)));
}

} // namespace bathmos::app
