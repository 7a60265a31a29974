#include "app/stations/dyno/dyno_station.h"

#include "app/plot/plot.h"
#include "app/stations/dyno/pull_import_dialog.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"
#include "io/verdict/case_input.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileInfo>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

constexpr int kRough = -1, kDifference = -2; // beside the channels, in the choice of what stands below
enum PullColumn { Name, State, Peak, Break, Changed, Fuel, Boost, Notes };

QString words(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size()));
}

// Several pulls as one curve over speed, with a gap between them.
struct Joined {
    QVector<double> x, y;
    void add(const std::vector<double>& rpm, const std::vector<double>& values) {
        if (!x.isEmpty()) {
            x.push_back(x.back());
            y.push_back(std::nan(""));
        }
        for (std::size_t i = 0; i < rpm.size(); ++i) {
            x.push_back(rpm[i]);
            y.push_back(values[i]);
        }
    }
};

QString word(const Entry& entry, const char* key) {
    const auto at = entry.words.find(key);
    return at == entry.words.end() ? QString() : QString::fromStdString(at->second);
}

} // namespace

DynoStation::DynoStation(Context context, const Dialogs& dialogs, QWidget* parent)
    : Station(context, QStringLiteral("dyno"), parent), dialogs_(dialogs), pages_(new QStackedLayout(this)) {
    auto* empty =
        new EmptyNote(tr("<h3>Dyno</h3><p>Pulls of the engine before and after a change: where power breaks "
                         "away from its trend, how rough it is, and what else could explain it.</p>"
                         "<p>Import a pull: any table with speed and power or torque.</p>"));
    connect(empty->add_step(tr("Import dyno pulls…"), QStringLiteral("dyno_import_first")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("import_pull")); });
    pages_->addWidget(empty);
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(12, 8, 12, 8);
    layout->setSpacing(6);
    layout->addWidget(make_head());
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_plots());
    split->addWidget(make_tables());
    split->setStretchFactor(0, 3);
    split->setStretchFactor(1, 2);
    split->setSizes({700, 440});
    layout->addWidget(split, 1);
    pages_->addWidget(page);
    refresher_ = new Refresher(this, 30, [this] { refresh(); });
    const auto ask = [this] { refresher_->ask(); };
    connect(&context_.dyno, &DynoSession::changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    connect(&context_.sweep, &SweepRunner::motions_changed, this, ask);
    connect(&context_.sweep, &SweepRunner::finished, this, ask);
    connect(&context_.rig, &RigSession::changed, this, ask);
    connect(&context_.cursors, &Cursors::speed_changed, this, [this](double rpm) {
        power_->set_cursor(rpm);
        below_->set_cursor(rpm);
    });
    refresh();
}

QWidget* DynoStation::make_head() {
    auto* box = new QWidget;
    auto* line = new QHBoxLayout(box);
    line->setContentsMargins(0, 0, 0, 0);
    const auto choice = [&](const QString& name, const QString& label) {
        auto* combo = new QComboBox;
        combo->setObjectName(name);
        combo->setAccessibleName(label);
        combo->setMaximumWidth(230);
        auto* text = new QLabel(label);
        text->setBuddy(combo);
        line->addWidget(text);
        line->addWidget(combo);
        return combo;
    };
    state_ = choice(QStringLiteral("dyno_state"), tr("State"));
    against_ = choice(QStringLiteral("dyno_against"), tr("against"));
    quantity_ = choice(QStringLiteral("dyno_quantity"), tr("show"));
    quantity_->addItems({tr("power"), tr("torque")});
    correct_ = new QCheckBox(tr("correct by J1349"));
    correct_->setObjectName(QStringLiteral("dyno_correct"));
    correct_->setToolTip(tr("Else as recorded. Corrected and uncorrected pulls never share a plot."));
    line->addWidget(correct_);
    correction_ = new QLabel;
    correction_->setObjectName(QStringLiteral("dyno_correction"));
    line->addWidget(correction_, 1);
    auto* import = new QPushButton(tr("Import…"));
    import->setObjectName(QStringLiteral("dyno_import_button"));
    connect(import, &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("import_pull")); });
    line->addWidget(import);
    const auto chosen = [this] {
        if (!filling_)
            context_.dyno.choose(state_->currentIndex(), against_->currentIndex() - 1);
    };
    connect(state_, &QComboBox::currentIndexChanged, this, chosen);
    connect(against_, &QComboBox::currentIndexChanged, this, chosen);
    connect(quantity_, &QComboBox::currentIndexChanged, this, [this] { refresher_->ask(); });
    connect(correct_, &QCheckBox::toggled, &context_.dyno, &DynoSession::set_corrected);
    return box;
}

