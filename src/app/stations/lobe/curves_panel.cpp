#include "app/stations/lobe/curves_panel.h"

#include "app/plot/series.h"
#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QSplitter>
#include <QVBoxLayout>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::app {

namespace {
constexpr std::size_t kDrawnPoints = 1440;
} // namespace

CurvesPanel::CurvesPanel(Context context, LobeSet& set, QWidget* parent)
    : QWidget(parent), context_(context), set_(set) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 0);
    layout->setSpacing(4);
    layout->addWidget(make_choices());
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_plots());
    split->addWidget(make_words());
    split->setStretchFactor(0, 1);
    split->setSizes({560, 420});
    layout->addWidget(split, 1);
    refresh_ = new Refresher(this, kPage_ms, [this] { refresh(); });
    const auto ask = [this] { refresh_->ask(); };
    connect(&set_, &LobeSet::changed, this, ask);
    connect(&set_, &LobeSet::chosen_changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    connect(&context_.document, &Document::changed, this, ask);
    connect(&context_.cursors, &Cursors::crank_changed, this, [this](double deg) {
        for (Plot* plot : plots_)
            plot->set_cursor(deg);
    });
    ask();
}

QWidget* CurvesPanel::make_choices() {
    auto* box = new QWidget;
    auto* line = new QHBoxLayout(box);
    line->setContentsMargins(0, 0, 0, 0);
    const auto choice = [&](const QString& name, const QString& label, const QStringList& items) {
        auto* words = new QLabel(label);
        auto* out = new QComboBox;
        out->setObjectName(name);
        out->setAccessibleName(label);
        out->addItems(items);
        words->setBuddy(out);
        line->addWidget(words);
        line->addWidget(out);
        connect(out, &QComboBox::currentIndexChanged, this, [this] { refresh_->ask(); });
        return out;
    };
    align_ = choice(QStringLiteral("lobe_align"), tr("Laid on the"),
                    {tr("nose"), tr("centre line at"), tr("opening at")});
    height_ = new NumberField(
        context_.units, Quantity::Length, QStringLiteral("lobe_align_height"), {},
        tr("Cam lift at which lobes are laid on their centre line or opening."),
        [](double mm) { return mm > 0 && mm < 50 ? std::string() : "give a cam lift above 0"; });
    height_->set_compact();
    height_->setMaximumWidth(130);
    height_->show_value(height_m_);
    connect(height_, &NumberField::edited, this, [this](double si) {
        height_m_ = si;
        refresh_->ask();
    });
    line->addWidget(height_);
    side_ = choice(QStringLiteral("lobe_side"), tr("Seen at the"), {tr("lifter"), tr("valve")});
    bands_ = new QCheckBox(tr("noise band of the chosen lobe"));
    bands_->setObjectName(QStringLiteral("lobe_bands"));
    bands_->setChecked(true);
    bands_->setToolTip(tr("One standard deviation each way: what reading noise and smoothing leave open."));
    connect(bands_, &QCheckBox::toggled, this, [this] { refresh_->ask(); });
    line->addWidget(bands_);
    line->addStretch();
    return box;
}

QWidget* CurvesPanel::make_plots() {
    auto* box = new QWidget;
    auto* grid = new QGridLayout(box);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(4);
    const QString names[] = {tr("Cam lift"), tr("Velocity"), tr("Acceleration"), tr("Jerk")};
    for (int order = 0; order < 4; ++order) {
        auto* plot = new Plot(context_.theme, names[order]);
        for (int i = 0; i < kMostDrawn; ++i)
            plot->add_curve({}, Role::Ink);
        plot->set_cursor_step(0.5);
        plot->set_cursor(context_.cursors.crank_deg());
        connect(plot, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
        grid->addWidget(plot, order / 2, order % 2);
        plots_[static_cast<std::size_t>(order)] = plot;
    }
    return box;
}

QWidget* CurvesPanel::make_words() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 0, 0);
    verdict_ = new QLabel;
    verdict_->setObjectName(QStringLiteral("lobe_verdict"));
    verdict_->setWordWrap(true);
    layout->addWidget(verdict_);
    list_ = new QListWidget;
    list_->setObjectName(QStringLiteral("lobe_flags"));
    list_->setAccessibleName(tr("Where one lobe asks over 1.25 times what another asks"));
    list_->setWordWrap(true);
    connect(list_, &QListWidget::currentRowChanged, this, &CurvesPanel::go_to_flag);
    layout->addWidget(list_, 3);
    figures_ = new NumberTable(QStringLiteral("lobe_figures"));
    figures_->setAccessibleName(tr("What each lobe asks"));
    layout->addWidget(figures_, 4);
    return box;
}

CurvesPanel::Drawn CurvesPanel::drawn() const {
    Drawn out;
    const bool at_valve = side_->currentIndex() == 1;
    for (const LoadedLobe* lobe : set_.shown()) {
        auto motion = set_.motion(*lobe, at_valve);
        if (!motion)
            continue;
        out.names.push_back(lobe->name.toStdString());
        out.shift_rad.push_back(
            alignment_rad(*motion, static_cast<Alignment>(align_->currentIndex()), height_m_));
        out.motions.push_back(std::move(*motion));
    }
    return out;
}

void CurvesPanel::refresh() {
    height_->setEnabled(align_->currentIndex() != 0);
    const Drawn now = drawn();
    draw(now);
    compare(now);
}

