#include "app/stations/lobe/design_panel.h"

#include "app/plot/series.h"
#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/cam/lobe_compare.h"
#include "core/lobe/lobe_events.h"
#include "core/lobe/lobe_fit.h"

#include <QComboBox>
#include <QFormLayout>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QSplitter>
#include <cmath>

namespace bathmos::app {

namespace {

LobeGoals usual_goals() {
    const double per = 180 / kPi;
    LobeGoals out;
    out.low_duration_crank_rad = radians(300);
    out.high_duration_crank_rad = radians(248);
    out.most_acceleration_m_per_rad2 = 0.020e-3 * per * per;
    out.most_jerk_m_per_rad3 = 0.004e-3 * per * per * per;
    out.ramp_velocity_m_per_rad = 0.012e-3 * per;
    out.aim = DesignAim::LeastDeceleration;
    return out;
}

} // namespace

DesignPanel::DesignPanel(Context context, LobeSet& set, QWidget* parent)
    : QWidget(parent), context_(context), set_(set), goals_(usual_goals()) {
    auto* across = new QHBoxLayout(this);
    across->setContentsMargins(4, 6, 4, 0);
    across->addWidget(make_goals());
    auto* right = new QVBoxLayout;
    across->addLayout(right, 1);
    words_ = new QLabel;
    words_->setObjectName(QStringLiteral("design_words"));
    words_->setWordWrap(true);
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    right->addWidget(words_);
    auto* plots = new QSplitter(Qt::Horizontal);
    curve_ = new Plot(context_.theme, tr("New and chosen acceleration"));
    curve_->add_curve(tr("new lobe"), Role::Predicted);
    curve_->add_curve(tr("chosen lobe"), Role::Kinematic, Stroke::Dashed);
    curve_->set_x_range(-240, 240);
    trade_plot_ = new Plot(context_.theme, tr("Area against deceleration"));
    trade_plot_->add_curve(tr("most area"), Role::Predicted, Stroke::Dots);
    trade_plot_->add_curve(tr("this lobe"), Role::Measured, Stroke::Dots);
    plots->addWidget(curve_);
    plots->addWidget(trade_plot_);
    plots->setSizes({400, 300});
    right->addWidget(plots, 5);
    auto* tables = new QSplitter(Qt::Horizontal);
    limits_ = new NumberTable(QStringLiteral("design_limits"));
    limits_->setAccessibleName(tr("What the new lobe asks, against the limits"));
    limits_->set_headings({tr("Limit"), tr("Asked for"), tr("Has"), tr("Binds")});
    standing_ = new NumberTable(QStringLiteral("design_standing"));
    standing_->setAccessibleName(tr("The new lobe and the chosen one in the train in hand"));
    standing_->set_headings({tr("In the train in hand"), tr("Limit, rev/min"), tr("By"), tr("Seating")});
    tables->addWidget(limits_);
    tables->addWidget(standing_);
    tables->setSizes({340, 350});
    right->addWidget(tables, 3);
    connect(&context_.units, &DisplayUnits::changed, this, [this] {
        show_goals();
        show_result();
    });
    auto* refresher = new Refresher(this, 15, [this] { show_result(); });
    connect(&set_, &LobeSet::chosen_changed, refresher, &Refresher::ask);
    show_goals();
    show_result();
}

QWidget* DesignPanel::make_goals() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 6, 0);
    auto* start = new QPushButton(tr("Take goals from the chosen lobe"));
    start->setObjectName(QStringLiteral("design_take"));
    connect(start, &QPushButton::clicked, this, &DesignPanel::take_from_chosen);
    layout->addWidget(start);
    auto* form = new QFormLayout;
    form->setVerticalSpacing(3);
    layout->addLayout(form);
    using G = LobeGoals;
    using Q = Quantity;
    add_goal(form, QStringLiteral("lift"), tr("Lift"), tr("At the lifter."), Q::Length, &G::lift_m);
    add_goal(form, QStringLiteral("low_height"), tr("Low height"), tr("Near the top of the ramp."), Q::Length,
             &G::low_height_m);
    add_goal(form, QStringLiteral("low_duration"), tr("Duration there"), tr("Crank degrees."), Q::Angle,
             &G::low_duration_crank_rad);
    add_goal(form, QStringLiteral("high_height"), tr("High height"), tr("The usual check height."), Q::Length,
             &G::high_height_m);
    add_goal(form, QStringLiteral("high_duration"), tr("Duration there"), tr("Crank degrees."), Q::Angle,
             &G::high_duration_crank_rad);
    const QString none = tr(" 0: no limit.");
    add_goal(form, QStringLiteral("acceleration"), tr("Most acceleration"), tr("On the flanks.") + none,
             Q::LiftPerDegree2, &G::most_acceleration_m_per_rad2);
    add_goal(form, QStringLiteral("deceleration"), tr("Most deceleration"), tr("Over the nose.") + none,
             Q::LiftPerDegree2, &G::most_deceleration_m_per_rad2);
    add_goal(form, QStringLiteral("jerk"), tr("Most jerk"), tr("Anywhere.") + none, Q::LiftPerDegree3,
             &G::most_jerk_m_per_rad3);
    add_goal(form, QStringLiteral("ramp_velocity"), tr("Ramp velocity"), tr("Below the low height.") + none,
             Q::LiftPerDegree, &G::ramp_velocity_m_per_rad);
    add_goal(form, QStringLiteral("radius"), tr("Least radius, flat"),
             tr("Of curvature, under a flat follower.") + none, Q::Length, &G::least_radius_m);
    add_goal(form, QStringLiteral("base_radius"), tr("Base radius"), tr("Needed with a least radius."),
             Q::Length, &G::base_radius_m);
    aim_ = new QComboBox;
    aim_->setObjectName(QStringLiteral("design_aim"));
    aim_->setAccessibleName(tr("Aim"));
    aim_->addItems({tr("most area"), tr("least deceleration"), tr("least jerk")});
    aim_->setCurrentIndex(static_cast<int>(goals_.aim));
    connect(aim_, &QComboBox::currentIndexChanged, this,
            [this](int index) { goals_.aim = static_cast<DesignAim>(index); });
    form->addRow(tr("Aim"), aim_);
    name_ = new QLineEdit(tr("New lobe"));
    name_->setObjectName(QStringLiteral("design_name"));
    form->addRow(tr("Name"), name_);
    const auto button = [&](const QString& name, const QString& text, auto run) {
        auto* out = new QPushButton(text);
        out->setObjectName(name);
        connect(out, &QPushButton::clicked, this, run);
        return out;
    };
    shape_ = button(QStringLiteral("design_shape"), tr("Shape it"), [this] { shape(); });
    stop_ = button(QStringLiteral("design_stop"), tr("Stop"), [this] { stop(); });
    rank_ = button(QStringLiteral("design_rank"), tr("Run beside the chosen"), [this] { rank(); });
    shelve_ = button(QStringLiteral("design_shelve"), tr("Put on the shelf"), [this] { shelve(); });
    auto* buttons = new QGridLayout;
    buttons->addWidget(shape_, 0, 0);
    buttons->addWidget(stop_, 0, 1);
    buttons->addWidget(rank_, 1, 0);
    buttons->addWidget(shelve_, 1, 1);
    layout->addLayout(buttons);
    layout->addStretch();
    return box;
}

