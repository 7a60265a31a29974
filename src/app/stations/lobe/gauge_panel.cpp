#include "app/stations/lobe/gauge_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/lobe/base_circle.h"
#include "core/problem/input_error.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSlider>
#include <QSplitter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {
constexpr int kStepsPerDecade = 20;
}

GaugePanel::GaugePanel(Context context, LobeSet& set, QWidget* parent)
    : QWidget(parent), context_(context), set_(set) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 0);
    words_ = new QLabel;
    words_->setObjectName(QStringLiteral("gauge_words"));
    words_->setWordWrap(true);
    layout->addWidget(words_);
    auto* split = new QSplitter(Qt::Horizontal);
    residual_ = new Plot(context_.theme, tr("Reading less curve"));
    residual_->add_curve(tr("residual"), Role::Measured, Stroke::Points);
    residual_->add_curve(tr("noise, ± 1 sd"), Role::Kinematic, Stroke::Dashed);
    residual_->add_curve({}, Role::Kinematic, Stroke::Dashed);
    residual_->add_curve(tr("other machine"), Role::Third, Stroke::Points);
    residual_->set_x_range(-360, 360);
    residual_->set_cursor_step(0.5);
    connect(residual_, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    connect(&context_.cursors, &Cursors::crank_changed, this,
            [this](double deg) { residual_->set_cursor(deg); });
    split->addWidget(residual_);
    controls_ = make_controls();
    split->addWidget(controls_);
    split->setStretchFactor(0, 1);
    split->setSizes({560, 400});
    layout->addWidget(split, 1);
    refresh_ = new Refresher(this, kPage_ms, [this] { refresh(); });
    const auto ask = [this] { refresh_->ask(); };
    connect(&set_, &LobeSet::changed, this, ask);
    connect(&set_, &LobeSet::chosen_changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    ask();
}

QWidget* GaugePanel::make_controls() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 0, 0);
    auto* form = new QFormLayout;
    layout->addLayout(form);
    const auto choice = [&](const QString& name, const QString& label, const QStringList& items) {
        auto* out = new QComboBox;
        out->setObjectName(name);
        out->setAccessibleName(label);
        out->addItems(items);
        form->addRow(label, out);
        return out;
    };
    rule_ = choice(QStringLiteral("gauge_rule"), tr("Smoothing"),
                   {tr("follows each stretch of the lobe"), tr("one weight all round")});
    strength_ = new QSlider(Qt::Horizontal);
    strength_->setObjectName(QStringLiteral("gauge_strength"));
    strength_->setAccessibleName(tr("Strength of the smoothing"));
    strength_->setRange(-4 * kStepsPerDecade, 4 * kStepsPerDecade);
    strength_words_ = new QLabel;
    auto* line = new QHBoxLayout;
    line->addWidget(strength_, 1);
    line->addWidget(strength_words_);
    form->addRow(tr("Strength"), line);
    noise_ = new NumberField(
        context_.units, Quantity::FineLength, QStringLiteral("gauge_noise"), {},
        tr("Noise of a reading, one standard deviation; 0: found from base circle or residual."),
        [](double um) { return um >= 0 && um <= 100 ? std::string() : "give 0 to 100 um"; });
    form->addRow(tr("Noise of a reading (0: found)"), noise_);
    base_ = choice(QStringLiteral("gauge_base"), tr("Base circle"),
                   {tr("as gauged"), tr("height taken off"), tr("height and runout taken off")});
    reason_ = new QLineEdit;
    reason_->setObjectName(QStringLiteral("gauge_reason"));
    reason_->setPlaceholderText(tr("why it is smoothed otherwise than usual"));
    form->addRow(tr("Reason"), reason_);
    other_ = new QComboBox;
    other_->setObjectName(QStringLiteral("gauge_other"));
    other_->setAccessibleName(tr("The same lobe by another machine"));
    other_->setToolTip(tr("What the two machines differ by: angle, scale, runout, and what is left"));
    other_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    join_ = new QPushButton(tr("Join"));
    join_->setObjectName(QStringLiteral("gauge_join"));
    join_->setToolTip(tr("Both machines' readings, laid on each other, as one lobe of the shelf"));
    auto* machines = new QHBoxLayout;
    machines->addWidget(other_, 1);
    machines->addWidget(join_);
    form->addRow(tr("Other machine"), machines);
    connect(other_, &QComboBox::activated, this, [this] { refresh(); });
    connect(join_, &QPushButton::clicked, this, &GaugePanel::join);
    numbers_ = new NumberTable(QStringLiteral("gauge_numbers"));
    numbers_->setAccessibleName(tr("What the gauge and the smoothing say"));
    numbers_->set_headings({tr("Gauge and smoothing"), tr("Value")});
    numbers_->horizontalHeader()->setStretchLastSection(true);
    layout->addWidget(numbers_, 3);
    outstanding_ = new NumberTable(QStringLiteral("gauge_outstanding"));
    outstanding_->setAccessibleName(tr("Readings that stand out; Enter leaves one out or takes it back"));
    outstanding_->set_headings({tr("Stands out, at"), tr("Reading"), tr("Counts")});
    outstanding_->setToolTip(tr("Double click or Enter: leave a reading out, or take it back."));
    layout->addWidget(outstanding_, 2);
    connect(rule_, &QComboBox::activated, this, [this](int index) {
        change(tr("Smoothing rule"), {},
               [index](LobeTable& t) { t.smoothing.rule = static_cast<SmoothingRule>(index); });
    });
    connect(strength_, &QSlider::valueChanged, this, [this](int value) {
        if (!filling_)
            change(tr("Smoothing strength"), QStringLiteral("strength"), [value](LobeTable& t) {
                t.smoothing.strength = std::clamp(std::pow(10.0, value / double(kStepsPerDecade)),
                                                  kLeastStrength, kMostStrength);
            });
    });
    connect(noise_, &NumberField::edited, this, [this](double si) {
        change(tr("Noise of the gauge"), QStringLiteral("noise"),
               [si](LobeTable& t) { t.noise_m = si > 0 ? std::optional(si) : std::nullopt; });
    });
    connect(base_, &QComboBox::activated, this, [this](int index) {
        change(tr("Base circle"), {}, [index](LobeTable& t) { t.base = static_cast<BaseStep>(index); });
    });
    connect(reason_, &QLineEdit::editingFinished, this, [this] {
        const std::string words = reason_->text().trimmed().toStdString();
        change(tr("Reason for the smoothing"), {}, [words](LobeTable& t) { t.smoothing.reason = words; });
    });
    connect(outstanding_, &QTableWidget::cellActivated, this, &GaugePanel::toggle_reading);
    return box;
}

