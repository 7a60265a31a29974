#include "app/stations/lobe/gauge_import_dialog.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/remembered.h"
#include "core/lobe/base_circle.h"
#include "core/lobe/lobe_fit.h"
#include "core/problem/input_error.h"
#include "core/units/units.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFile>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace bathmos::app {

GaugeImportDialog::GaugeImportDialog(const QString& path, QWidget* parent)
    : ColumnDialog(path, QStringLiteral("gauge"), tr("Import lobe profile"), parent) {
    resize(760, 620);
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    layout->addLayout(form);
    const auto add = [&](const QString& name, const QString& label, const QStringList& items) {
        QComboBox* out = choice(name, label, items, 0);
        form->addRow(label, out);
        return out;
    };
    angle_ = add(QStringLiteral("gauge_angle"), tr("Angle"), columns());
    angle_unit_ =
        add(QStringLiteral("gauge_angle_unit"), tr("Angle is in"), {tr("cam degrees"), tr("crank degrees")});
    rises_ = new QListWidget;
    rises_->setObjectName(QStringLiteral("gauge_rises"));
    rises_->setAccessibleName(tr("Columns of cam lift"));
    rises_->setMaximumHeight(96);
    for (const QString& column : columns()) {
        auto* item = new QListWidgetItem(column, rises_);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Unchecked);
    }
    connect(rises_, &QListWidget::itemChanged, this, &GaugeImportDialog::check);
    form->addRow(tr("Cam lift"), rises_);
    unit_ =
        add(QStringLiteral("gauge_unit"), tr("Cam lift is in"), {tr("mm"), tr("in"), tr("thou"), tr("µm")});
    lobe_ = add(QStringLiteral("gauge_lobe"), tr("Number of the lobe"),
                QStringList{tr("not in this file")} + columns());
    passes_ = new QCheckBox(tr("the columns of cam lift are passes over one lobe"));
    passes_->setObjectName(QStringLiteral("gauge_passes"));
    mirrored_ = new QCheckBox(tr("gauged against the cam's rotation: opening and closing change places"));
    mirrored_->setObjectName(QStringLiteral("gauge_mirrored"));
    for (QCheckBox* box : {passes_, mirrored_}) {
        form->addRow(QString(), box);
        connect(box, &QCheckBox::toggled, this, &GaugeImportDialog::check);
    }
    const auto kept = io::mapping_of(remembered_mapping());
    show_mapping(kept.value_or(io::guess_mapping(native(path), shape())));
    finish(layout, tr("Put on the shelf"));
}

void GaugeImportDialog::show_mapping(const io::GaugeMapping& mapping) {
    angle_->setCurrentIndex(static_cast<int>(mapping.angle));
    angle_unit_->setCurrentIndex(mapping.angle_unit == AngleUnit::CrankDegree ? 1 : 0);
    for (const std::size_t rise : mapping.rises)
        if (auto* item = rises_->item(static_cast<int>(rise)))
            item->setCheckState(Qt::Checked);
    unit_->setCurrentIndex(static_cast<int>(mapping.unit));
    lobe_->setCurrentIndex(mapping.lobe ? static_cast<int>(*mapping.lobe) + 1 : 0);
    passes_->setChecked(mapping.passes);
    mirrored_->setChecked(mapping.mirrored);
}

io::GaugeMapping GaugeImportDialog::mapping() const {
    io::GaugeMapping out;
    out.angle = static_cast<std::size_t>(angle_->currentIndex());
    out.angle_unit = angle_unit_->currentIndex() == 1 ? AngleUnit::CrankDegree : AngleUnit::CamDegree;
    for (int i = 0; i < rises_->count(); ++i)
        if (rises_->item(i)->checkState() == Qt::Checked)
            out.rises.push_back(static_cast<std::size_t>(i));
    out.unit = static_cast<io::GaugeUnit>(unit_->currentIndex());
    if (lobe_->currentIndex() > 0)
        out.lobe = static_cast<std::size_t>(lobe_->currentIndex()) - 1;
    out.passes = passes_->isChecked();
    out.mirrored = mirrored_->isChecked();
    return out;
}

// Reads the whole file each time: a gauge's file is small, and what is wrong is then told before it is taken.
QString GaugeImportDialog::look() {
    lobes_.clear();
    QStringList found;
    const io::GaugeMapping now = mapping();
    std::vector<GaugedLobe> read = io::read_gauge(native(path()), shape(), now);
    for (GaugedLobe& raw : read) {
        ImportedLobe lobe{QString::fromStdString(raw.name),
                          combine(raw.passes, now.angle_unit, io::lift_unit(now.unit), now.mirrored), raw};
        const LobeCurve curve = smooth_lobe(lobe.combined.table);
        const BaseCircle base = base_circle_of(lobe.combined.table);
        const std::size_t outstanding = outstanding_readings(lobe.combined.table).size();
        QString line = tr("%1: %2 readings, lift %3 mm, noise %4 µm")
                           .arg(lobe.name)
                           .arg(lobe.combined.table.angle.size())
                           .arg(fixed(curve.lift_m() * 1e3, 3))
                           .arg(fixed(curve.smoothing()->noise_m * 1e6, 1));
        if (lobe.combined.repeatability.passes > 1)
            line += tr(", %1 passes repeat within %2 µm")
                        .arg(lobe.combined.repeatability.passes)
                        .arg(fixed(lobe.combined.repeatability.sd_m * 1e6, 1));
        if (base.readings > 0)
            line += tr(", runout %1 µm").arg(fixed(base.runout_m() * 1e6, 0));
        if (outstanding > 0)
            line += tr(", △ %n reading(s) stand out", nullptr, static_cast<int>(outstanding));
        found.push_back(line);
        lobes_.push_back(std::move(lobe));
    }
    return found.mid(0, 6).join(QLatin1Char('\n')) +
           (found.size() > 6 ? tr("\n… %1 lobes in all").arg(found.size()) : QString());
}

} // namespace bathmos::app