QWidget* DynoStation::make_plots() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 4, 0);
    layout->setSpacing(4);
    words_ = new QLabel;
    words_->setObjectName(QStringLiteral("dyno_words"));
    words_->setWordWrap(true);
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    layout->addWidget(words_);
    power_ = new Plot(context_.theme, tr("Power over speed"));
    before_trend_ = power_->add_curve(tr("before"), Role::Third, Stroke::Dashed);
    now_readings_ = power_->add_curve(tr("readings"), Role::Seen, Stroke::Points);
    now_trend_ = power_->add_curve(tr("trend"), Role::Seen);
    layout->addWidget(power_, 3);
    below_choice_ = new QComboBox;
    below_choice_->setObjectName(QStringLiteral("dyno_below"));
    below_choice_->setAccessibleName(tr("What stands below, over the same speed"));
    layout->addWidget(below_choice_);
    below_ = new Plot(context_.theme, tr("Below, over speed"));
    below_before_ = below_->add_curve(tr("against"), Role::Third, Stroke::Dashed);
    below_now_ = below_->add_curve(tr("this state"), Role::Seen);
    below_low_ = below_->add_curve(tr("band low"), Role::Faint, Stroke::Dashed);
    below_high_ = below_->add_curve(tr("band high"), Role::Faint, Stroke::Dashed);
    layout->addWidget(below_, 2);
    for (Plot* plot : {power_, below_}) {
        plot->set_cursor_step(10);
        plot->set_cursor(context_.cursors.speed_rpm());
        connect(plot, &Plot::cursor_moved, this, [this](double rpm) { context_.cursors.set_speed(rpm); });
    }
    connect(below_choice_, &QComboBox::currentIndexChanged, this, [this] {
        if (!filling_)
            draw_below();
    });
    return box;
}

QWidget* DynoStation::make_tables() {
    tabs_ = new QTabWidget;
    tabs_->setObjectName(QStringLiteral("dyno_tabs"));
    const auto table = [&](const QString& name, const QString& title, const QStringList& headings) {
        auto* out = new NumberTable(name);
        out->setAccessibleName(title);
        out->set_headings(headings);
        out->horizontalHeader()->setStretchLastSection(true);
        return out;
    };
    auto* says = new QWidget;
    auto* layout = new QVBoxLayout(says);
    layout->setContentsMargins(0, 4, 0, 0);
    summary_ = table(QStringLiteral("dyno_summary"), tr("What the pulls say"),
                     {tr("What the pulls say"), tr("Value")});
    confounders_ = table(QStringLiteral("dyno_confounders"), tr("What else could explain it"),
                         {tr("What else"), tr("Found"), tr("How it is known, or what would settle it")});
    confounders_->setWordWrap(true);
    confounders_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    connect(confounders_, &QTableWidget::cellActivated, this, [this](int row) {
        const QString link = confounders_->item(row, 0)->data(Qt::UserRole).toString();
        if (!link.isEmpty())
            show_link(link);
    });
    layout->addWidget(summary_, 2);
    layout->addWidget(confounders_, 3);
    tabs_->addTab(says, tr("What they say"));
    gains_ = table(QStringLiteral("dyno_gains"), tr("Gain by range of speed"),
                   {tr("rev/min"), tr("gain"), tr("± 95 %"), tr("told")});
    tabs_->addTab(gains_, tr("Difference"));
    auto* kept = new QWidget;
    auto* kept_layout = new QVBoxLayout(kept);
    kept_layout->setContentsMargins(0, 4, 0, 0);
    pulls_ = new QTableWidget;
    pulls_->setObjectName(QStringLiteral("dyno_pulls"));
    pulls_->setAccessibleName(tr("Pulls of this build"));
    pulls_->setColumnCount(8);
    pulls_->setHorizontalHeaderLabels({tr("pull"), tr("state"), tr("peak"), tr("break"), tr("also changed"),
                                       tr("fuel"), tr("boost, kPa"), tr("notes")});
    pulls_->verticalHeader()->hide();
    pulls_->setSelectionBehavior(QAbstractItemView::SelectRows);
    connect(pulls_, &QTableWidget::cellChanged, this, &DynoStation::edit_pull);
    kept_layout->addWidget(pulls_, 1);
    remove_ = new QPushButton(tr("Take out the chosen pull"));
    remove_->setObjectName(QStringLiteral("dyno_remove"));
    remove_->setToolTip(tr("Undo brings it back; the readings stay in the file."));
    connect(remove_, &QPushButton::clicked, this, &DynoStation::remove_pull);
    connect(pulls_, &QTableWidget::itemSelectionChanged, this,
            [this] { remove_->setEnabled(!pulls_->selectedItems().isEmpty()); });
    kept_layout->addWidget(remove_, 0, Qt::AlignLeft);
    tabs_->addTab(kept, tr("Pulls"));
    return tabs_;
}