void GaugePanel::change(const QString& what, const QString& key,
                        const std::function<void(LobeTable&)>& apply) {
    if (filling_)
        return;
    const LoadedLobe* lobe = set_.chosen();
    const QString merge =
        key.isEmpty() || !lobe ? QString() : QStringLiteral("lobe %1 %2").arg(lobe->key, key);
    set_.edit_chosen(what, merge, [&](Lobe& l) {
        if (auto* table = std::get_if<LobeTable>(&l.shape))
            apply(*table);
    });
}

void GaugePanel::refresh() {
    filling_ = true;
    const LoadedLobe* lobe = set_.chosen();
    const auto* table = lobe ? std::get_if<LobeTable>(&lobe->lobe.shape) : nullptr;
    const bool smoothed = table && lobe->curve && lobe->curve->smoothing();
    controls_->setEnabled(table && set_.can_edit_chosen());
    residual_->clear_curve(0);
    residual_->clear_curve(1);
    residual_->clear_curve(2);
    residual_->clear_curve(3);
    numbers_->setRowCount(0);
    outstanding_->setRowCount(0);
    if (!lobe)
        words_->setText(tr("No lobe is chosen."));
    else if (!table)
        words_->setText(tr("%1 is a formula: there are no readings to smooth.").arg(lobe->name));
    else if (!lobe->curve)
        words_->setText(tr("■ %1 cannot be smoothed. %2").arg(lobe->name, lobe->trouble));
    else if (!set_.can_edit_chosen())
        words_->setText(
            tr("%1 belongs to another build: bring that build in hand to change it.").arg(lobe->name));
    else
        words_->setText(
            tr("%1: %2 readings. The readings stay as they came; what is chosen here is kept with "
               "the lobe and can be undone.")
                .arg(lobe->name)
                .arg(table->angle.size()));
    if (table) {
        rule_->setCurrentIndex(static_cast<int>(table->smoothing.rule));
        strength_->setValue(
            static_cast<int>(std::lround(kStepsPerDecade * std::log10(table->smoothing.strength))));
        strength_words_->setText(tr("× %1").arg(digits(table->smoothing.strength, 2)));
        noise_->show_value(table->noise_m.value_or(0));
        base_->setCurrentIndex(static_cast<int>(table->base));
        if (!reason_->hasFocus())
            reason_->setText(QString::fromStdString(table->smoothing.reason));
        fill_outstanding(*table);
    }
    fill_others();
    if (smoothed)
        show_table(*table, *lobe->curve->smoothing());
    show_other();
    residual_->set_axes(tr("crank angle from the nose, °"),
                        tr("reading less curve, %1").arg(context_.units.unit_name(Quantity::FineLength)));
    residual_->redraw();
    filling_ = false;
}

