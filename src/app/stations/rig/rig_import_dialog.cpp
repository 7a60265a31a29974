#include "app/stations/rig/rig_import_dialog.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFile>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

struct LiftUnitChoice {
    const char* name;
    double to_mm;
};
constexpr LiftUnitChoice kLiftUnits[] = {{"mm", 1}, {"µm", 1e-3}, {"in", 25.4}, {"thou", 0.0254}};

std::optional<std::size_t> chosen(const QComboBox* box) {
    const int column = box->currentData().toInt();
    return column < 0 ? std::nullopt : std::optional(static_cast<std::size_t>(column));
}

} // namespace

RigImportDialog::RigImportDialog(const QString& path, QWidget* parent)
    : QDialog(parent), path_(path), shape_(io::sniff_table(native(path))) {
    setObjectName(QStringLiteral("rig_import"));
    setWindowTitle(tr("Import rig trace: %1").arg(QFileInfo(path).fileName()));
    resize(760, 560);
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    layout->addLayout(form);
    add_mapping(form);
    auto* preview = new NumberTable(QStringLiteral("import_preview"));
    preview->setAccessibleName(tr("First rows of the file"));
    QStringList headings;
    for (const std::string& column : shape_.columns)
        headings.push_back(QString::fromStdString(column));
    preview->set_headings(headings);
    preview->setRowCount(static_cast<int>(shape_.preview.size()));
    for (int row = 0; row < preview->rowCount(); ++row)
        for (int column = 0; column < headings.size(); ++column) {
            const auto& fields = shape_.preview[static_cast<std::size_t>(row)];
            preview->set_cell(row, column,
                              static_cast<std::size_t>(column) < fields.size()
                                  ? QString::fromStdString(fields[static_cast<std::size_t>(column)])
                                  : QString());
        }
    layout->addWidget(preview, 1);
    verdict_ = new QLabel;
    verdict_->setObjectName(QStringLiteral("import_verdict"));
    verdict_->setWordWrap(true);
    layout->addWidget(verdict_);
    buttons_ = new QDialogButtonBox;
    buttons_->addButton(tr("Import"), QDialogButtonBox::AcceptRole)
        ->setObjectName(QStringLiteral("import_accept"));
    buttons_->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons_, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons_, &QDialogButtonBox::rejected, this, &QDialog::reject);
    layout->addWidget(buttons_);
    check();
}

QComboBox* RigImportDialog::column_choice(const QString& name, const std::optional<std::size_t>& guess) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->addItem(tr("not in this file"), -1);
    for (std::size_t i = 0; i < shape_.columns.size(); ++i)
        box->addItem(QString::fromStdString(shape_.columns[i]), static_cast<int>(i));
    box->setCurrentIndex(guess ? static_cast<int>(*guess) + 1 : 0);
    connect(box, &QComboBox::currentIndexChanged, this, &RigImportDialog::check);
    return box;
}

void RigImportDialog::add_mapping(QFormLayout* form) {
    const io::RigColumns guess = io::guess_columns(shape_);
    const auto choice = [&](const QString& name, const QStringList& items, int current) {
        auto* box = new QComboBox;
        box->setObjectName(name);
        box->addItems(items);
        box->setCurrentIndex(current);
        connect(box, &QComboBox::currentIndexChanged, this, &RigImportDialog::check);
        return box;
    };
    basis_ = choice(QStringLiteral("import_basis"), {tr("crank or cam angle"), tr("time and index pulse")},
                    guess.time_based() ? 1 : 0);
    form->addRow(tr("Samples stand over"), basis_);
    lift_ = column_choice(QStringLiteral("import_lift"), guess.lift);
    form->addRow(tr("Valve lift"), lift_);
    QStringList units;
    int unit = 0;
    for (int i = 0; i < 4; ++i) {
        units.push_back(QString::fromUtf8(kLiftUnits[i].name));
        if (kLiftUnits[i].to_mm == guess.lift_to_mm)
            unit = i;
    }
    lift_unit_ = choice(QStringLiteral("import_lift_unit"), units, unit);
    form->addRow(tr("Lift is in"), lift_unit_);
    reversed_ = new QCheckBox(tr("the reading falls as the valve opens"));
    reversed_->setObjectName(QStringLiteral("import_reversed"));
    form->addRow(tr("Sensor"), reversed_);
    rpm_ = column_choice(QStringLiteral("import_rpm"), guess.rpm);
    form->addRow(tr("Speed, rev/min"), rpm_);
    cycle_ = column_choice(QStringLiteral("import_cycle"), guess.cycle);
    form->addRow(tr("Cycle count"), cycle_);
    angle_ = column_choice(QStringLiteral("import_angle"), guess.crank);
    form->addRow(tr("Angle"), angle_);
    angle_unit_ = choice(QStringLiteral("import_angle_unit"), {tr("crank degrees"), tr("cam degrees")},
                         guess.angle_unit == io::RigAngleUnit::CamDegree ? 1 : 0);
    form->addRow(tr("Angle is in"), angle_unit_);
    time_ = column_choice(QStringLiteral("import_time"), guess.time);
    form->addRow(tr("Time, s"), time_);
    index_ = column_choice(QStringLiteral("import_index"), guess.index);
    form->addRow(tr("Index pulse"), index_);
}

RigImport RigImportDialog::wanted() const {
    RigImport out;
    out.path = path_;
    out.shape = shape_;
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
    return out;
}

QString RigImportDialog::missing() const {
    const io::RigColumns c = wanted().columns;
    if (!c.lift)
        return tr("Choose the column with the valve lift.");
    if (basis_->currentIndex() == 0 && !c.crank)
        return tr("Choose the column with the angle from the index pulse.");
    if (basis_->currentIndex() == 0 && !c.rpm)
        return tr("Choose the column with the speed.");
    if (basis_->currentIndex() == 1 && !c.time)
        return tr("Choose the column with the time.");
    if (basis_->currentIndex() == 1 && !c.index)
        return tr("Choose the column with the index pulse: without it turns cannot be told apart.");
    return {};
}

void RigImportDialog::check() {
    if (!buttons_)
        return;
    const bool by_time = basis_->currentIndex() == 1;
    for (QComboBox* box : {rpm_, cycle_, angle_, angle_unit_})
        box->setEnabled(!by_time);
    for (QComboBox* box : {time_, index_})
        box->setEnabled(by_time);
    const QString lacking = missing();
    verdict_->setText(
        lacking.isEmpty()
            ? tr("Ready. The file itself is never changed; zero, phase and bad cycles are found on import.")
            : lacking);
    for (QAbstractButton* button : buttons_->buttons())
        if (buttons_->buttonRole(button) == QDialogButtonBox::AcceptRole)
            button->setEnabled(lacking.isEmpty());
}

} // namespace bathmos::app
