#include "app/stations/dyno/pull_import_dialog.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/remembered.h"
#include "core/dyno/power_curve.h"
#include "core/problem/input_error.h"
#include "io/lobe/gauge_file.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFile>
#include <QFileInfo>
#include <QFormLayout>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace bathmos::app {

PullImportDialog::PullImportDialog(const QString& path, const Project& project, Id revision, QWidget* parent)
    : ColumnDialog(path, QStringLiteral("pull"), tr("Import dyno pulls"), parent) {
    resize(900, 640);
    auto* layout = new QVBoxLayout(this);
    auto* across = new QHBoxLayout;
    layout->addLayout(across, 2);
    across->addWidget(make_mapping(), 3);
    across->addWidget(make_belonging(project, revision), 2);
    finish(layout, tr("Keep the pulls"));
}

QWidget* PullImportDialog::make_mapping() {
    const auto kept = io::pull_mapping_of(remembered_mapping());
    io::PullMapping guess = kept ? *kept : io::guess_pull_mapping(shape());
    if (shape().comment(
            "correction")) // what this file says of itself goes before what was chosen for another
        guess.corrected = io::guess_pull_mapping(shape()).corrected;
    auto* box = new QWidget;
    auto* grid = new QGridLayout(box);
    grid->setVerticalSpacing(4);
    int row = 0;
    for (std::size_t c = 0; c < kPullChannels; ++c, ++row) {
        const PullChannelInfo& channel = info(static_cast<PullChannel>(c));
        auto* label = new QLabel(phrase(channel.label));
        label->setToolTip(phrase(channel.help));
        column_[c] = column_choice(QStringLiteral("pull_column_") + words(channel.key),
                                   tr("Column of %1").arg(phrase(channel.label)), guess.column[c]);
        column_[c]->setToolTip(phrase(channel.help));
        QStringList units;
        for (const io::PullUnit& unit : io::pull_units(static_cast<PullChannel>(c)))
            units.push_back(words(unit.name));
        unit_[c] =
            choice(QStringLiteral("pull_unit_") + words(channel.key),
                   tr("Unit of %1").arg(phrase(channel.label)), units, static_cast<int>(guess.unit[c]));
        grid->addWidget(label, row, 0);
        grid->addWidget(column_[c], row, 1);
        grid->addWidget(unit_[c], row, 2);
    }
    number_ = column_choice(QStringLiteral("pull_number"), tr("Column that counts the pulls"), guess.number);
    grid->addWidget(new QLabel(tr("Pull's number")), row, 0);
    grid->addWidget(number_, row++, 1);
    corrected_ = new QCheckBox(tr("torque and power are corrected already"));
    corrected_->setObjectName(QStringLiteral("pull_corrected"));
    corrected_->setChecked(guess.corrected);
    connect(corrected_, &QCheckBox::toggled, this, &PullImportDialog::check);
    grid->addWidget(corrected_, row, 0, 1, 3);
    grid->setColumnStretch(1, 1);
    auto* scroll = new QScrollArea;
    scroll->setAccessibleName(tr("Columns of the file"));
    scroll->setWidget(box);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    return scroll;
}

QWidget* PullImportDialog::make_belonging(const Project& project, Id revision) {
    auto* box = new QWidget;
    auto* form = new QFormLayout(box);
    revision_ = new QComboBox;
    revision_->setObjectName(QStringLiteral("pull_revision"));
    revision_->setAccessibleName(tr("Made with"));
    for (const Id id : project.revisions_of(project.revisions.at(revision).build)) {
        revision_->addItem(QString::fromStdString(project.revision_label(id)),
                           QVariant::fromValue<qlonglong>(id));
        if (id == revision)
            revision_->setCurrentIndex(revision_->count() - 1);
    }
    revision_->setToolTip(tr("The revision that was pulled; it never changes from then on."));
    form->addRow(tr("Made with"), revision_);
    const auto line = [&](const QString& name, const QString& label, const QString& hint) {
        auto* edit = new QLineEdit;
        edit->setObjectName(name);
        edit->setAccessibleName(label);
        edit->setPlaceholderText(hint);
        form->addRow(label, edit);
        return edit;
    };
    changed_ =
        line(QStringLiteral("pull_changed"), tr("Also changed"), tr("beside the train, e.g. smaller pulley"));
    fuel_ = line(QStringLiteral("pull_fuel"), tr("Fuel"), tr("as bought"));
    boost_ = line(QStringLiteral("pull_boost"), tr("Boost set, kPa"), tr("above ambient"));
    notes_ = line(QStringLiteral("pull_notes"), tr("Notes"), {});
    connect(boost_, &QLineEdit::textChanged, this, &PullImportDialog::check);
    return box;
}

io::PullMapping PullImportDialog::mapping() const {
    io::PullMapping out;
    for (std::size_t c = 0; c < kPullChannels; ++c) {
        out.column[c] = chosen(column_[c]);
        out.unit[c] = static_cast<std::size_t>(std::max(0, unit_[c]->currentIndex()));
    }
    out.number = chosen(number_);
    out.corrected = corrected_->isChecked();
    return out;
}

QString PullImportDialog::look() {
    pulls_.clear();
    if (!boost_->text().trimmed().isEmpty() && !parse_number(boost_->text()))
        throw InputError({"", "boost", "is no number", "give kPa above ambient, or leave it empty"});
    std::vector<Pull> read = io::read_pulls(native(path()), shape(), mapping());
    QString text;
    for (const Pull& pull : read) {
        const PowerCurve curve = power_curve(pull);
        text += tr("%1: %2 readings, %3 to %4 rev/min, up to %5 kW%6. ")
                    .arg(words(pull.name))
                    .arg(curve.size())
                    .arg(fixed(curve.speed_rpm.front(), 0))
                    .arg(fixed(curve.speed_rpm.back(), 0))
                    .arg(fixed(*std::max_element(curve.power_W.begin(), curve.power_W.end()) / 1e3, 1))
                    .arg(curve.left_out ? tr(", %1 left out").arg(curve.left_out) : QString());
    }
    pulls_ = std::move(read);
    return text;
}

session::PullNote PullImportDialog::note() const {
    return {revision_->currentData().toLongLong(), notes_->text().trimmed().toStdString(),
            changed_->text().trimmed().toStdString(), fuel_->text().trimmed().toStdString(),
            parse_number(boost_->text())};
}

} // namespace bathmos::app
