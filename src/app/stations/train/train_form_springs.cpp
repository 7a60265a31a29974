// The springs' part of the form: as many as there are, by geometry or as tested.
#include "app/stations/train/form_columns.h"
#include "app/stations/train/train_form.h"
#include "app/text/words.h"
#include "core/train/train_fields.h"
#include "core/train/train_starter.h"

#include <QPushButton>
#include <QVBoxLayout>

namespace bathmos::app {

void TrainForm::add_springs() {
    const std::size_t count = context_.document.train().springs.size();
    for (std::size_t i = 0; i < count; ++i)
        add_spring(group(tr("Spring %1").arg(i + 1)), i);
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 0, 0);
    const auto button = [&](const QString& text, const QString& name, bool enabled,
                            std::function<void(Train&)> apply) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        b->setEnabled(enabled);
        row->addWidget(b);
        connect(b, &QPushButton::clicked, this, [=, this] { change(text, {}, apply); });
    };
    button(tr("Add coil spring"), QStringLiteral("springs.add_coil"), count < 3,
           [](Train& t) { t.springs.push_back(starter_spring()); });
    button(tr("Add tested spring"), QStringLiteral("springs.add_table"), count < 3,
           [](Train& t) { t.springs.push_back(starter_table_spring(t.installed_height_m)); });
    button(tr("Remove last"), QStringLiteral("springs.remove"), count > 1,
           [](Train& t) { t.springs.pop_back(); });
    column_->addWidget(line);
}

void TrainForm::add_spring(QVBoxLayout* to, std::size_t index) {
    const QString prefix = QStringLiteral("springs[%1].").arg(index);
    add_text(to, prefix + QStringLiteral("name"), tr("Name"),
             [index](Train& t) { return &t.springs[index].name; });
    const Spring& spring = context_.document.train().springs[index];
    for (const SpringField& field : spring_fields()) {
        if (!field.at_const(spring))
            continue;
        const QString key = prefix + words(field.key);
        auto* number =
            new NumberField(context_.units, field.quantity, key, phrase(field.label), phrase(field.help),
                            [&field](double value) { return field.complaint(value); });
        to->addWidget(number);
        connect(number, &NumberField::edited, this, [this, &field, key, index](double si) {
            change(tr("change %1").arg(phrase(field.label)), key, [&](Train& t) {
                if (double* value = index < t.springs.size() ? field.at(t.springs[index]) : nullptr)
                    *value = si;
            });
        });
        watch_source(number, key.toStdString());
        make_pullable(number, key, phrase(field.label), [&field, index](Train& t, double si) {
            if (double* value = index < t.springs.size() ? field.at(t.springs[index]) : nullptr)
                *value = si;
        });
        refreshers_.push_back([number, &field, index](const Train& t) {
            if (const double* value = index < t.springs.size() ? field.at_const(t.springs[index]) : nullptr)
                number->show_value(*value);
        });
    }
    const auto coil = [index](const Train& t) { return std::get_if<CoilGeometry>(&t.springs[index].kind); };
    if (const CoilGeometry* c = std::get_if<CoilGeometry>(&spring.kind)) {
        add_switch(to, prefix + QStringLiteral("varies"), tr("diameter varies"),
                   c->mean_diameter_m.size() > 1, [index](Train& t, bool on) {
                       auto& d = std::get<CoilGeometry>(t.springs[index].kind).mean_diameter_m;
                       d = on ? std::vector<double>{d[0], d[0], d[0], 0.9 * d[0]} : std::vector<double>{d[0]};
                   });
        add_switch(to, prefix + QStringLiteral("oval"), tr("oval wire"), c->wire_height_m.has_value(),
                   [index](Train& t, bool on) {
                       auto& geometry = std::get<CoilGeometry>(t.springs[index].kind);
                       geometry.wire_height_m = on ? std::optional(0.85 * geometry.wire_m) : std::nullopt;
                   });
        add_switch(to, prefix + QStringLiteral("uneven"), tr("pitch varies"), !c->pitch_m.empty(),
                   [index](Train& t, bool on) {
                       auto& geometry = std::get<CoilGeometry>(t.springs[index].kind);
                       geometry.pitch_m = on ? usual_pitches(geometry) : std::vector<double>{};
                   });
        add_switch(to, prefix + QStringLiteral("scatter"), tr("coils' pitch scatters"),
                   c->pitch_scatter.has_value(), [index](Train& t, bool on) {
                       auto& geometry = std::get<CoilGeometry>(t.springs[index].kind);
                       geometry.pitch_scatter = on ? std::optional(kUsualPitchScatter) : std::nullopt;
                   });
        if (!c->pitch_m.empty())
            add_list(
                to, prefix + QStringLiteral("pitch_mm"), {tr("pitches at free length, seat to retainer")}, 90,
                [=, this](const Train& t) { return Columns{scaled(coil(t)->pitch_m, 1 / list_unit())}; },
                [index, this](Train& t, const Columns& columns) {
                    if (!columns[0].empty())
                        std::get<CoilGeometry>(t.springs[index].kind).pitch_m =
                            scaled(columns[0], list_unit());
                });
        if (c->mean_diameter_m.size() > 1)
            add_list(
                to, prefix + QStringLiteral("mean_diameter_mm"), {tr("mean diameters, seat to retainer")}, 90,
                [=, this](const Train& t) {
                    return Columns{scaled(coil(t)->mean_diameter_m, 1 / list_unit())};
                },
                [index, this](Train& t, const Columns& columns) {
                    if (columns[0].size() > 1)
                        std::get<CoilGeometry>(t.springs[index].kind).mean_diameter_m =
                            scaled(columns[0], list_unit());
                });
        return;
    }
    const auto table = [index](const Train& t) { return std::get_if<LoadTable>(&t.springs[index].kind); };
    const auto force = [this] { return context_.units.unit(Quantity::Force).to_si; };
    add_list(
        to, prefix + QStringLiteral("load_table"), {tr("height"), tr("load")}, 120,
        [=, this](const Train& t) {
            return Columns{scaled(table(t)->height_m, 1 / list_unit()),
                           scaled(table(t)->load_N, 1 / force())};
        },
        [=, this](Train& t, const Columns& c) {
            auto& loads = std::get<LoadTable>(t.springs[index].kind);
            loads.height_m = scaled(c[0], list_unit());
            loads.load_N = scaled(c[1], force());
        });
}

} // namespace bathmos::app
