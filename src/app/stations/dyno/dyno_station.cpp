#include "app/stations/dyno/dyno_station.h"

#include "app/plot/plot.h"
#include "app/stations/dyno/pull_import_dialog.h"
#include "app/stations/dyno/pull_tables.h"
#include "app/stations/dyno/pulls_panel.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileInfo>
#include <QLabel>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

constexpr int kRough = -1, kDifference = -2; // beside the channels, in the choice of what stands below
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
    tables_ = new PullTables(context_);
    pulls_ = new PullsPanel(context_);
    tables_->add_tab(pulls_, tr("Pulls"));
    connect(tables_, &PullTables::location_wanted, this, &DynoStation::navigate);
    connect(pulls_, &PullsPanel::message, this, &Station::message);
    split->addWidget(tables_);
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
    now_readings_ = power_->add_curve(tr("readings"), Role::Measured, Stroke::Points);
    now_trend_ = power_->add_curve(tr("trend"), Role::Measured);
    layout->addWidget(power_, 3);
    below_choice_ = new QComboBox;
    below_choice_->setObjectName(QStringLiteral("dyno_below"));
    below_choice_->setAccessibleName(tr("What stands below, over the same speed"));
    layout->addWidget(below_choice_);
    below_ = new Plot(context_.theme, tr("Below, over speed"));
    below_before_ = below_->add_curve(tr("against"), Role::Third, Stroke::Dashed);
    below_now_ = below_->add_curve(tr("this state"), Role::Measured);
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

void DynoStation::import_file(const QString& path) {
    try {
        PullImportDialog dialog(path, context_.document.project(), context_.document.shown(), this);
        if (dialog.exec() != QDialog::Accepted)
            return;
        std::vector<session::NotedPull> pulls;
        for (const Pull& pull : dialog.pulls())
            pulls.push_back(session::noted(pull, dialog.note()));
        session::note_use(pulls, native(path));
        if (!context_.document.add_pulls(QFileInfo(path).fileName(), pulls))
            return;
        dialog.remember();
        QStringList lost;
        for (const Pull& pull : dialog.pulls())
            for (const std::string& reading : pull.cannot_be)
                lost << words(pull.name + ": " + reading);
        lost.removeDuplicates();
        if (!lost.isEmpty())
            emit message(
                tr("Readings that cannot be were taken as lost. %1").arg(lost.join(QStringLiteral("; "))));
    } catch (const InputError& error) {
        emit message(tr("The pulls were not imported. %1").arg(phrase(error.what())));
    }
}

void DynoStation::navigate(const QString& location) {
    if (location == QStringLiteral("states"))
        return tables_->show_states();
    int wanted = kRough;
    if (location == QStringLiteral("difference"))
        wanted = kDifference;
    else if (location.startsWith(QStringLiteral("channel/")))
        if (const auto channel = find_pull_channel(location.section(QLatin1Char('/'), 1).toStdString()))
            wanted = static_cast<int>(*channel);
    if (const int at = below_choice_->findData(wanted); at >= 0)
        below_choice_->setCurrentIndex(at);
}

void DynoStation::refresh() {
    const DynoSession& dyno = context_.dyno;
    pages_->setCurrentIndex(dyno.states().empty() && !dyno.running() && dyno.trouble().isEmpty() ? 0 : 1);
    fill_choices();
    fill_words();
    tables_->fill();
    pulls_->fill();
    draw_power();
    draw_below();
}

void DynoStation::fill_words() {
    const DynoState* state = context_.dyno.shown();
    const QString trouble = context_.dyno.trouble();
    if (!state || state->pulls.empty())
        return words_->setText(trouble);
    const auto& b = state->first_break;
    words_->setText(
        b ? tr("Power breaks away from its trend at %1 rev/min, by %2 %3, in %4 of %5 pulls. A break is "
               "no proof of float. %6")
                .arg(fixed(b->speed_rpm, 0))
                .arg(fixed(shown_power(b->depth_W), 1))
                .arg(context_.units.unit_name(Quantity::Power))
                .arg(b->pulls)
                .arg(b->of)
                .arg(trouble)
          : tr("No break is claimed: a smooth trend explains these pulls. %1").arg(trouble));
}