// The record of the gauging that the chosen lobe was made from.
const Entry* GaugePanel::gauging() const {
    const LoadedLobe* lobe = set_.chosen();
    if (!lobe || lobe->from != LoadedLobe::From::Shelf)
        return nullptr;
    for (const auto& [id, entry] : context_.document.project().of(EntryKind::Lobe))
        if (const auto part = entry.numbers.find("part");
            part != entry.numbers.end() && static_cast<Id>(part->second) == lobe->id)
            return &entry;
    return nullptr;
}

void GaugePanel::show_table(const LobeTable& table, const SmoothingReport& report) {
    std::vector<std::pair<double, double>> points;
    for (std::size_t i = 0; i < report.angle_rad.size(); ++i)
        points.emplace_back(2 * degrees(report.angle_rad[i]),
                            context_.units.value(Quantity::FineLength, report.residual_m[i]));
    std::sort(points.begin(), points.end());
    QVector<double> x, y;
    for (const auto& [angle, residual] : points) {
        x.push_back(angle);
        y.push_back(residual);
    }
    const double sd = context_.units.value(Quantity::FineLength, report.noise_m);
    residual_->set_curve(0, x, y);
    residual_->set_curve(1, {-360, 360}, {sd, sd});
    residual_->set_curve(2, {-360, 360}, {-sd, -sd});
    const auto add = [&](const QString& what, const QString& value) {
        const int row = numbers_->rowCount();
        numbers_->setRowCount(row + 1);
        numbers_->set_cell(row, 0, what, false);
        numbers_->set_cell(row, 1, value);
    };
    const auto fine = [&](double si) { return context_.units.text(Quantity::FineLength, si); };
    const BaseCircle base = base_circle_of(table);
    add(report.estimated ? tr("Noise of a reading, found") : tr("Noise of a reading, stated"),
        fine(report.noise_m));
    add(tr("Residual, RMS"), fine(report.residual_rms_m));
    add(tr("Numbers that the readings settle"), fixed(report.parameters, 0));
    add(tr("Nose in the table"), tr("%1 cam °").arg(fixed(degrees(report.nose_in_table_rad), 2)));
    if (const Entry* gauged = gauging(); gauged && gauged->numbers.contains("passes")) {
        add(tr("Passes"), fixed(gauged->numbers.at("passes"), 0));
        if (gauged->numbers.at("passes") > 1) {
            add(tr("Passes repeat within, standard deviation"),
                fine(gauged->numbers.at("repeatability_um") * 1e-6));
            add(tr("Largest off their mean"), fine(gauged->numbers.at("largest_um") * 1e-6));
        }
    }
    if (base.readings == 0)
        return add(tr("Base circle"), tr("too little was gauged"));
    add(tr("Base circle reads"), fine(base.zero_m));
    add(tr("Runout, highest less lowest"), fine(base.runout_m()));
    add(tr("It stands high at"), tr("%1 cam °").arg(fixed(degrees(base.high_at_rad()), 0)));
    add(tr("Scatter on the base circle"), fine(base.scatter_m));
}

// The other lobes that have readings; the one that was chosen stays.
void GaugePanel::fill_others() {
    const QString before = other_->currentData().toString();
    other_->clear();
    other_->addItem(tr("none"), QString());
    for (const LoadedLobe& lobe : set_.lobes())
        if (set_.chosen() && lobe.key != set_.chosen()->key && lobe.curve && lobe.curve->smoothing())
            other_->addItem(lobe.name, lobe.key);
    other_->setCurrentIndex(std::max(0, other_->findData(before)));
}

