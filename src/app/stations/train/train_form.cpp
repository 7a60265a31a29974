#include "app/stations/train/train_form.h"

#include "app/stations/train/form_columns.h"
#include "app/text/words.h"
#include "app/widgets/fold.h"
#include "app/widgets/list_edit.h"
#include "app/widgets/refresher.h"
#include "app/widgets/tolerance_popup.h"
#include "core/train/assumed.h"
#include "core/train/train_fields.h"
#include "core/train/train_starter.h"
#include "core/uncertainty/uncertain_inputs.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QTimer>
#include <QVBoxLayout>
#include <QWheelEvent>

namespace bathmos::app {

namespace {

// A combo box that leaves the wheel to the form unless it has been entered.
class CalmCombo : public QComboBox {
  public:
    using QComboBox::QComboBox;
    void wheelEvent(QWheelEvent* event) override {
        if (hasFocus())
            QComboBox::wheelEvent(event);
        else
            event->ignore();
    }
};

// Ratio at some lift; by the arms where a geometry does not close.
double ratio_of(const Train& t) {
    try {
        return t.rocker_map().ratio(4e-3);
    } catch (const InputError&) {
        return t.rocker->output_arm_m / t.rocker->input_arm_m;
    }
}

} // namespace

TrainForm::TrainForm(Context context, QWidget* parent) : QScrollArea(parent), context_(context) {
    setObjectName(QStringLiteral("train_form"));
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::NoFocus);
    auto* seen = new Refresher(this, kAtOnce_ms, [this] { refresh(); });
    connect(&context_.document, &Document::changed, seen, &Refresher::at_once);
    connect(&context_.document, &Document::put_back, seen, &Refresher::at_once);
    connect(&context_.units, &DisplayUnits::changed, seen, &Refresher::at_once);
}

QString TrainForm::shape() const {
    const Train& t = context_.document.train();
    QString out = QStringLiteral("%1 %2 %3 %4 %5")
                      .arg(static_cast<int>(t.layout))
                      .arg(t.lobe.shape.index())
                      .arg(t.hydraulic());
    out = out.arg(t.pushrod && t.pushrod->stiffness_N_per_m).arg(t.rocker ? t.rocker->ratio.index() : 9);
    if (const auto* table = std::get_if<LobeTable>(&t.lobe.shape))
        out += QStringLiteral(" %1").arg(table->noise_m.has_value());
    for (const Spring& spring : t.springs) {
        const auto* coil = std::get_if<CoilGeometry>(&spring.kind);
        out += QStringLiteral(" s%1").arg(!coil ? 0 : coil->mean_diameter_m.size() > 1 ? 2 : 1);
        if (coil)
            out += QStringLiteral("%1%2%3")
                       .arg(coil->wire_height_m.has_value())
                       .arg(!coil->pitch_m.empty())
                       .arg(coil->pitch_scatter.has_value());
    }
    out += QStringLiteral(" p%1").arg(t.pressure_table.has_value());
    out += QStringLiteral(" o%1%2%3")
               .arg(t.camshaft.has_value())
               .arg(t.valve.elastic.has_value())
               .arg(t.drive_ripple.has_value());
    return out;
}

void TrainForm::refresh() {
    if (!context_.document.has_train())
        return;
    if (shape() != built_shape_)
        rebuild();
    for (const auto& show : refreshers_)
        show(context_.document.train());
    show_sources();
}