void DynoStation::import_file(const QString& path) {
    try {
        PullImportDialog dialog(path, context_.document.project(), context_.document.shown(), this);
        if (dialog.exec() != QDialog::Accepted)
            return;
        std::vector<std::pair<Entry, io::PackedTrace>> pulls;
        for (const Pull& pull : dialog.pulls())
            pulls.emplace_back(dialog.entry_for(pull), io::packed(io::trace_of(pull)));
        if (context_.document.add_pulls(QFileInfo(path).fileName(), pulls))
            dialog.remember();
    } catch (const InputError& error) {
        emit message(tr("The pulls were not imported. %1").arg(QString::fromStdString(error.what())));
    }
}

void DynoStation::show_link(const QString& link) {
    const QStringList parts = link.split(QLatin1Char('/'));
    int wanted = kRough;
    if (parts.size() > 1 && parts[1] == QStringLiteral("difference"))
        wanted = kDifference;
    else if (parts.size() > 2 && parts[1] == QStringLiteral("channel"))
        if (const auto channel = find_pull_channel(parts[2].toStdString()))
            wanted = static_cast<int>(*channel);
    if (const int at = below_choice_->findData(wanted); at >= 0)
        below_choice_->setCurrentIndex(at);
}

void DynoStation::refresh() {
    const DynoSession& dyno = context_.dyno;
    pages_->setCurrentIndex(dyno.states().empty() && !dyno.running() && dyno.trouble().isEmpty() ? 0 : 1);
    fill_choices();
    fill_summary();
    fill_confounders();
    fill_gains();
    fill_pulls();
    draw_power();
    draw_below();
}