void CurvesPanel::draw(const Drawn& drawn) {
    const std::vector<const LoadedLobe*> lobes = set_.shown();
    const bool at_valve = side_->currentIndex() == 1;
    const QString names[] = {at_valve ? tr("valve lift") : tr("cam lift"), tr("velocity"), tr("acceleration"),
                             tr("jerk")};
    for (int order = 0; order < 4; ++order) {
        Plot& plot = *plots_[static_cast<std::size_t>(order)];
        plot.set_axes(order < 2 ? QString() : tr("crank angle, °"),
                      names[order] + QStringLiteral(", ") + derivative_unit(context_.units, order));
        plot.set_bundle({}, {}, Role::Faint);
        for (int i = 0; i < kMostDrawn; ++i)
            if (i >= static_cast<int>(drawn.motions.size()))
                plot.clear_curve(i);
    }
    for (std::size_t i = 0; i < drawn.motions.size(); ++i) {
        const bool band = bands_->isChecked() && lobes[i] == set_.chosen();
        const LobeSamples samples = samples_of(drawn.motions[i], kDrawnPoints, band);
        QVector<double> x;
        for (const double theta : samples.theta_rad)
            x.push_back(2 * degrees(theta - drawn.shift_rad[i]));
        for (std::size_t order = 0; order < 4; ++order) {
            Plot& plot = *plots_[order];
            const auto shown = [&](double si) {
                return derivative_value(context_.units, static_cast<int>(order), si);
            };
            QVector<double> y, low, high;
            for (const double value : samples.value[order])
                y.push_back(shown(value));
            plot.restyle_curve(static_cast<int>(i), lobes[i]->name, lobes[i]->role, lobes[i]->stroke);
            plot.set_curve(static_cast<int>(i), x, y);
            if (samples.sd[order].empty())
                continue;
            for (std::size_t k = 0; k < samples.sd[order].size(); ++k) {
                low.push_back(shown(samples.value[order][k] - samples.sd[order][k]));
                high.push_back(shown(samples.value[order][k] + samples.sd[order][k]));
            }
            plot.set_bundle(x, {low, high}, Role::Faint, true);
        }
    }
    for (Plot* plot : plots_) {
        plot->set_x_range(-240, 240);
        plot->redraw();
    }
}

void CurvesPanel::compare(const Drawn& drawn) {
    std::vector<std::vector<LobeFigure>> figures;
    for (const LobeMotion& motion : drawn.motions)
        figures.push_back(lobe_figures(motion));
    const std::vector<LobeFlag> flags = lobe_flags(figures);
    list_->clear();
    flag_crank_deg_.clear();
    for (const LobeFlag& flag : flags) {
        const std::string rise = context_.units.text(Quantity::Length, flag.figure.cam_lift_m).toStdString();
        const QString text = QString::fromStdString(fmt::format(fmt::runtime(flag.what), rise));
        auto* item = new QListWidgetItem(tr("△ %1 %2, %3° from the nose (against %4)")
                                             .arg(QString::fromStdString(drawn.names[flag.harder]), text)
                                             .arg(fixed(2 * degrees(flag.figure.theta_rad), 0))
                                             .arg(QString::fromStdString(drawn.names[flag.softer])),
                                         list_);
        item->setToolTip(item->text());
        flag_crank_deg_.push_back(2 * degrees(flag.figure.theta_rad - drawn.shift_rad[flag.harder]));
    }
    verdict_->setText(drawn.motions.size() < 2 ? tr("Tick a second lobe to see where the two differ.")
                      : flags.empty()          ? tr("No figure differs by more than 1.25 times.")
                                               : tr("%n difference(s) of more than 1.25 times:", nullptr,
                                                    static_cast<int>(flags.size())));
    QStringList headings = {tr("per cam degree")};
    for (const std::string& name : drawn.names)
        headings.push_back(QString::fromStdString(name));
    figures_->setRowCount(0);
    figures_->set_headings(headings);
    if (figures.empty())
        return;
    figures_->setRowCount(static_cast<int>(figures.front().size()));
    for (std::size_t row = 0; row < figures.front().size(); ++row) {
        const LobeFigure& first = figures.front()[row];
        const bool plain = first.key == "asymmetry", area = first.key == "area";
        const QString unit = plain  ? QString()
                             : area ? context_.units.unit_name(Quantity::Length) + QStringLiteral(" °")
                                    : derivative_unit(context_.units, first.order);
        figures_->set_cell(static_cast<int>(row), 0,
                           phrase(first.label) + (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit),
                           false);
        for (std::size_t i = 0; i < figures.size(); ++i) {
            const double si = figures[i][row].value;
            const double value = plain  ? si
                                 : area ? context_.units.value(Quantity::Length, degrees(si))
                                        : derivative_value(context_.units, first.order, si);
            figures_->set_cell(static_cast<int>(row), static_cast<int>(i) + 1, digits(value, 3));
        }
    }
    figures_->resizeColumnsToContents();
}

void CurvesPanel::go_to_flag(int row) {
    if (row >= 0 && row < static_cast<int>(flag_crank_deg_.size()))
        context_.cursors.set_crank(flag_crank_deg_[static_cast<std::size_t>(row)]);
}

} // namespace bathmos::app