// How each number is known, and how many of a group are assumed.
void TrainForm::show_sources() {
    sources_.clear();
    for (UncertainInput& input : uncertain_inputs(context_.document.train()))
        sources_[input.key] = std::move(input);
    std::map<Fold*, int> assumed;
    for (const auto& [number, key] : numbers_) {
        const auto at = sources_.find(key);
        const bool known = at == sources_.end();
        number->show_source(known ? QString() : source_sign(at->second),
                            known ? QString()
                                  : source_words(context_.units,
                                                 quantity_of_value(context_.document.train(), key),
                                                 at->second));
        for (QWidget* w = number; w; w = w->parentWidget())
            if (auto* fold = qobject_cast<Fold*>(w))
                assumed[fold] +=
                    !known && at->second.tolerance.source == Source::Estimate && !at->second.usual;
    }
    for (const auto& [heading, key, words_of_it] : lists_) {
        const auto at = sources_.find(key);
        const bool marked =
            at != sources_.end() && at->second.tolerance.source == Source::Estimate && !at->second.usual;
        heading->setText(marked ? tr("%1   ? assumed, ± %2 %")
                                      .arg(words_of_it)
                                      .arg(fixed(100 * at->second.tolerance.plus_minus, 0))
                                : words_of_it);
        for (QWidget* w = heading; w; w = w->parentWidget())
            if (auto* fold = qobject_cast<Fold*>(w))
                assumed[fold] += marked;
    }
    for (const auto& [fold, count] : assumed)
        fold->show_assumed(count);
}

void TrainForm::ask_source(NumberField* number, const std::string& key) {
    const auto at = sources_.find(key);
    if (at == sources_.end())
        return;
    auto* popup = new TolerancePopup(context_.units, quantity_of_value(context_.document.train(), key),
                                     at->second, this);
    connect(popup, &TolerancePopup::chosen, this,
            [this, key, label = words(at->second.label)](const Tolerance& t) {
                change(tr("change ± of %1").arg(label), QStringLiteral("tolerance.") + words(key),
                       [&](Train& train) { train.tolerances[key] = t; });
            });
    popup->move(number->mapToGlobal(QPoint(0, number->height())));
    popup->show();
}

void TrainForm::show_part(PartKind kind) {
    const QString section = words(info(kind).section);
    if (section.isEmpty() || !widget())
        return;
    for (const TrainField& field : train_fields())
        if (words(field.key).startsWith(section))
            if (auto* edit = widget()->findChild<QWidget*>(words(field.key)))
                return show_field(edit);
    if (auto* edit = widget()->findChild<QWidget*>(QStringLiteral("springs[0].name"));
        edit && section == QLatin1String("springs"))
        show_field(edit);
}

void TrainForm::show_field(QWidget* edit) {
    for (QWidget* w = edit; w; w = w->parentWidget())
        if (auto* fold = qobject_cast<Fold*>(w))
            fold->set_folded(false);
    widget()->layout()->activate(); // where it will be
    ensureWidgetVisible(edit, 50, viewport()->height() / 2);
}

void TrainForm::rebuild() {
    const int scrolled = verticalScrollBar()->value();
    const QString focus = focusWidget() ? focusWidget()->objectName() : QString();
    built_shape_ = shape();
    refreshers_.clear();
    numbers_.clear();
    lists_.clear();
    auto* page = new QWidget;
    column_ = new QVBoxLayout(page);
    column_->setContentsMargins(8, 8, 8, 8);
    column_->setSpacing(4);
    add_head();
    add_lobe();
    add_drive();
    add_valve();
    add_springs();
    add_rest();
    column_->addStretch();
    if (QWidget* before = takeWidget())
        before->deleteLater(); // may be the widget whose signal brought us here
    setWidget(page);
    verticalScrollBar()->setValue(scrolled);
    if (auto* again = focus.isEmpty() ? nullptr : page->findChild<QWidget*>(focus))
        again->setFocus();
}

void TrainForm::change(const QString& what, const QString& key, const Change& apply) {
    Train next = context_.document.train();
    apply(next);
    count_as_known(next, key.toStdString()); // typed by somebody who knows it
    context_.document.edit(next, what, key);
}

QVBoxLayout* TrainForm::group(const QString& title) {
    auto* fold = new Fold(
        title, title.section(QLatin1Char(','), 0, 0).toLower().replace(QLatin1Char(' '), QLatin1Char('_')));
    fold->set_folded(folded_.contains(title));
    connect(fold, &Fold::folded_changed, this, [this, title](bool folded) {
        folded ? void(folded_.insert(title)) : void(folded_.erase(title));
    });
    column_->addWidget(fold);
    return fold->column();
}