void DynoStation::fill_choices() {
    filling_ = true;
    const DynoSession& dyno = context_.dyno;
    state_->clear();
    against_->clear();
    against_->addItem(tr("nothing"));
    for (const DynoState& state : dyno.states()) {
        state_->addItem(state.label);
        against_->addItem(state.label);
    }
    state_->setCurrentIndex(dyno.state());
    against_->setCurrentIndex(dyno.against() + 1);
    const int kept = below_choice_->count() ? below_choice_->currentData().toInt() : kRough;
    below_choice_->clear();
    below_choice_->addItem(tr("Roughness by 250 rev/min"), kRough);
    below_choice_->addItem(tr("Difference to the state it is compared with"), kDifference);
    for (std::size_t c = static_cast<std::size_t>(PullChannel::Manifold); c < kPullChannels; ++c) {
        const auto channel = static_cast<PullChannel>(c);
        const auto has = [&](const DynoState* state) {
            return state && std::any_of(state->pulls.begin(), state->pulls.end(),
                                        [&](const auto& pull) { return pull->pull.has(channel); });
        };
        if (has(dyno.shown()) || has(dyno.compared()))
            below_choice_->addItem(words(info(channel).label), static_cast<int>(c));
    }
    below_choice_->setCurrentIndex(std::max(0, below_choice_->findData(kept)));
    QString correction = dyno.running() ? tr("reading…") : QString();
    if (const DynoState* state = dyno.shown();
        state && !state->pulls.empty() && state->pulls.front()->correction) {
        const Correction& c = *state->pulls.front()->correction;
        correction = tr("factor %1: %2 kPa dry, %3 °C%4")
                         .arg(c.factor, 0, 'f', 4)
                         .arg(c.dry_Pa / 1e3, 0, 'f', 2)
                         .arg(c.air_K - 273.15, 0, 'f', 1)
                         .arg(c.vapour_known ? QString() : tr(", vapour not logged"));
        if (!c.caution.empty())
            correction += QStringLiteral(" ▲ ") + QString::fromStdString(c.caution);
    } else if (state && !dyno.corrected()) {
        correction = tr("as recorded");
    }
    correction_->setText(correction);
    correction_->setToolTip(correction);
    filling_ = false;
}

double DynoStation::shown_power(double si) const {
    return context_.units.value(Quantity::Power, si);
}

double DynoStation::channel_value(PullChannel channel, double si) const {
    const bool inch = context_.units.system() == UnitSystem::Inch;
    if (channel == PullChannel::Air && inch)
        return (si - 273.15) * 1.8 + 32;
    if (info(channel).unit == "kPa")
        return context_.units.value(Quantity::Pressure, si);
    return (si - info(channel).zero_si) / info(channel).to_si;
}

QString DynoStation::channel_unit(PullChannel channel) const {
    const bool inch = context_.units.system() == UnitSystem::Inch;
    if (channel == PullChannel::Air && inch)
        return tr("°F");
    return info(channel).unit == "kPa" ? context_.units.unit_name(Quantity::Pressure)
                                       : words(info(channel).unit);
}

void DynoStation::draw_power() {
    const DynoSession& dyno = context_.dyno;
    const bool torque = quantity_->currentIndex() == 1;
    const Quantity quantity = torque ? Quantity::Torque : Quantity::Power;
    const auto shown = [&](const PullAnalysis& a, const std::vector<double>& power) {
        std::vector<double> out;
        for (std::size_t i = 0; i < power.size(); ++i)
            out.push_back(context_.units.value(quantity, torque ? power[i] / (a.curve.speed_rpm[i] * kPi / 30)
                                                                : power[i]));
        return out;
    };
    Joined readings, trend, before;
    if (const DynoState* state = dyno.shown())
        for (const auto& pull : state->pulls) {
            readings.add(pull->analysis.curve.speed_rpm, shown(pull->analysis, pull->analysis.curve.power_W));
            trend.add(pull->analysis.curve.speed_rpm, shown(pull->analysis, pull->analysis.trend_W));
        }
    if (const DynoState* state = dyno.compared())
        for (const auto& pull : state->pulls)
            before.add(pull->analysis.curve.speed_rpm, shown(pull->analysis, pull->analysis.trend_W));
    power_->set_axes({},
                     (torque ? tr("torque, %1") : tr("power, %1")).arg(context_.units.unit_name(quantity)));
    power_->restyle_curve(now_trend_, dyno.shown() ? dyno.shown()->label : tr("this state"), Role::Seen,
                          Stroke::Solid);
    power_->restyle_curve(before_trend_, dyno.compared() ? dyno.compared()->label : tr("against"),
                          Role::Third, Stroke::Dashed);
    power_->set_curve(now_readings_, readings.x, readings.y, true); // the trend stands out
    power_->set_curve(now_trend_, trend.x, trend.y);
    power_->set_curve(before_trend_, before.x, before.y);
    QVector<Plot::Mark> marks;
    if (const DynoState* state = dyno.shown()) {
        if (state->first_break)
            marks.push_back({state->first_break->speed_rpm,
                             tr("break %1").arg(state->first_break->speed_rpm, 0, 'f', 0), Role::Seen});
        std::vector<double> rough;
        for (const auto& pull : state->pulls)
            if (pull->analysis.rough_from_rpm)
                rough.push_back(*pull->analysis.rough_from_rpm);
        if (2 * rough.size() > state->pulls.size())
            marks.push_back(
                {*std::min_element(rough.begin(), rough.end()),
                 tr("rough from %1").arg(*std::min_element(rough.begin(), rough.end()), 0, 'f', 0),
                 Role::LimitMark});
    }
    if (const SweepSummary* s = context_.sweep.summary(); s && s->limit.speed_rpm)
        marks.push_back(
            {*s->limit.speed_rpm, tr("model %1").arg(*s->limit.speed_rpm, 0, 'f', 0), Role::Predicted});
    if (const RigRun* run = context_.rig.run(); run && run->edge.edge.speed_rpm)
        marks.push_back(
            {*run->edge.edge.speed_rpm, tr("rig %1").arg(*run->edge.edge.speed_rpm, 0, 'f', 0), Role::Asked});
    power_->set_marks(marks);
    double low = 1e9, high = 0;
    for (const DynoState* state : {dyno.shown(), dyno.compared()})
        if (state)
            for (const auto& pull : state->pulls) {
                low = std::min(low, pull->analysis.curve.speed_rpm.front());
                high = std::max(high, pull->analysis.curve.speed_rpm.back());
            }
    if (high > low)
        for (Plot* plot : {power_, below_})
            plot->set_x_range(low - 50, high + 100);
    power_->redraw();
}

