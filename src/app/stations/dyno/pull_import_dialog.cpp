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

namespace {

QString settings_key(const io::TableShape& shape) {
    return remembered_key(QStringLiteral("pull_mapping"), io::shape_key(shape));
}

std::optional<std::size_t> chosen(const QComboBox* box) {
    const int column = box->currentData().toInt();
    return column < 0 ? std::nullopt : std::optional(static_cast<std::size_t>(column));
}

} // namespace

PullImportDialog::PullImportDialog(const QString& path, const Project& project, Id revision, QWidget* parent)
    : QDialog(parent), path_(path), shape_(io::sniff_table(native(path))) {
    setObjectName(QStringLiteral("pull_import"));
    setWindowTitle(tr("Import dyno pulls: %1").arg(QFileInfo(path).fileName()));
    resize(900, 640);
    auto* layout = new QVBoxLayout(this);
    auto* across = new QHBoxLayout;
    layout->addLayout(across, 3);
    across->addWidget(make_mapping(), 3);
    across->addWidget(make_belonging(project, revision), 2);
    layout->addWidget(make_preview(), 2);
    verdict_ = new QLabel;
    verdict_->setObjectName(QStringLiteral("pull_verdict"));
    verdict_->setWordWrap(true);
    layout->addWidget(verdict_);
    buttons_ = new QDialogButtonBox;
    buttons_->addButton(tr("Keep the pulls"), QDialogButtonBox::AcceptRole)
        ->setObjectName(QStringLiteral("pull_accept"));
    buttons_->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons_, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons_, &QDialogButtonBox::rejected, this, &QDialog::reject);
    layout->addWidget(buttons_);
    check();
}

QWidget* PullImportDialog::make_mapping() {
    const QSettings settings = remembered();
    const auto kept = io::pull_mapping_of(settings.value(settings_key(shape_)).toString().toStdString());
    io::PullMapping guess = kept ? *kept : io::guess_pull_mapping(shape_);
    if (shape_.comment("correction")) // what this file says of itself goes before what was chosen for another
        guess.corrected = io::guess_pull_mapping(shape_).corrected;
    auto* box = new QWidget;
    auto* grid = new QGridLayout(box);
    grid->setVerticalSpacing(4);
    const auto add_columns = [&](QComboBox* combo, const std::optional<std::size_t>& current) {
        combo->addItem(tr("not in this file"), -1);
        for (std::size_t i = 0; i < shape_.columns.size(); ++i)
            combo->addItem(QString::fromStdString(shape_.columns[i]), static_cast<int>(i));
        combo->setCurrentIndex(current && *current < shape_.columns.size() ? static_cast<int>(*current) + 1
                                                                           : 0);
        connect(combo, &QComboBox::currentIndexChanged, this, &PullImportDialog::check);
    };
    int row = 0;
    for (std::size_t c = 0; c < kPullChannels; ++c, ++row) {
        const PullChannelInfo& channel = info(static_cast<PullChannel>(c));
        auto* label = new QLabel(words(channel.label));
        label->setToolTip(words(channel.help));
        column_[c] = new QComboBox;
        column_[c]->setObjectName(QStringLiteral("pull_column_") + words(channel.key));
        column_[c]->setAccessibleName(tr("Column of %1").arg(words(channel.label)));
        column_[c]->setToolTip(words(channel.help));
        add_columns(column_[c], guess.column[c]);
        unit_[c] = new QComboBox;
        unit_[c]->setObjectName(QStringLiteral("pull_unit_") + words(channel.key));
        unit_[c]->setAccessibleName(tr("Unit of %1").arg(words(channel.label)));
        for (const io::PullUnit& unit : io::pull_units(static_cast<PullChannel>(c)))
            unit_[c]->addItem(words(unit.name));
        unit_[c]->setCurrentIndex(static_cast<int>(guess.unit[c]));
        connect(unit_[c], &QComboBox::currentIndexChanged, this, &PullImportDialog::check);
        grid->addWidget(label, row, 0);
        grid->addWidget(column_[c], row, 1);
        grid->addWidget(unit_[c], row, 2);
    }
    number_ = new QComboBox;
    number_->setObjectName(QStringLiteral("pull_number"));
    number_->setAccessibleName(tr("Column that counts the pulls"));
    add_columns(number_, guess.number);
    grid->addWidget(new QLabel(tr("Pull's number")), row, 0);
    grid->addWidget(number_, row++, 1);
    corrected_ = new QCheckBox(tr("torque and power are corrected already"));
    corrected_->setObjectName(QStringLiteral("pull_corrected"));
    corrected_->setChecked(guess.corrected);
    connect(corrected_, &QCheckBox::toggled, this, &PullImportDialog::check);
    grid->addWidget(corrected_, row, 0, 1, 3);
    grid->setColumnStretch(1, 1);
    auto* scroll = new QScrollArea;
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

QWidget* PullImportDialog::make_preview() {
    auto* preview = new NumberTable(QStringLiteral("pull_preview"));
    preview->setAccessibleName(tr("First rows of the file"));
    QStringList headings;
    for (const std::string& column : shape_.columns)
        headings.push_back(QString::fromStdString(column));
    preview->set_headings(headings);
    preview->setRowCount(static_cast<int>(shape_.preview.size()));
    for (int row = 0; row < preview->rowCount(); ++row) {
        const auto& fields = shape_.preview[static_cast<std::size_t>(row)];
        for (int column = 0; column < headings.size() && column < static_cast<int>(fields.size()); ++column)
            preview->set_cell(row, column, QString::fromStdString(fields[static_cast<std::size_t>(column)]));
    }
    return preview;
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

void PullImportDialog::check() {
    if (!buttons_)
        return;
    pulls_.clear();
    QString text;
    try {
        bool is_number = true;
        if (!boost_->text().trimmed().isEmpty())
            boost_->text().trimmed().toDouble(&is_number);
        if (!is_number)
            throw InputError({"", "boost", "is no number", "give kPa above ambient, or leave it empty"});
        pulls_ = io::read_pulls(native(path_), shape_, mapping());
        for (const Pull& pull : pulls_) {
            const PowerCurve curve = power_curve(pull);
            text += tr("%1: %2 readings, %3 to %4 rev/min, up to %5 kW%6. ")
                        .arg(QString::fromStdString(pull.name))
                        .arg(curve.size())
                        .arg(curve.speed_rpm.front(), 0, 'f', 0)
                        .arg(curve.speed_rpm.back(), 0, 'f', 0)
                        .arg(*std::max_element(curve.power_W.begin(), curve.power_W.end()) / 1e3, 0, 'f', 1)
                        .arg(curve.left_out ? tr(", %1 left out").arg(curve.left_out) : QString());
        }
    } catch (const InputError& error) {
        pulls_.clear();
        text = QString::fromStdString(error.what());
    }
    verdict_->setText(text);
    buttons_->findChild<QPushButton*>(QStringLiteral("pull_accept"))->setEnabled(!pulls_.empty());
}

session::PullNote PullImportDialog::note() const {
    const QString boost = boost_->text().trimmed();
    return {revision_->currentData().toLongLong(), notes_->text().trimmed().toStdString(),
            changed_->text().trimmed().toStdString(), fuel_->text().trimmed().toStdString(),
            boost.isEmpty() ? std::nullopt : std::optional(boost.toDouble())};
}

void PullImportDialog::remember() const {
    remembered().setValue(settings_key(shape_), QString::fromStdString(io::pull_mapping_text(mapping())));
}

} // namespace bathmos::app