void TrainForm::add_text(QVBoxLayout* to, const QString& key, const QString& label,
                         std::function<std::string*(Train&)> at) {
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 0, 0);
    auto* edit = new QLineEdit;
    edit->setObjectName(key);
    edit->setAccessibleName(label);
    auto* name = new QLabel(label);
    name->setBuddy(edit);
    row->addWidget(name);
    row->addWidget(edit, 1);
    to->addWidget(line);
    connect(edit, &QLineEdit::textEdited, this, [=, this](const QString& text) {
        change(tr("change %1").arg(label), key, [&](Train& t) { *at(t) = text.toStdString(); });
    });
    refreshers_.push_back([=](const Train& t) {
        const QString text = QString::fromStdString(*at(const_cast<Train&>(t)));
        if (edit->text() == text)
            return;
        edit->setText(text);
        edit->setCursorPosition(0);
    });
}

void TrainForm::add_choice(QVBoxLayout* to, const QString& key, const QString& label,
                           const QStringList& choices, std::function<int(const Train&)> get,
                           std::function<void(Train&, int)> set) {
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 0, 0);
    auto* combo = new CalmCombo;
    combo->setObjectName(key);
    combo->setAccessibleName(label);
    combo->addItems(choices);
    combo->setFocusPolicy(Qt::StrongFocus);
    combo->setFixedWidth(168);
    auto* name = new QLabel(label);
    name->setBuddy(combo);
    row->addWidget(name, 1);
    row->addWidget(combo);
    to->addWidget(line);
    connect(combo, &QComboBox::activated, this, [=, this](int chosen) {
        change(tr("change %1").arg(label), {}, [&](Train& t) { set(t, chosen); });
    });
    refreshers_.push_back([=](const Train& t) { combo->setCurrentIndex(get(t)); });
}

void TrainForm::add_switch(QVBoxLayout* to, const QString& key, const QString& label, bool on,
                           std::function<void(Train&, bool)> set) {
    auto* box = new QCheckBox(label);
    box->setObjectName(key);
    box->setChecked(on);
    to->addWidget(box);
    connect(box, &QCheckBox::clicked, this,
            [=, this](bool checked) { change(label, {}, [&](Train& t) { set(t, checked); }); });
}

void TrainForm::add_fields(QVBoxLayout* to, const std::string& prefix, bool deeper) {
    for (const TrainField& field : train_fields()) {
        if (!field.key.starts_with(prefix) || !field.at_const(context_.document.train()))
            continue;
        if (!deeper && field.key.find('.', prefix.size()) != std::string_view::npos)
            continue;
        const QString key = words(field.key);
        auto* number =
            new NumberField(context_.units, field.quantity, key, phrase(field.label), phrase(field.help),
                            [&field](double value) { return field.complaint(value); });
        to->addWidget(number);
        connect(number, &NumberField::edited, this, [this, &field, key](double si) {
            change(tr("change %1").arg(phrase(field.label)), key, [&](Train& t) {
                if (double* value = field.at(t))
                    *value = si;
            });
        });
        watch_source(number, key.toStdString());
        make_pullable(number, key, phrase(field.label), [&field](Train& t, double si) {
            if (double* value = field.at(t))
                *value = si;
        });
        refreshers_.push_back([number, &field](const Train& t) {
            if (const double* value = field.at_const(t))
                number->show_value(*value);
        });
    }
}

void TrainForm::make_pullable(NumberField* number, const QString& key, const QString& label,
                              std::function<void(Train&, double)> set) {
    number->set_pullable();
    connect(number, &NumberField::dragged, this, [=, this](double si) {
        Train trial = context_.document.train();
        set(trial, si);
        context_.what_if.drag(trial);
    });
    connect(number, &NumberField::let_go, this,
            [=, this] { context_.what_if.let_go(tr("change %1").arg(label), key); });
    connect(number, &NumberField::pull_left, this, [this] { context_.what_if.leave(); });
}