void DesignPanel::add_goal(QFormLayout* to, const QString& key, const QString& label, const QString& help,
                           Quantity quantity, double LobeGoals::*number) {
    auto* field = new NumberField(
        context_.units, quantity, QStringLiteral("design_") + key, label, help,
        [](double value) { return value >= 0 ? std::string() : "cannot be below 0; 0 is no limit"; });
    to->addRow(field->name(), field);
    fields_.push_back({field, number});
    connect(field, &NumberField::edited, this, [this, number](double si) { goals_.*number = si; });
}

void DesignPanel::show_goals() {
    for (const Goal& goal : fields_)
        goal.field->show_value(goals_.*goal.number);
    aim_->setCurrentIndex(static_cast<int>(goals_.aim));
}

void DesignPanel::take_from_chosen() {
    const LoadedLobe* lobe = set_.chosen();
    if (!lobe || !lobe->curve)
        return;
    const LobeCurve& curve = *lobe->curve;
    const auto motion = [&](double theta) { return curve.at(theta); };
    const std::vector<LobeFigure> figures = lobe_figures(LobeMotion(curve));
    const auto harder = [&](const char* key) { // of both sides
        double most = 0;
        for (const LobeFigure& f : figures)
            if (f.key == std::string("opening_") + key || f.key == std::string("closing_") + key)
                most = std::max(most, f.value);
        return most;
    };
    goals_.lift_m = curve.lift_m();
    goals_.high_height_m = 1.27e-3;
    goals_.low_height_m = std::clamp(harder("ramp_height"), 0.05e-3, 0.5 * goals_.high_height_m);
    if (const auto low = crossings_at(motion, goals_.low_height_m))
        goals_.low_duration_crank_rad = radians(low->duration_crank_deg());
    if (const auto high = crossings_at(motion, goals_.high_height_m))
        goals_.high_duration_crank_rad = radians(high->duration_crank_deg());
    goals_.most_acceleration_m_per_rad2 = harder("acceleration");
    goals_.most_deceleration_m_per_rad2 = 0;
    goals_.most_jerk_m_per_rad3 = harder("jerk");
    goals_.ramp_velocity_m_per_rad = harder("ramp_velocity");
    goals_.base_radius_m = lobe->lobe.base_radius_m;
    // No more digits than anybody would type; limits rounded to the loose side.
    for (double* length : {&goals_.lift_m, &goals_.low_height_m})
        *length = std::round(*length * 1e6) * 1e-6;
    for (double* angle : {&goals_.low_duration_crank_rad, &goals_.high_duration_crank_rad})
        *angle = radians(std::round(degrees(*angle) * 10) / 10);
    const auto loosely = [](double& si, int order) {
        const double unit = 1e-3 * std::pow(180 / kPi, order), value = si / unit;
        const double digit = value > 0 ? std::pow(10, std::floor(std::log10(value)) - 2) : 1;
        si = std::ceil(value / digit) * digit * unit;
    };
    loosely(goals_.most_acceleration_m_per_rad2, 2);
    loosely(goals_.most_jerk_m_per_rad3, 3);
    loosely(goals_.ramp_velocity_m_per_rad, 1);
    show_goals();
}