void DynoStation::fill_choices() {
    filling_ = true;
    const DynoSession& dyno = context_.dyno;
    state_->clear();
    against_->clear();
    against_->addItem(tr("nothing"));
    for (const DynoState& state : dyno.states()) {
        state_->addItem(words(state.label));
        against_->addItem(words(state.label));
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
            below_choice_->addItem(phrase(info(channel).label), static_cast<int>(c));
    }
    below_choice_->setCurrentIndex(std::max(0, below_choice_->findData(kept)));
    QString correction = dyno.running() ? tr("reading…") : QString();
    if (const DynoState* state = dyno.shown();
        state && !state->pulls.empty() && state->pulls.front()->correction) {
        const Correction& c = *state->pulls.front()->correction;
        correction = tr("factor %1: %2 kPa dry, %3 °C%4")
                         .arg(fixed(c.factor, 4))
                         .arg(fixed(c.dry_Pa / 1e3, 2))
                         .arg(fixed(c.air_K - 273.15, 1))
                         .arg(c.vapour_known ? QString() : tr(", vapour not logged"));
        if (!c.caution.empty())
            correction += QStringLiteral(" ▲ ") + phrase(c.caution);
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
    power_->restyle_curve(now_trend_, dyno.shown() ? words(dyno.shown()->label) : tr("this state"),
                          Role::Measured, Stroke::Solid);
    power_->restyle_curve(before_trend_, dyno.compared() ? words(dyno.compared()->label) : tr("against"),
                          Role::Third, Stroke::Dashed);
    power_->set_curve(now_readings_, readings.x, readings.y, true); // the trend stands out
    power_->set_curve(now_trend_, trend.x, trend.y);
    power_->set_curve(before_trend_, before.x, before.y);
    QVector<Plot::Mark> marks;
    if (const DynoState* state = dyno.shown()) {
        if (state->first_break)
            marks.push_back({state->first_break->speed_rpm,
                             tr("break %1").arg(fixed(state->first_break->speed_rpm, 0)), Role::Measured});
        std::vector<double> rough;
        for (const auto& pull : state->pulls)
            if (pull->analysis.rough_from_rpm)
                rough.push_back(*pull->analysis.rough_from_rpm);
        if (2 * rough.size() > state->pulls.size())
            marks.push_back({*std::min_element(rough.begin(), rough.end()),
                             tr("rough from %1").arg(fixed(*std::min_element(rough.begin(), rough.end()), 0)),
                             Role::LimitMark});
    }
    if (const SweepSummary* s = context_.sweep.summary(); s && s->limit.speed_rpm)
        marks.push_back(
            {*s->limit.speed_rpm, tr("model %1").arg(fixed(*s->limit.speed_rpm, 0)), Role::Predicted});
    if (const RigRun* run = context_.rig.run(); run && run->onset.onset.speed_rpm)
        marks.push_back({*run->onset.onset.speed_rpm, tr("rig %1").arg(fixed(*run->onset.onset.speed_rpm, 0)),
                         Role::Kinematic});
    power_->set_marks(marks, Plot::MarkWords::Foot); // at high speed the curve is up
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
    below_->set_axes(tr("rev/min"), phrase(info(channel).label) +
                                        (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit));
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
                if (t.status == TestStatus::Seen && t.channel == channel && t.from_rpm && marks.isEmpty())
                    marks.push_back({*t.from_rpm, phrase(info(t.kind).label), Role::LimitMark});
        below_->set_marks(marks);
    }
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
        "<p><b>States</b>: all states of the build beside each other: where each breaks, what is missing at "
        "the top against the trend below the break continued, what low, middle and top third gain over the "
        "state that is compared with, where the curves cross; and with which state a break appears and goes. "
        "The verdict counts it when a break goes, or stays, with a later state.</p>"
        "<p><b>What else could explain it</b>: each has its own test. <i>Not logged</i> means it cannot be "
        "excluded: the "
        "channel or the cheap trial that would settle it stands beside it. Enter on a row shows its channel "
        "below.</p>"
        "<p>Correction by SAE J1349 takes the logged air and barometer; factor and inputs stand beside it. "
        "Corrected and "
        "uncorrected pulls never share a plot. In <i>Pulls</i>, double click changes what was noted. A "
        "reading that "
        "cannot be (a speed of 1e10, a torque of twice its neighbours in one row) is taken as lost and named "
        "on "
        "import.</p>"
        "<p><b>Caution.</b> A dyno needs guards, an interlock, ventilation and a clear room; its maker's "
        "instructions, "
        "local rules and a competent person come first.</p>");
}

} // namespace bathmos::app
