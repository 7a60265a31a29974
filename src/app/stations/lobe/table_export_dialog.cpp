#include "app/stations/lobe/table_export_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QPushButton>

namespace bathmos::app {

TableExportDialog::TableExportDialog(const QString& lobe, QWidget* parent) : QDialog(parent) {
    setObjectName(QStringLiteral("table_export"));
    setWindowTitle(tr("Export as a table: %1").arg(lobe));
    auto* form = new QFormLayout(this);
    angle_unit_ = new QComboBox;
    angle_unit_->setObjectName(QStringLiteral("table_angle_unit"));
    angle_unit_->setAccessibleName(tr("Angle in"));
    angle_unit_->addItems({tr("cam degrees"), tr("crank degrees")});
    form->addRow(tr("Angle in"), angle_unit_);
    step_ = new QDoubleSpinBox;
    step_->setObjectName(QStringLiteral("table_step"));
    step_->setRange(0.05, 10);
    step_->setValue(1);
    step_->setSuffix(QStringLiteral("°"));
    form->addRow(tr("Step"), step_);
    unit_ = new QComboBox;
    unit_->setObjectName(QStringLiteral("table_unit"));
    unit_->setAccessibleName(tr("Lift in"));
    unit_->addItems({tr("mm"), tr("in"), tr("thou"), tr("µm")});
    form->addRow(tr("Lift in"), unit_);
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(tr("Export"), QDialogButtonBox::AcceptRole)
        ->setObjectName(QStringLiteral("table_accept"));
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    form->addRow(buttons);
}

std::string TableExportDialog::text_of(const LobeCurve& curve) const {
    return io::gauge_csv(curve,
                         angle_unit_->currentIndex() == 0 ? AngleUnit::CamDegree : AngleUnit::CrankDegree,
                         step_->value(), static_cast<io::GaugeUnit>(unit_->currentIndex()));
}

} // namespace bathmos::app