void DynoStation::draw_below() {
    below_->set_marks({});
    below_->set_limits({});
    for (int curve : {below_now_, below_before_, below_low_, below_high_})
        below_->clear_curve(curve);
    below_->set_y_at_least(0, 0);
    const int what = below_choice_->currentData().toInt();
    if (what == kRough)
        draw_roughness();
    else if (what == kDifference)
        draw_difference();
    else
        draw_channel();
    below_->redraw();
}

void DynoStation::draw_roughness() {
    const auto joined = [&](const DynoState* state) {
        Joined out;
        if (state)
            for (const auto& pull : state->pulls) {
                std::vector<double> x, y;
                for (const Roughness& r : pull->analysis.roughness) {
                    x.push_back(r.middle_rpm);
                    y.push_back(shown_power(r.rms_W));
                }
                out.add(x, y);
            }
        return out;
    };
    const Joined now = joined(context_.dyno.shown()), before = joined(context_.dyno.compared());
    below_->set_axes(tr("rev/min"), tr("roughness, %1").arg(context_.units.unit_name(Quantity::Power)));
    below_->set_curve(below_now_, now.x, now.y);
    below_->set_curve(below_before_, before.x, before.y);
}

void DynoStation::draw_difference() {
    below_->set_axes(tr("rev/min"), tr("gain, %1").arg(context_.units.unit_name(Quantity::Power)));
    const auto change = context_.dyno.change();
    if (!change)
        return;
    QVector<double> x, gain, low, high, zero;
    for (std::size_t i = 0; i < change->speed_rpm.size(); ++i) {
        x.push_back(change->speed_rpm[i]);
        gain.push_back(shown_power(change->gain_W[i]));
        zero.push_back(0);
        if (!change->band_W.empty()) {
            low.push_back(shown_power(change->gain_W[i] - change->band_W[i]));
            high.push_back(shown_power(change->gain_W[i] + change->band_W[i]));
        }
    }
    below_->set_curve(below_now_, x, gain);
    below_->set_curve(below_before_, x, zero);
    if (!low.isEmpty()) {
        below_->set_curve(below_low_, x, low);
        below_->set_curve(below_high_, x, high);
    }
}