void TrainForm::watch_source(NumberField* number, const std::string& key) {
    numbers_.emplace_back(number, key);
    connect(number, &NumberField::source_asked, this, [this, number, key] { ask_source(number, key); });
}

void TrainForm::add_list(QVBoxLayout* to, const QString& key, const QStringList& columns, int height,
                         std::function<Columns(const Train&)> get,
                         std::function<void(Train&, const Columns&)> set) {
    auto* edit = new ListEdit(key, columns);
    edit->setFixedHeight(height);
    auto* heading = new QLabel;
    to->addWidget(heading);
    lists_.push_back({heading, key.toStdString(), columns.join(QStringLiteral("   "))});
    to->addWidget(edit);
    connect(edit, &ListEdit::edited, this, [=, this](const Columns& rows) {
        change(tr("change %1").arg(columns.join(QStringLiteral(", "))), key, [&](Train& t) { set(t, rows); });
    });
    refreshers_.push_back([=](const Train& t) { edit->show_rows(get(t)); });
}

double TrainForm::list_unit() const {
    return context_.units.unit(Quantity::Length).to_si;
}

void TrainForm::add_head() {
    QVBoxLayout* to = group(tr("Train"));
    add_text(to, QStringLiteral("name"), tr("Name"), [](Train& t) { return &t.name; });
    add_choice(
        to, QStringLiteral("layout"), tr("Layout"), {tr("pushrod"), tr("rocker"), tr("finger"), tr("bucket")},
        [](const Train& t) { return static_cast<int>(t.layout); },
        [](Train& t, int chosen) { t = with_layout(t, static_cast<Layout>(chosen)); });
    add_fields(to, "lash_mm");
    add_fields(to, "installed_height_mm");
    add_choice(
        to, QStringLiteral("pressure.kind"), tr("Pressure is"), {tr("constant"), tr("over crank angle")},
        [](const Train& t) { return t.pressure_table ? 1 : 0; },
        [](Train& t, int chosen) {
            if ((chosen == 1) == t.pressure_table.has_value())
                return;
            const double p = t.back_pressure_Pa;
            t.pressure_table = chosen == 1
                                   ? std::optional(PressureTable{{radians(-180), radians(180)}, {p, p}})
                                   : std::nullopt;
        });
    add_fields(to, "back_pressure_kPa");
    if (!context_.document.train().pressure_table)
        return;
    const auto pressure = [this] { return context_.units.unit(Quantity::Pressure).to_si; };
    add_list(
        to, QStringLiteral("pressure_table"), {tr("crank angle from the nose"), tr("pressure")}, 90,
        [=](const Train& t) {
            return Columns{scaled(t.pressure_table->crank_rad, 1 / radians(1)),
                           scaled(t.pressure_table->pressure_Pa, 1 / pressure())};
        },
        [=](Train& t, const Columns& c) {
            t.pressure_table = PressureTable{scaled(c[0], radians(1)), scaled(c[1], pressure())};
        });
}

