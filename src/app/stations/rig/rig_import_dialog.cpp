#include "app/stations/rig/rig_import_dialog.h"

#include "app/text/words.h"
#include "core/problem/input_error.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

struct LiftUnitChoice {
    const char* name;
    double to_mm;
};
constexpr LiftUnitChoice kLiftUnits[] = {{"mm", 1}, {"µm", 1e-3}, {"in", 25.4}, {"thou", 0.0254}};

} // namespace

RigImportDialog::RigImportDialog(const QString& path, QWidget* parent)
    : ColumnDialog(path, QStringLiteral("rig"), tr("Import rig trace"), parent) {
    resize(760, 560);
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    layout->addLayout(form);
    add_mapping(form);
    finish(layout, tr("Import"));
}

void RigImportDialog::add_mapping(QFormLayout* form) {
    const auto kept = io::rig_mapping_of(remembered_mapping());
    const io::RigColumns guess = kept ? kept->columns : io::guess_columns(shape());
    basis_ = choice(QStringLiteral("import_basis"), tr("Samples stand over"),
                    {tr("crank or cam angle"), tr("time and index pulse")}, guess.time_based() ? 1 : 0);
    form->addRow(tr("Samples stand over"), basis_);
    lift_ = column_choice(QStringLiteral("import_lift"), tr("Valve lift"), guess.lift);
    form->addRow(tr("Valve lift"), lift_);
    QStringList units;
    int unit = 0;
    for (int i = 0; i < 4; ++i) {
        units.push_back(QString::fromUtf8(kLiftUnits[i].name));
        if (kLiftUnits[i].to_mm == guess.lift_to_mm)
            unit = i;
    }
    lift_unit_ = choice(QStringLiteral("import_lift_unit"), tr("Lift is in"), units, unit);
    form->addRow(tr("Lift is in"), lift_unit_);
    reversed_ = new QCheckBox(tr("the reading falls as the valve opens"));
    reversed_->setObjectName(QStringLiteral("import_reversed"));
    reversed_->setChecked(kept && kept->reversed);
    form->addRow(tr("Sensor"), reversed_);
    rpm_ = column_choice(QStringLiteral("import_rpm"), tr("Speed, rev/min"), guess.rpm);
    form->addRow(tr("Speed, rev/min"), rpm_);
    cycle_ = column_choice(QStringLiteral("import_cycle"), tr("Cycle count"), guess.cycle);
    form->addRow(tr("Cycle count"), cycle_);
    angle_ = column_choice(QStringLiteral("import_angle"), tr("Angle"), guess.crank);
    form->addRow(tr("Angle"), angle_);
    angle_unit_ = choice(QStringLiteral("import_angle_unit"), tr("Angle is in"),
                         {tr("crank degrees"), tr("cam degrees")},
                         guess.angle_unit == io::RigAngleUnit::CamDegree ? 1 : 0);
    form->addRow(tr("Angle is in"), angle_unit_);
    time_ = column_choice(QStringLiteral("import_time"), tr("Time, s"), guess.time);
    form->addRow(tr("Time, s"), time_);
    index_ = column_choice(QStringLiteral("import_index"), tr("Index pulse"), guess.index);
    form->addRow(tr("Index pulse"), index_);
    oil_ = column_choice(QStringLiteral("import_oil"), tr("Oil, °C"), guess.oil);
    form->addRow(tr("Oil, °C"), oil_);
}

RigImport RigImportDialog::wanted() const {
    RigImport out;
    out.path = path();
    out.shape = shape();
    out.reversed = reversed_->isChecked();
    io::RigColumns& c = out.columns;
    c.lift = chosen(lift_);
    c.lift_to_mm = kLiftUnits[lift_unit_->currentIndex()].to_mm;
    if (basis_->currentIndex() == 0) {
        c.rpm = chosen(rpm_);
        c.cycle = chosen(cycle_);
        c.crank = chosen(angle_);
        c.angle_unit =
            angle_unit_->currentIndex() == 1 ? io::RigAngleUnit::CamDegree : io::RigAngleUnit::CrankDegree;
    } else {
        c.time = chosen(time_);
        c.index = chosen(index_);
    }
    c.oil = chosen(oil_);
    return out;
}

std::string RigImportDialog::mapping_line() const {
    return io::rig_mapping_text(wanted().columns, reversed_->isChecked());
}

QString RigImportDialog::look() {
    const bool by_time = basis_->currentIndex() == 1;
    for (QComboBox* box : {rpm_, cycle_, angle_, angle_unit_})
        box->setEnabled(!by_time);
    for (QComboBox* box : {time_, index_})
        box->setEnabled(by_time);
    const io::RigColumns c = wanted().columns;
    const auto require = [](bool there, const QString& what) {
        if (!there)
            throw InputError({"", "", what.toStdString(), ""});
    };
    require(c.lift.has_value(), tr("Choose the column with the valve lift."));
    require(by_time || c.crank, tr("Choose the column with the angle from the index pulse."));
    require(by_time || c.rpm, tr("Choose the column with the speed."));
    require(!by_time || c.time, tr("Choose the column with the time."));
    require(!by_time || c.index,
            tr("Choose the column with the index pulse: without it turns cannot be told apart."));
    return tr("Ready. The file itself is never changed; zero, phase and bad cycles are found on import.");
}

} // namespace bathmos::app