void DynoStation::draw_channel() {
    const auto channel = static_cast<PullChannel>(below_choice_->currentData().toInt());
    const QString unit = channel_unit(channel);
    below_->set_axes(tr("rev/min"),
                     words(info(channel).label) + (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit));
    const auto joined = [&](const DynoState* state) {
        Joined out;
        if (state)
            for (const auto& pull : state->pulls) {
                std::vector<double> values = channel_on(pull->pull, channel, pull->analysis.curve);
                for (double& value : values)
                    value = channel_value(channel, value);
                if (!values.empty())
                    out.add(pull->analysis.curve.speed_rpm, values);
            }
        return out;
    };
    const Joined now = joined(context_.dyno.shown()), before = joined(context_.dyno.compared());
    below_->set_curve(below_now_, now.x, now.y);
    below_->set_curve(below_before_, before.x, before.y);
    if (const DynoState* state = context_.dyno.shown()) {
        QVector<Plot::Mark> marks;
        for (const auto& pull : state->pulls)
            for (const ConfounderTest& t : pull->tests)
                if (t.standing == Standing::Seen && t.channel == channel && t.from_rpm && marks.isEmpty())
                    marks.push_back({*t.from_rpm, words(info(t.kind).label), Role::LimitMark});
        below_->set_marks(marks);
    }
}

void DynoStation::fill_summary() {
    summary_->setRowCount(0);
    const DynoState* state = context_.dyno.shown();
    words_->setText(context_.dyno.trouble());
    if (!state || state->pulls.empty())
        return;
    const auto add = [&](const QString& what, const QString& value) {
        const int row = summary_->rowCount();
        summary_->setRowCount(row + 1);
        summary_->set_cell(row, 0, what, false);
        summary_->set_cell(row, 1, value, false);
        summary_->item(row, 1)->setToolTip(value);
    };
    const QString unit = context_.units.unit_name(Quantity::Power);
    const auto number = [&](double si) { return QString::number(shown_power(si), 'f', 1); };
    if (const auto& b = state->first_break) {
        words_->setText(
            tr("Power breaks away from its trend at %1 rev/min, by %2 %3, in %4 of %5 pulls. A break is no "
               "proof of float. %6")
                .arg(b->speed_rpm, 0, 'f', 0)
                .arg(number(b->depth_W), unit)
                .arg(b->pulls)
                .arg(b->of)
                .arg(context_.dyno.trouble()));
        add(tr("Break"), tr("%1 rev/min, repeats within ± %2")
                             .arg(b->speed_rpm, 0, 'f', 0)
                             .arg(b->scatter_rpm, 0, 'f', 0));
        add(tr("Depth, confidence"),
            tr("%1 %2, %3 %").arg(number(b->depth_W), unit).arg(std::floor(100 * b->confidence), 0, 'f', 0));
    } else {
        words_->setText(
            tr("No break is claimed: a smooth trend explains these pulls. %1").arg(context_.dyno.trouble()));
        add(tr("Break"), tr("none claimed"));
    }
    for (const auto& pull : state->pulls) {
        const PullAnalysis& a = pull->analysis;
        add(QString::fromStdString(pull->pull.name),
            tr("%1 %2 at %3; %4 %5 at %6 rev/min")
                .arg(number(a.peak_W), unit)
                .arg(a.peak_rpm, 0, 'f', 0)
                .arg(context_.units.number(Quantity::Torque, a.torque_peak_Nm),
                     context_.units.unit_name(Quantity::Torque))
                .arg(a.torque_peak_rpm, 0, 'f', 0));
        QStringList more;
        for (const PowerBreak& b : a.breaks.breaks)
            more.push_back(tr("break %1 ± %2, %3 %")
                               .arg(b.speed_rpm, 0, 'f', 0)
                               .arg(b.sigma_rpm, 0, 'f', 0)
                               .arg(std::floor(100 * b.confidence), 0, 'f', 0));
        for (const PowerDip& d : a.breaks.dips)
            more.push_back(
                tr("dips from %1 to %2, comes back").arg(d.from_rpm, 0, 'f', 0).arg(d.to_rpm, 0, 'f', 0));
        if (a.cut)
            more.push_back(tr("cut off at %1").arg(a.cut->speed_rpm, 0, 'f', 0));
        more.push_back(tr("%1 times as rough at the top").arg(a.rough_top, 0, 'f', 1));
        if (a.curve.left_out)
            more.push_back(tr("%1 readings left out").arg(a.curve.left_out));
        add({}, more.join(QStringLiteral("; ")));
    }
}