void GaugePanel::show_other() {
    reconciled_.reset();
    const LoadedLobe* chosen = set_.chosen();
    const LoadedLobe* other = set_.find(other_->currentData().toString());
    if (chosen && chosen->curve && other)
        try {
            reconciled_ = reconcile(chosen->lobe, other->lobe);
        } catch (const InputError& error) {
            words_->setText(phrase(error.what()));
        }
    join_->setEnabled(reconciled_ && reconciled_->one_lobe);
    if (!reconciled_)
        return;
    const Reconciled& found = *reconciled_;
    std::vector<std::pair<double, double>> points;
    for (std::size_t i = 0; i < found.theta_rad.size(); ++i)
        points.emplace_back(2 * degrees(found.theta_rad[i]),
                            context_.units.value(Quantity::FineLength, found.difference_m[i]));
    std::sort(points.begin(), points.end());
    QVector<double> x, y;
    for (const auto& [angle, difference] : points) {
        x.push_back(angle);
        y.push_back(difference);
    }
    residual_->set_curve(3, x, y);
    QStringList told;
    for (const MeasuredText& text : found.told)
        told << phrase(text.in_words(context_.units.choice()));
    words_->setText((found.agree ? QString() : QStringLiteral("▲ ")) +
                    tr("Two machines: %1.").arg(told.join(QStringLiteral("; "))));
    const auto add = [&](const QString& what, const QString& value) {
        const int row = numbers_->rowCount();
        numbers_->setRowCount(row + 1);
        numbers_->set_cell(row, 0, what, false);
        numbers_->set_cell(row, 1, value);
    };
    const auto fine = [&](const FoundNumber& n) {
        return tr("%1 ± %2").arg(context_.units.number(Quantity::FineLength, n.value),
                                 context_.units.text(Quantity::FineLength, n.sd));
    };
    add(tr("Other machine: angle ahead"),
        tr("%1 ± %2 cam °")
            .arg(fixed(degrees(found.shift_rad.value), 3), fixed(degrees(found.shift_rad.sd), 3)));
    add(tr("Other machine: lift over this one's"),
        tr("%1 ± %2").arg(fixed(found.scale.value, 5), fixed(found.scale.sd, 5)));
    add(tr("Other machine: base circle higher"), fine(found.offset_m));
    add(tr("Between them once a turn, either way"), fine(found.runout_m));
    add(tr("Left between them; by their noise"),
        tr("%1; %2").arg(context_.units.text(Quantity::FineLength, found.left_m),
                         context_.units.text(Quantity::FineLength, found.expected_m)));
}

void GaugePanel::join() {
    const LoadedLobe* chosen = set_.chosen();
    const LoadedLobe* other = set_.find(other_->currentData().toString());
    if (!chosen || !other || !reconciled_)
        return;
    try {
        Part part;
        part.kind = PartKind::Lobe;
        part.name = tr("%1, two machines").arg(chosen->name).toStdString();
        part.note = tr("Joined with %1").arg(other->name).toStdString();
        part.piece.layout = context_.document.train().layout;
        part.piece.lobe = set_.in_hand(*chosen);
        part.piece.lobe.name = part.name;
        part.piece.lobe.shape = joined(chosen->lobe, *reconciled_).table;
        if (const Id id = context_.document.add_part(part))
            set_.choose(QStringLiteral("part %1").arg(id));
    } catch (const InputError& error) {
        emit message(tr("The lobes were not joined. %1").arg(phrase(error.what())));
    }
}

void GaugePanel::fill_outstanding(const LobeTable& table) {
    places_ = outstanding_readings(table);
    for (const std::size_t place : table.left_out)
        if (place < table.angle.size() && std::find(places_.begin(), places_.end(), place) == places_.end())
            places_.push_back(place);
    std::sort(places_.begin(), places_.end());
    outstanding_->setRowCount(static_cast<int>(places_.size()));
    for (std::size_t row = 0; row < places_.size(); ++row) {
        const std::size_t place = places_[row];
        const bool counts =
            std::find(table.left_out.begin(), table.left_out.end(), place) == table.left_out.end();
        const double lift = table.lift[place] * (table.lift_unit == LiftUnit::Millimetre ? 1e-3 : kInch_m);
        const int r = static_cast<int>(row);
        outstanding_->set_cell(r, 0, tr("%1° of the table").arg(digits(table.angle[place], 6)));
        outstanding_->set_cell(r, 1, context_.units.text(Quantity::Length, lift));
        outstanding_->set_cell(r, 2, counts ? tr("△ yes") : tr("left out"), false);
    }
    outstanding_->setVisible(!places_.empty());
}

void GaugePanel::toggle_reading(int row) {
    const std::size_t place = places_[static_cast<std::size_t>(row)];
    change(tr("Reading left out or taken back"), {}, [place](LobeTable& t) {
        const auto at = std::find(t.left_out.begin(), t.left_out.end(), place);
        if (at != t.left_out.end())
            t.left_out.erase(at);
        else
            t.left_out.push_back(place);
    });
}

} // namespace bathmos::app