void TrainForm::add_lobe() {
    QVBoxLayout* to = group(tr("Lobe"));
    add_text(to, QStringLiteral("lobe.name"), tr("Name"), [](Train& t) { return &t.lobe.name; });
    add_choice(
        to, QStringLiteral("lobe.follower.kind"), tr("Follower"), {tr("roller"), tr("flat")},
        [](const Train& t) { return static_cast<int>(t.lobe.follower); },
        [](Train& t, int chosen) { t.lobe.follower = static_cast<FollowerKind>(chosen); });
    add_fields(to, "lobe.", false);
    add_fields(to, "lobe.follower.");
    add_choice(
        to, QStringLiteral("lobe.shape"), tr("Shape"), {tr("formula"), tr("table")},
        [](const Train& t) { return static_cast<int>(t.lobe.shape.index()); },
        [](Train& t, int chosen) {
            if (static_cast<std::size_t>(chosen) == t.lobe.shape.index())
                return;
            if (chosen == 0) {
                t.lobe.shape = std::get<AnalyticLobe>(starter_train().lobe.shape);
                return;
            }
            LobeTable table; // the formula's own cam lift, each degree, as a start
            const LobeCurve curve = curve_of(t.lobe);
            for (int deg = -180; deg < 180; ++deg) {
                table.angle.push_back(deg);
                table.lift.push_back(std::round(curve.at(radians(deg)) * 1e7) / 1e4);
            }
            t.lobe.shape = table;
        });
    if (std::holds_alternative<AnalyticLobe>(context_.document.train().lobe.shape)) {
        add_fields(to, "lobe.analytic.");
        return;
    }
    const auto table = [](const Train& t) -> const LobeTable& { return std::get<LobeTable>(t.lobe.shape); };
    add_choice(
        to, QStringLiteral("lobe.table.angle_unit"), tr("Angles are"),
        {tr("cam degrees"), tr("crank degrees")},
        [=](const Train& t) { return static_cast<int>(table(t).angle_unit); },
        [](Train& t, int c) { std::get<LobeTable>(t.lobe.shape).angle_unit = static_cast<AngleUnit>(c); });
    add_choice(
        to, QStringLiteral("lobe.table.lift_unit"), tr("Lifts are"), {tr("mm"), tr("in")},
        [=](const Train& t) { return static_cast<int>(table(t).lift_unit); },
        [](Train& t, int c) { std::get<LobeTable>(t.lobe.shape).lift_unit = static_cast<LiftUnit>(c); });
    add_switch(to, QStringLiteral("lobe.table.noise_given"), tr("gauge noise is known"),
               table(context_.document.train()).noise_m.has_value(), [](Train& t, bool on) {
                   auto& noise = std::get<LobeTable>(t.lobe.shape).noise_m;
                   noise = on ? std::optional(2e-6) : std::nullopt;
               });
    add_fields(to, "lobe.table.");
    add_list(
        to, QStringLiteral("lobe.table"), {tr("angle"), tr("lift")}, 150,
        [=](const Train& t) {
            return Columns{table(t).angle, table(t).lift};
        },
        [](Train& t, const Columns& c) {
            std::get<LobeTable>(t.lobe.shape).angle = c[0];
            std::get<LobeTable>(t.lobe.shape).lift = c[1];
            std::get<LobeTable>(t.lobe.shape).left_out.clear(); // places of other readings
        });
}

QStringList TrainForm::ratio_kinds(Layout layout) {
    QStringList out = {tr("one number"), tr("table")};
    if (layout == Layout::Pushrod)
        out << tr("geometry");
    return out;
}