void DynoStation::fill_confounders() {
    confounders_->setRowCount(0);
    const DynoState* state = context_.dyno.shown();
    if (!state || state->pulls.empty())
        return;
    std::vector<std::vector<ConfounderTest>> tests;
    for (const auto& pull : state->pulls)
        tests.push_back(pull->tests);
    for (const ConfounderTest& t : test_confounders(tests)) {
        const int row = confounders_->rowCount();
        confounders_->setRowCount(row + 1);
        confounders_->set_cell(row, 0, words(info(t.kind).label), false);
        if (t.channel)
            confounders_->item(row, 0)->setData(Qt::UserRole, QStringLiteral("dyno/channel/") +
                                                                  words(info(*t.channel).key));
        confounders_->set_cell(row, 1,
                               t.standing == Standing::Seen ? tr("▲ seen, %1 %").arg(100 * t.seen, 0, 'f', 0)
                               : t.standing == Standing::Clear
                                   ? tr("clear, %1 %").arg(100 * (1 - t.seen), 0, 'f', 0)
                                   : tr("○ not logged"),
                               false);
        QString text = QString::fromStdString(t.text);
        if (t.standing == Standing::Seen && t.from_rpm)
            text += tr("; from %1 rev/min").arg(*t.from_rpm, 0, 'f', 0);
        confounders_->set_cell(row, 2, text, false);
        confounders_->item(row, 2)->setToolTip(text);
    }
    confounders_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Fixed);
    confounders_->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Stretch);
    confounders_->setColumnWidth(0, 130);
    confounders_->resizeRowsToContents();
}

void DynoStation::fill_gains() {
    gains_->setRowCount(0);
    const auto change = context_.dyno.change();
    if (!change)
        return;
    const auto add = [&](const QString& name, const RangeGain& r) {
        const int row = gains_->rowCount();
        gains_->setRowCount(row + 1);
        gains_->set_cell(row, 0, name);
        gains_->set_cell(row, 1, QStringLiteral("%1").arg(shown_power(r.gain_W), 0, 'f', 1));
        gains_->set_cell(row, 2,
                         r.plus_minus_W ? QString::number(shown_power(*r.plus_minus_W), 'f', 1)
                                        : QStringLiteral("–"));
        gains_->set_cell(row, 3,
                         !r.plus_minus_W                        ? tr("not repeated")
                         : std::abs(r.gain_W) > *r.plus_minus_W ? (r.gain_W > 0 ? tr("gain") : tr("loss"))
                                                                : tr("within scatter"),
                         false);
    };
    gains_->set_headings({tr("rev/min"), tr("gain, %1").arg(context_.units.unit_name(Quantity::Power)),
                          tr("± 95 %"), tr("told")});
    for (const RangeGain& r : change->ranges)
        add(QStringLiteral("%1 … %2").arg(r.from_rpm, 0, 'f', 0).arg(r.to_rpm, 0, 'f', 0), r);
    add(tr("all"), change->all);
}

