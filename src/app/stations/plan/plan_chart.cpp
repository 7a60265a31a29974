#include "app/stations/plan/plan_chart.h"

#include "app/text/words.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>

namespace bathmos::app {

namespace {

constexpr double kChartLeft = 46, kChartRight = 8, kChartTop = 4, kChartFoot = 18, kLeastRow = 20,
                 kMostRow = 40;

} // namespace

PlanChart::PlanChart(const Theme& theme, QWidget* parent) : QWidget(parent), theme_(theme) {
    setObjectName(QStringLiteral("plan_chart"));
    setAccessibleName(tr("Time table"));
    setMinimumHeight(70);
}

double PlanChart::day_begin_h(std::size_t day) const {
    double out = 0;
    for (std::size_t i = 0; i < day && i < campaign_.day_h.size(); ++i)
        out += campaign_.day_h[i];
    return out;
}

// A change may take the end of one day and the beginning of the next.
void PlanChart::cut_at_nights(double from_h, double to_h, bool change, int run) {
    for (std::size_t day = 0; day < campaign_.day_h.size(); ++day) {
        const double begin = day_begin_h(day), end = begin + campaign_.day_h[day];
        const double from = std::max(from_h, begin), to = std::min(to_h, end);
        if (to > from + 1e-9)
            pieces_.push_back({day, from - begin, to - begin, change, run});
    }
}

void PlanChart::show_plan(const plan::Campaign& campaign, const plan::Plan& plan, bool old) {
    campaign_ = campaign;
    runs_ = plan.runs;
    old_ = old;
    pieces_.clear();
    QStringList said;
    if (campaign.setup_h > 0 && campaign.measured.empty())
        cut_at_nights(0, campaign.setup_h, true, -1);
    for (std::size_t i = 0; i < runs_.size(); ++i) {
        const plan::PlannedRun& run = runs_[i];
        const double run_at = run.start_h + run.change_h;
        cut_at_nights(run.start_h, run_at, true, static_cast<int>(i));
        cut_at_nights(run_at, run.start_h + run.hours, false, static_cast<int>(i));
        said << tr("day %1, hour %2: %3")
                    .arg(run.day + 1)
                    .arg(fixed(run_at - day_begin_h(run.day), 1))
                    .arg(run.baseline ? tr("baseline") : words(plan::name_of(campaign, run.levels)));
    }
    setMaximumHeight(
        static_cast<int>(kChartTop + kChartFoot +
                         kMostRow * static_cast<double>(std::max<std::size_t>(1, campaign.day_h.size()))));
    if (chosen_ >= static_cast<int>(runs_.size()))
        chosen_ = -1;
    setAccessibleDescription(said.join(QStringLiteral("; ")));
    update();
}

void PlanChart::clear() {
    runs_.clear();
    pieces_.clear();
    chosen_ = -1;
    setAccessibleDescription({});
    update();
}

void PlanChart::choose(int run) {
    chosen_ = run;
    update();
}

QRectF PlanChart::place(const Piece& piece) const {
    const auto days = static_cast<double>(std::max<std::size_t>(1, campaign_.day_h.size()));
    const double longest = campaign_.day_h.empty() ? 1 : std::ranges::max(campaign_.day_h);
    const double row = std::clamp((height() - kChartTop - kChartFoot) / days, kLeastRow, kMostRow);
    const double per_h = (width() - kChartLeft - kChartRight) / longest;
    return {kChartLeft + piece.from_h * per_h, kChartTop + static_cast<double>(piece.day) * row + 2,
            (piece.to_h - piece.from_h) * per_h, row - 4};
}

void PlanChart::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme_.color(Role::Panel));
    painter.setFont(Theme::text_font(12));
    if (campaign_.day_h.empty() || runs_.empty())
        return;
    const auto colour = [&](Role role) { return old_ ? theme_.faded(role) : theme_.color(role); };
    for (std::size_t day = 0; day < campaign_.day_h.size(); ++day) {
        const QRectF whole = place({day, 0, campaign_.day_h[day], false, -1});
        painter.setPen(theme_.color(Role::Rule));
        painter.drawRect(whole);
        for (int hour = 1; hour < campaign_.day_h[day]; ++hour) {
            const double x = place({day, double(hour), double(hour), false, -1}).x();
            painter.drawLine(QPointF(x, whole.top()), QPointF(x, whole.bottom()));
        }
        painter.setPen(theme_.color(Role::Faint));
        painter.drawText(QRectF(0, whole.top(), kChartLeft - 6, whole.height()),
                         Qt::AlignRight | Qt::AlignVCenter, tr("day %1").arg(day + 1));
    }
    const double longest = std::ranges::max(campaign_.day_h);
    for (int hour = 0; hour <= longest; hour += 2)
        painter.drawText(
            QRectF(place({campaign_.day_h.size() - 1, double(hour), double(hour), false, -1}).x() - 20,
                   height() - kChartFoot, 40, kChartFoot),
            Qt::AlignCenter, tr("%1 h").arg(hour));
    for (const Piece& piece : pieces_) {
        const QRectF at = place(piece);
        if (piece.change) {
            painter.fillRect(at,
                             QBrush(colour(piece.run < 0 ? Role::Faint : Role::LimitMark), Qt::BDiagPattern));
            painter.setPen(colour(Role::Rule));
            painter.drawRect(at);
            continue;
        }
        const plan::PlannedRun& run = runs_[static_cast<std::size_t>(piece.run)];
        painter.fillRect(at, colour(run.baseline ? Role::Kinematic : Role::Predicted));
        painter.setPen(theme_.color(Role::Panel));
        painter.drawText(at, Qt::AlignCenter, QString::number(piece.run + 1));
        if (piece.run == chosen_) {
            painter.setPen(QPen(theme_.color(Role::Ink), 2));
            painter.drawRect(at.adjusted(-1, -1, 1, 1));
        }
    }
}

int PlanChart::run_at(const QPointF& at) const {
    for (const Piece& piece : pieces_)
        if (place(piece).contains(at))
            return piece.run;
    return -1;
}

void PlanChart::mousePressEvent(QMouseEvent* event) {
    if (const int run = run_at(event->position()); run >= 0) {
        choose(run);
        emit run_chosen(run);
    }
}

bool PlanChart::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        if (const int run = run_at(help->pos()); run >= 0) {
            const plan::PlannedRun& one = runs_[static_cast<std::size_t>(run)];
            QToolTip::showText(
                help->globalPos(),
                tr("%1: %2").arg(one.baseline ? tr("baseline") : words(plan::name_of(campaign_, one.levels)),
                                 phrase(one.why)),
                this);
        } else {
            QToolTip::hideText();
        }
        return true;
    }
    return QWidget::event(event);
}

} // namespace bathmos::app