void DesignPanel::stop() {
    work_.stop();
    show_result();
}

void DesignPanel::shape() {
    made_from_ = goals_;
    work_.start(
        [this, goals = goals_](const std::stop_token& stop, const Background::Post& post) {
            LobeDesign made = design_lobe(goals, stop);
            post([this, made] {
                design_ = made;
                trade_.clear();
                standing_->setRowCount(0);
                show_result();
            });
            std::vector<TradePoint> trade = trade_of(goals, 7, stop);
            post([this, trade] { trade_ = trade; });
        },
        [this](const QString& failure) {
            show_result();
            if (!failure.isEmpty())
                words_->setText(QStringLiteral("■ ") + failure);
        });
    show_result();
    words_->setText(tr("Shaping…"));
}

Lobe DesignPanel::as_lobe() const {
    Lobe out = context_.document.has_train() ? context_.document.train().lobe : Lobe{};
    out.name = name_->text().trimmed().isEmpty() ? "New lobe" : name_->text().trimmed().toStdString();
    out.shape = design_->table;
    if (made_from_.base_radius_m > 0)
        out.base_radius_m = made_from_.base_radius_m;
    return out;
}

void DesignPanel::rank() {
    const LoadedLobe* chosen = set_.chosen();
    if (!design_ || !chosen || !context_.document.has_train())
        return;
    RankingQuery query;
    query.limit.range = context_.sweep.range();
    query.speed_rpm = context_.cursors.speed_rpm();
    const Lobe old = set_.in_hand(*chosen);
    work_.start(
        [this, query, train = context_.document.train(), lobes = std::vector<Lobe>{as_lobe(), old}](
            const std::stop_token& stop, const Background::Post& post) {
            std::vector<RankedLobe> found = rank_lobes(train, lobes, query, {}, stop);
            post([this, found] {
                standing_->setRowCount(static_cast<int>(found.size()));
                int row = 0;
                for (const RankedLobe& s : found) {
                    standing_->set_cell(row, 0, words(s.name), false);
                    standing_->set_cell(row, 1,
                                        !s.trouble.empty() ? phrase(s.trouble)
                                        : s.limit_rpm      ? speed_text(s.limit_rpm)
                                                           : tr("none in range"));
                    standing_->set_cell(
                        row, 2, words(s.limit_metric).replace(QLatin1Char('_'), QLatin1Char(' ')), false);
                    standing_->set_cell(row, 3,
                                        s.seating_m_per_s
                                            ? context_.units.text(Quantity::Velocity, *s.seating_m_per_s)
                                            : QStringLiteral("–"));
                    ++row;
                }
                standing_->resizeColumnsToContents();
            });
        },
        [this](const QString& failure) {
            show_result();
            if (!failure.isEmpty())
                words_->setText(QStringLiteral("■ ") + failure);
        });
    show_result();
}