void DynoStation::fill_pulls() {
    filling_ = true;
    pulls_->setRowCount(0);
    for (const DynoState& state : context_.dyno.states())
        for (const auto& pull : state.pulls) {
            const auto entry = context_.document.project().of(EntryKind::DynoPull).find(pull->entry);
            if (entry == context_.document.project().of(EntryKind::DynoPull).end())
                continue;
            const int row = pulls_->rowCount();
            pulls_->setRowCount(row + 1);
            const auto set = [&](int column, const QString& text, bool editable) {
                auto* item = new QTableWidgetItem(text);
                item->setData(Qt::UserRole, QVariant::fromValue<qlonglong>(pull->entry));
                if (!editable)
                    item->setFlags(item->flags() & ~Qt::ItemIsEditable);
                pulls_->setItem(row, column, item);
            };
            const PowerBreak* first = pull->analysis.first_break();
            set(Name, QString::fromStdString(entry->second.name), false);
            set(State, state.label, false);
            set(Peak, QString::number(shown_power(pull->analysis.peak_W), 'f', 1), false);
            set(Break, first ? QString::number(first->speed_rpm, 'f', 0) : QStringLiteral("–"), false);
            set(Changed, word(entry->second, "changed"), true);
            set(Fuel, word(entry->second, "fuel"), true);
            const auto boost = entry->second.numbers.find("boost_kPa");
            set(Boost, boost == entry->second.numbers.end() ? QString() : QString::number(boost->second),
                true);
            set(Notes, QString::fromStdString(entry->second.text), true);
        }
    pulls_->resizeColumnsToContents();
    remove_->setEnabled(false);
    filling_ = false;
}

void DynoStation::edit_pull(int row, int column) {
    if (filling_)
        return;
    const Id id = pulls_->item(row, column)->data(Qt::UserRole).toLongLong();
    Entry entry = context_.document.project().of(EntryKind::DynoPull).at(id);
    const QString text = pulls_->item(row, column)->text().trimmed();
    const auto put = [&](const char* key) {
        if (text.isEmpty())
            entry.words.erase(key);
        else
            entry.words[key] = text.toStdString();
    };
    if (column == Changed)
        put("changed");
    else if (column == Fuel)
        put("fuel");
    else if (column == Notes)
        entry.text = text.toStdString();
    else if (column == Boost) {
        bool good = true;
        const double value = text.isEmpty() ? 0 : text.toDouble(&good);
        if (!good) {
            emit message(tr("Boost \"%1\" is no number: give kPa above ambient, or nothing.").arg(text));
            return fill_pulls();
        }
        entry.numbers.erase("boost_kPa");
        if (!text.isEmpty())
            entry.numbers["boost_kPa"] = value;
    }
    context_.document.set_entry(EntryKind::DynoPull, id, entry,
                                tr("Pull %1 noted").arg(QString::fromStdString(entry.name)));
}

void DynoStation::remove_pull() {
    if (pulls_->selectedItems().isEmpty())
        return;
    const Id id = pulls_->selectedItems().first()->data(Qt::UserRole).toLongLong();
    context_.document.remove_entry(EntryKind::DynoPull, id,
                                   tr("Pull %1 taken out").arg(pulls_->selectedItems().first()->text()));
}

QString DynoStation::help() const {
    return tr(
        "<h3>Dyno</h3><p>Import pulls (Ctrl+D): any table with speed and power or torque; several pulls in a "
        "file are told "
        "apart. Say what else was changed beside the train: pulls of one revision with the same surroundings "
        "are one "
        "<i>state</i>.</p>"
        "<p><b>Break</b>: where power leaves its own smooth trend downward and stays below. It is not the "
        "peak, and no "
        "proof of float. A smooth rollover has none. <b>Roughness</b>: power less its trend, by 250 "
        "rev/min.</p>"
        "<p><b>Difference</b>: this state less the one it is compared with; the band is 95 %, from how the "
        "pulls of one "
        "state scatter. One pull a state has no band.</p>"
        "<p><b>What else could explain it</b>: each has its own test. <i>Not logged</i> means it cannot be "
        "excluded: the "
        "channel or the cheap trial that would settle it stands beside it. Enter on a row shows its channel "
        "below.</p>"
        "<p>Correction by SAE J1349 takes the logged air and barometer; factor and inputs stand beside it. "
        "Corrected and "
        "uncorrected pulls never share a plot. In <i>Pulls</i>, double click changes what was noted.</p>"
        "<p><b>Caution.</b> A dyno needs guards, an interlock, ventilation and a clear room; its maker's "
        "instructions, "
        "local rules and a competent person come first.</p>");
}

} // namespace bathmos::app