void TrainForm::add_drive() {
    const Train& train = context_.document.train();
    if (train.lifter) {
        QVBoxLayout* to =
            group(train.layout == Layout::Finger ? tr("Adjuster under the pivot") : tr("Lifter"));
        add_fields(to, "lifter.", false);
        if (train.layout != Layout::Finger)
            add_switch(to, QStringLiteral("lifter.hydraulic"), tr("hydraulic"), train.hydraulic(),
                       [](Train& t, bool on) {
                           t.lifter->hydraulic = on ? std::optional(usual_hydraulic(t.layout)) : std::nullopt;
                       });
        add_fields(to, "lifter.hydraulic.");
    }
    if (train.layout == Layout::Finger)
        add_switch(column_, QStringLiteral("lifter.adjuster"), tr("hydraulic adjuster under the pivot"),
                   train.hydraulic(), [](Train& t, bool on) {
                       t.lifter.reset();
                       if (on)
                           t.lifter = Lifter{0, usual_hydraulic(Layout::Finger)};
                   });
    if (train.pushrod) {
        QVBoxLayout* to = group(tr("Pushrod"));
        add_fields(to, "pushrod.");
        add_switch(to, QStringLiteral("pushrod.stiffness_given"), tr("link stiffness measured"),
                   train.pushrod->stiffness_N_per_m.has_value(), [](Train& t, bool on) {
                       t.pushrod->stiffness_N_per_m = on ? std::optional(50e6) : std::nullopt;
                   });
    }
    if (!train.rocker)
        return;
    QVBoxLayout* to = group(tr("Rocker"));
    add_choice(
        to, QStringLiteral("rocker.kind"), tr("Ratio"), ratio_kinds(train.layout),
        [](const Train& t) { return t.rocker ? static_cast<int>(t.rocker->ratio.index()) : 0; },
        [](Train& t, int chosen) {
            if (static_cast<std::size_t>(chosen) == t.rocker->ratio.index())
                return;
            const double ratio = ratio_of(t);
            if (chosen == 0)
                t.rocker->ratio = std::round(ratio * 1000) / 1000;
            else if (chosen == 2)
                t.rocker->ratio = usual_geometry(t);
            else
                t.rocker->ratio =
                    RatioTable{{0, 2e-3, 4e-3, 6e-3, 8e-3, 10e-3},
                               {0, 2e-3 * ratio, 4e-3 * ratio, 6e-3 * ratio, 8e-3 * ratio, 10e-3 * ratio}};
        });
    add_fields(to, "rocker.");
    if (std::holds_alternative<RatioTable>(train.rocker->ratio)) {
        const auto table = [](const Train& t) { return std::get<RatioTable>(t.rocker->ratio); };
        add_list(
            to, QStringLiteral("rocker.ratio_table"), {tr("lifter side"), tr("valve side")}, 110,
            [=, this](const Train& t) {
                return Columns{scaled(table(t).input_m, 1 / list_unit()),
                               scaled(table(t).output_m, 1 / list_unit())};
            },
            [this](Train& t, const Columns& c) {
                t.rocker->ratio = RatioTable{scaled(c[0], list_unit()), scaled(c[1], list_unit())};
            });
    }
}

void TrainForm::add_valve() {
    QVBoxLayout* to = group(tr("Valve, retainer, locks"));
    for (const char* prefix : {"valve.", "retainer.", "locks.", "cap."})
        add_fields(to, prefix);
}

void TrainForm::add_rest() {
    QVBoxLayout* contacts = group(tr("Contacts"));
    add_fields(contacts, "contacts.");
    QVBoxLayout* friction = group(tr("Friction"));
    add_fields(friction, "friction.");
    add_model_options();
}

// What a calibration switches on; off it is the usual model.
void TrainForm::add_model_options() {
    const Train& train = context_.document.train();
    QVBoxLayout* to = group(tr("Options of the model"));
    add_choice(
        to, QStringLiteral("lash_at"), tr("Lash is counted from"), {tr("first touch"), tr("the loaded rest")},
        [](const Train& t) { return static_cast<int>(t.lash_at); },
        [](Train& t, int chosen) { t.lash_at = static_cast<LashAt>(chosen); });
    add_switch(to, QStringLiteral("valve.elastic"), tr("valve gives along its stem"),
               train.valve.elastic.has_value(), [](Train& t, bool on) {
                   t.valve.elastic = on ? std::optional(ElasticValve{}) : std::nullopt;
               });
    add_switch(to, QStringLiteral("camshaft"), tr("camshaft twists"), train.camshaft.has_value(),
               [](Train& t, bool on) { t.camshaft = on ? std::optional(CamshaftTorsion{}) : std::nullopt; });
    add_fields(to, "camshaft.");
    add_switch(to, QStringLiteral("drive_ripple"), tr("rig's drive turns unevenly"),
               train.drive_ripple.has_value(),
               [](Train& t, bool on) { t.drive_ripple = on ? std::optional(DriveRipple{}) : std::nullopt; });
    add_fields(to, "drive_ripple.");
}

} // namespace bathmos::app
