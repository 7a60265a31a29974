#include "app/stations/train/project_panel.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <cmath>

namespace bathmos::app {

ProjectPanel::ProjectPanel(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    setObjectName(QStringLiteral("project_panel"));
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* scroll = new QScrollArea;
    scroll->setAccessibleName(tr("Engine and build"));
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    auto* page = new QWidget;
    auto* form = new QFormLayout(page);
    form->setContentsMargins(8, 8, 8, 8);
    form->setVerticalSpacing(4);
    make_build(form);
    make_engine(form);
    scroll->setWidget(page);
    outer->addWidget(scroll);
    connect(&context_.document, &Document::records_changed, this, &ProjectPanel::refresh);
    connect(&context_.units, &DisplayUnits::changed, this, &ProjectPanel::refresh);
    refresh();
}

void ProjectPanel::make_build(QFormLayout* form) {
    auto* title = new QLabel(tr("Build"));
    title->setFont(Theme::text_font(13, true));
    form->addRow(title);
    add_text(
        form, QStringLiteral("build_title"), tr("Name"),
        [](const Engine&, const Build& b) { return QString::fromStdString(b.name); },
        [this](const QString& t) { change_build([&](Build& b) { b.name = t.toStdString(); }); });
    add_choice(
        form, QStringLiteral("build_side"), tr("Valve"), {tr("intake"), tr("exhaust")},
        [](const Engine&, const Build& b) {
            return b.side == ValveSide::Intake ? tr("intake") : tr("exhaust");
        },
        [this](const QString& word) {
            change_build(
                [&](Build& b) { b.side = word == tr("intake") ? ValveSide::Intake : ValveSide::Exhaust; });
        });
    add_number(
        form, QStringLiteral("build_centreline"), tr("Centre line, crank"), Quantity::Angle, 0, 180,
        [](const Engine&, const Build& b) { return b.centreline_rad; },
        [this](double si) { change_build([&](Build& b) { b.centreline_rad = si; }); });
    auto* line = new QHBoxLayout;
    const auto add = [&](const char* name, const QString& text, const QString& tip, auto run) {
        auto* button = new QPushButton(text);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        connect(button, &QPushButton::clicked, this, run);
        line->addWidget(button);
    };
    add("new_build", tr("New build"), tr("Another valve of this engine, beginning with the train in hand"),
        [this] {
            Build build = context_.document.project().builds.at(context_.document.build());
            build.side = build.side == ValveSide::Intake ? ValveSide::Exhaust : ValveSide::Intake;
            build.name += build.side == ValveSide::Intake ? " (intake)" : " (exhaust)";
            context_.document.add_build(build, context_.document.assembly());
        });
    add("new_engine", tr("New engine"), tr("Another engine, with a build that begins with the train in hand"),
        [this] {
            Engine engine;
            engine.name = tr("another engine").toStdString();
            const Id id = context_.document.add_engine(engine);
            Build build = context_.document.project().builds.at(context_.document.build());
            build.engine = id;
            build.name += tr(", other engine").toStdString();
            context_.document.add_build(build, context_.document.assembly());
        });
    form->addRow(line);
}

void ProjectPanel::make_engine(QFormLayout* form) {
    auto* title = new QLabel(tr("Engine"));
    title->setFont(Theme::text_font(13, true));
    form->addRow(title);
    add_text(
        form, QStringLiteral("engine_name"), tr("Name"),
        [](const Engine& e, const Build&) { return QString::fromStdString(e.name); },
        [this](const QString& t) { change_engine([&](Engine& e) { e.name = t.toStdString(); }); });
    const auto number = [&](const char* name, const QString& label, Quantity quantity, double low,
                            double high, double Engine::*at) {
        add_number(
            form, QLatin1String(name), label, quantity, low, high,
            [at](const Engine& e, const Build&) { return e.*at; },
            [this, at](double si) { change_engine([&](Engine& e) { e.*at = si; }); });
    };
    const auto count = [&](const char* name, const QString& label, int high, int Engine::*at) {
        add_number(
            form, QLatin1String(name), label, Quantity::Count, 0, high,
            [at](const Engine& e, const Build&) { return static_cast<double>(e.*at); },
            [this, at](double si) {
                change_engine([&](Engine& e) { e.*at = static_cast<int>(std::lround(si)); });
            });
    };
    count("engine_cylinders", tr("Cylinders"), 24, &Engine::cylinders);
    count("engine_intake_valves", tr("Intake valves each"), 4, &Engine::intake_valves);
    count("engine_exhaust_valves", tr("Exhaust valves each"), 4, &Engine::exhaust_valves);
    number("engine_bore", tr("Bore"), Quantity::Length, 0, 500, &Engine::bore_m);
    number("engine_stroke", tr("Stroke"), Quantity::Length, 0, 500, &Engine::stroke_m);
    number("engine_rod", tr("Rod, centre to centre"), Quantity::Length, 0, 1000, &Engine::rod_m);
    number("engine_ratio", tr("Compression ratio"), Quantity::Count, 0, 30, &Engine::compression_ratio);
    number("engine_target", tr("Target, rev/min"), Quantity::Count, 0, 20000, &Engine::target_rpm);
    number("engine_overspeed", tr("Highest it may see, rev/min"), Quantity::Count, 0, 20000,
           &Engine::overspeed_rpm);
    number("engine_intake_drop", tr("Intake drop at dead centre"), Quantity::Length, 0, 50,
           &Engine::intake_drop_m);
    number("engine_exhaust_drop", tr("Exhaust drop at dead centre"), Quantity::Length, 0, 50,
           &Engine::exhaust_drop_m);
    number("engine_intake_angle", tr("Intake valve's lean"), Quantity::Angle, -60, 60,
           &Engine::intake_angle_rad);
    number("engine_exhaust_angle", tr("Exhaust valve's lean"), Quantity::Angle, -60, 60,
           &Engine::exhaust_angle_rad);
    number("engine_heads_apart", tr("Heads apart, middles"), Quantity::Length, 0, 300,
           &Engine::heads_apart_m);
    const auto material = [&](const char* name, const QString& label, const QStringList& choices,
                              std::string Engine::*at) {
        add_choice(
            form, QLatin1String(name), label, choices,
            [at](const Engine& e, const Build&) { return QString::fromStdString(e.*at); },
            [this, at](const QString& word) {
                change_engine([&](Engine& e) { e.*at = word.toStdString(); });
            });
    };
    material("engine_head", tr("Head"), {QString(), QStringLiteral("aluminium"), QStringLiteral("iron")},
             &Engine::head_material);
    material("engine_seats", tr("Valve seats"),
             {QString(), QStringLiteral("bronze"), QStringLiteral("iron"), QStringLiteral("steel")},
             &Engine::valve_seat_material);
}

void ProjectPanel::add_text(QFormLayout* form, const QString& name, const QString& label,
                            std::function<QString(const Engine&, const Build&)> get,
                            std::function<void(const QString&)> set) {
    auto* edit = new QLineEdit;
    edit->setObjectName(name);
    edit->setAccessibleName(label);
    connect(edit, &QLineEdit::editingFinished, this, [edit, set] { set(edit->text().trimmed()); });
    refreshers_.push_back([edit, get](const Engine& e, const Build& b) {
        if (edit->text() != get(e, b))
            edit->setText(get(e, b));
    });
    form->addRow(label, edit);
}

void ProjectPanel::add_number(QFormLayout* form, const QString& name, const QString& label, Quantity quantity,
                              double low, double high, std::function<double(const Engine&, const Build&)> get,
                              std::function<void(double)> set) {
    auto* edit = new QLineEdit;
    edit->setObjectName(name);
    edit->setAccessibleName(label);
    edit->setFont(Theme::number_font(12));
    edit->setAlignment(Qt::AlignRight);
    edit->setPlaceholderText(tr("not given"));
    auto* line = new QHBoxLayout;
    auto* unit = new QLabel;
    unit->setMinimumWidth(36);
    line->addWidget(edit);
    line->addWidget(unit);
    connect(edit, &QLineEdit::editingFinished, this, [this, edit, set, quantity, low, high, label] {
        double number = parse_number(edit->text()).value_or(0);
        const bool good = edit->text().trimmed().isEmpty() || parse_number(edit->text());
        const double si = number * context_.units.unit(quantity).to_si;
        const double file = si / unit_of(quantity).to_si;
        if (good && file >= low && file <= high)
            return set(si);
        emit message(tr("%1: \"%2\" was not taken; give %3 to %4, or nothing.")
                         .arg(label, edit->text())
                         .arg(low)
                         .arg(high));
        refresh();
    });
    refreshers_.push_back([this, edit, unit, get, quantity](const Engine& e, const Build& b) {
        const double si = get(e, b);
        const QString text = si == 0 ? QString() : context_.units.typed(quantity, si);
        unit->setText(context_.units.unit_name(quantity));
        if (edit->text() != text)
            edit->setText(text);
    });
    form->addRow(label, line);
}

void ProjectPanel::add_choice(QFormLayout* form, const QString& name, const QString& label,
                              const QStringList& choices,
                              std::function<QString(const Engine&, const Build&)> get,
                              std::function<void(const QString&)> set) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setAccessibleName(label);
    for (const QString& word : choices)
        box->addItem(word.isEmpty() ? tr("not given") : word, word);
    connect(box, &QComboBox::activated, this, [box, set] { set(box->currentData().toString()); });
    refreshers_.push_back([box, get](const Engine& e, const Build& b) {
        box->setCurrentIndex(std::max(0, box->findData(get(e, b))));
    });
    form->addRow(label, box);
}

void ProjectPanel::change_engine(const std::function<void(Engine&)>& apply) {
    if (!context_.document.engine())
        return;
    Engine engine = *context_.document.engine();
    apply(engine);
    context_.document.set_engine(context_.document.project().builds.at(context_.document.build()).engine,
                                 engine);
}

void ProjectPanel::change_build(const std::function<void(Build&)>& apply) {
    if (context_.document.build() == 0)
        return;
    Build build = context_.document.project().builds.at(context_.document.build());
    apply(build);
    if (build.name.empty())
        return refresh();
    context_.document.set_build(context_.document.build(), build);
}

void ProjectPanel::refresh() {
    const Engine* engine = context_.document.engine();
    if (!engine)
        return;
    const Build& build = context_.document.project().builds.at(context_.document.build());
    for (const auto& show : refreshers_)
        show(*engine, build);
}

} // namespace bathmos::app
