#include "app/stations/train/budget_view.h"
#include "app/text/words.h"
#include "app/widgets/refresher.h"

#include "session/compare/revision_comparison.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {
constexpr double kMargin = 16, kBar = 26, kRow = 18;
constexpr double kTop = 12, kUnderTitle = 4, kUnderBar = 6, kUnderGroup = 20;
constexpr int kLeastHeight = 280;
} // namespace

BudgetView::BudgetView(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    setObjectName(QStringLiteral("budget_view"));
    setMinimumWidth(260);
    auto* seen = new Refresher(this, kAtOnce_ms, [this] {
        describe();
        update();
    });
    connect(&context_.document, &Document::records_changed, seen, &Refresher::at_once);
    connect(&context_.units, &DisplayUnits::changed, seen, &Refresher::at_once);
    connect(&context_.theme, &Theme::changed, seen, &Refresher::at_once);
    seen->at_once();
}

std::vector<BudgetView::Bar> BudgetView::bars_of(const TrainFigures& figures, const QString& who) const {
    return {{who, figures.equivalent_mass_kg, figures.equivalent_mass_total_kg,
             context_.units.text(Quantity::Mass, figures.equivalent_mass_total_kg)},
            {who, figures.compliance_m_per_N, 1 / figures.stiffness_N_per_m,
             context_.units.text(Quantity::Stiffness, figures.stiffness_N_per_m)}};
}

// Mass bars, then bars of compliance; in each the one in hand first.
std::vector<std::vector<BudgetView::Bar>> BudgetView::groups() const {
    std::vector<std::vector<Bar>> out(2);
    const auto take = [&](const TrainFigures& figures, const QString& who) {
        const std::vector<Bar> bars = bars_of(figures, who);
        for (std::size_t i = 0; i < out.size(); ++i)
            out[i].push_back(bars[i]);
    };
    const Document& d = context_.document;
    if (!d.figures())
        return {};
    take(*d.figures(), QString::fromStdString(d.project().revision_label(d.shown())));
    if (const TrainFigures* compared = context_.comparison.figures())
        take(*compared, QString::fromStdString(d.project().revision_label(d.compared())));
    return out;
}

void BudgetView::describe() {
    QString spoken = tr("Budget of mass and compliance.");
    const QString titles[] = {tr(" Equivalent mass %1:"),
                              tr(" Stiffness at the tip %1, compliance by part:")};
    const auto all = groups();
    for (std::size_t g = 0; g < all.size(); ++g) {
        const Bar& bar = all[g].front();
        spoken += titles[g].arg(bar.total_text);
        for (const Share& share : bar.shares)
            if (share.value > 0)
                spoken += QStringLiteral(" %1 %2 %,")
                              .arg(phrase(share.part))
                              .arg(fixed(100 * share.value / bar.total, 1));
    }
    setAccessibleName(spoken);
    setMinimumHeight(height_of(all));
}

// Of all that is painted; what has less room scrolls.
int BudgetView::height_of(const std::vector<std::vector<Bar>>& all) {
    double y = kTop;
    for (const std::vector<Bar>& group : all) {
        const auto parts = std::count_if(group.front().shares.begin(), group.front().shares.end(),
                                         [](const Share& share) { return share.value > 0; });
        y += kRow + kUnderTitle + static_cast<double>(group.size()) * (kRow + kBar + kUnderBar) +
             static_cast<double>((parts + 1) / 2) * kRow + kUnderGroup;
    }
    return std::max(kLeastHeight, static_cast<int>(std::ceil(y)));
}

double BudgetView::paint_group(QPainter& painter, double y, const std::vector<Bar>& group) const {
    double most = 0;
    for (const Bar& bar : group)
        most = std::max(most, bar.total);
    const double room = width() - 2 * kMargin;
    for (const Bar& bar : group) {
        painter.setPen(context_.theme.color(Role::Ink));
        painter.setFont(Theme::text_font(12, &bar == &group.front()));
        painter.drawText(QRectF(kMargin, y, room, kRow), Qt::AlignLeft, bar.title);
        painter.setFont(Theme::number_font(12));
        painter.drawText(QRectF(kMargin, y, room, kRow), Qt::AlignRight, bar.total_text);
        y += kRow;
        double x = kMargin;
        int number = 0;
        for (const Share& share : bar.shares) {
            if (share.value <= 0)
                continue;
            const double wide = room * share.value / most;
            QColor tone = context_.theme.color(Role::Predicted); // one meaning: what the model adds up
            tone.setAlphaF((&bar == &group.front() ? 0.5F : 0.22F) * (number % 2 ? 0.55F : 1.0F));
            painter.setPen(QPen(context_.theme.color(Role::Panel), 2));
            painter.setBrush(tone);
            painter.drawRect(QRectF(x, y, wide, kBar));
            painter.setPen(context_.theme.color(Role::Ink));
            painter.setFont(Theme::text_font(12));
            if (wide > 16)
                painter.drawText(QRectF(x, y, wide, kBar), Qt::AlignCenter, QString::number(number + 1));
            x += wide;
            ++number;
        }
        y += kBar + kUnderBar;
    }
    return y;
}

void BudgetView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), context_.theme.color(Role::Panel));
    const auto all = groups();
    if (all.empty()) {
        painter.setPen(context_.theme.color(Role::Faint));
        painter.drawText(rect(), Qt::AlignCenter,
                         tr("Nothing adds up until the train's problems are solved."));
        return;
    }
    const QString titles[] = {tr("Equivalent mass at the valve, by part"),
                              tr("Compliance at the valve tip, by part")};
    double y = kTop;
    for (std::size_t g = 0; g < all.size(); ++g) {
        painter.setPen(context_.theme.color(Role::Ink));
        painter.setFont(Theme::text_font(13, true));
        painter.drawText(QRectF(kMargin, y, width() - 2 * kMargin, kRow), Qt::AlignLeft, titles[g]);
        y = paint_group(painter, y + kRow + kUnderTitle, all[g]);
        int number = 0, column = 0;
        const double half = (width() - 2 * kMargin) / 2;
        painter.setFont(Theme::text_font(12));
        const Bar& bar = all[g].front();
        for (const Share& share : bar.shares) {
            if (share.value <= 0)
                continue;
            ++number;
            const QRectF cell(kMargin + column * half, y, half - 8, kRow);
            painter.drawText(cell, Qt::AlignLeft,
                             QStringLiteral("%1  %2").arg(number).arg(phrase(share.part)));
            painter.drawText(cell, Qt::AlignRight,
                             QStringLiteral("%1 %").arg(fixed(100 * share.value / bar.total, 1)));
            column = 1 - column;
            if (column == 0)
                y += kRow;
        }
        y += (column ? kRow : 0) + kUnderGroup;
    }
}

} // namespace bathmos::app