void DesignPanel::shelve() {
    if (!design_ || !context_.document.has_train())
        return;
    Part part;
    part.kind = PartKind::Lobe;
    part.piece.layout = context_.document.train().layout;
    part.piece.lobe = as_lobe();
    part.name = part.piece.lobe.name;
    part.note = "Shaped from goals in the Lobe station";
    if (made_from_.least_radius_m > 0)
        part.facts.words["cut_for"] = "flat";
    if (const Id id = context_.document.add_part(part)) {
        set_.show_lobe(QStringLiteral("part %1").arg(id), true);
        set_.choose(QStringLiteral("part %1").arg(id));
    }
}

void DesignPanel::show_result() {
    const bool running = work_.running();
    shape_->setEnabled(!running);
    stop_->setVisible(running);
    rank_->setEnabled(!running && design_ && context_.document.has_train() && set_.chosen());
    shelve_->setEnabled(!running && design_ && context_.document.has_train());
    const QString unit = derivative_unit(context_.units, 2);
    curve_->set_axes(tr("crank angle from the nose, °"), tr("acceleration, %1").arg(unit));
    trade_plot_->set_axes(tr("deceleration over the nose, %1").arg(unit),
                          tr("area, %1 cam °").arg(context_.units.unit_name(Quantity::Length)));
    const auto draw = [&](int which, const LobeCurve& curve) {
        QVector<double> x, y;
        for (int deg = -240; deg <= 240; ++deg) {
            x.push_back(deg);
            y.push_back(derivative_value(context_.units, 2, curve.at(radians(deg / 2.0), 2)));
        }
        curve_->set_curve(which, x, y);
    };
    if (const LoadedLobe* chosen = set_.chosen(); chosen && chosen->curve)
        draw(1, *chosen->curve);
    else
        curve_->clear_curve(1);
    if (!design_) {
        words_->setText(
            tr("Give goals, then shape the lobe: it is found by optimisation, symmetric and smooth. "
               "If no lobe meets them, the limit that binds is named."));
        curve_->redraw();
        return;
    }
    draw(0, smooth_lobe(design_->table));
    curve_->redraw();
    limits_->setRowCount(static_cast<int>(design_->limits.size()));
    QStringList binding;
    int row = 0;
    for (const DesignLimit& limit : design_->limits) {
        const auto shown = [&](double si) {
            return si == 0 ? QStringLiteral("–")
                           : digits(derivative_value(context_.units, limit.order, si), 3);
        };
        limits_->set_cell(
            row, 0, phrase(limit.label) + QStringLiteral(", ") + derivative_unit(context_.units, limit.order),
            false);
        limits_->set_cell(row, 1, shown(limit.limit));
        limits_->set_cell(row, 2, shown(limit.value));
        limits_->set_cell(row, 3, limit.binds ? tr("△ binds") : QString(), false);
        if (limit.binds)
            binding.push_back(phrase(limit.label));
        ++row;
    }
    limits_->resizeColumnsToContents();
    const auto area = [&](double m_rad) { return context_.units.value(Quantity::Length, degrees(m_rad)); };
    words_->setText(tr("Area %1 %2 cam °. %3")
                        .arg(fixed(area(design_->area_m_rad), 1))
                        .arg(context_.units.unit_name(Quantity::Length),
                             binding.isEmpty()
                                 ? tr("No limit binds.")
                                 : tr("What binds: %1.").arg(binding.join(QStringLiteral(", ")))));
    QVector<double> x, y;
    for (const TradePoint& point : trade_) {
        x.push_back(derivative_value(context_.units, 2, point.deceleration_m_per_rad2));
        y.push_back(area(point.area_m_rad));
    }
    trade_plot_->set_curve(0, x, y);
    trade_plot_->set_curve(1, {derivative_value(context_.units, 2, design_->limits[1].value)},
                           {area(design_->area_m_rad)});
    trade_plot_->fit();
    trade_plot_->redraw();
}

} // namespace bathmos::app
