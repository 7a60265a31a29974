#include "app/start/lobe_form.h"

#include "app/stations/lobe/gauge_import_dialog.h"
#include "app/text/words.h"
#include "app/theme/theme.h"
#include "app/widgets/list_edit.h"
#include "app/widgets/number_field.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QMessageBox>
#include <QPushButton>
#include <QTabWidget>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {
constexpr int kClaims = 3;
constexpr int kCard = 0, kReadings = 1; // tabs
} // namespace

LobeForm::LobeForm(DisplayUnits& units, const Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), units_(units), dialogs_(dialogs), tabs_(new QTabWidget) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    tabs_->setObjectName(QStringLiteral("known_lobe"));
    tabs_->setDocumentMode(true);
    tabs_->addTab(make_card(), tr("As on a card"));
    tabs_->addTab(make_readings(), tr("Readings"));
    layout->addWidget(tabs_);
    connect(tabs_, &QTabWidget::currentChanged, this, &LobeForm::changed);
    connect(this, &LobeForm::changed, this, [this] { typed_ = lobe(); });
    connect(&units_, &DisplayUnits::changed, this, [this] { // what was typed stands for other numbers now
        const auto known = typed_;
        relabel();
        if (const auto* card = std::get_if<LobeCard>(&known))
            fill_card(*card);
    });
    relabel();
}

QLineEdit* LobeForm::number_edit(const QString& name, const QString& spoken, const QString& placeholder) {
    auto* edit = new QLineEdit;
    edit->setObjectName(name);
    edit->setAccessibleName(spoken);
    edit->setFont(Theme::number_font());
    edit->setAlignment(Qt::AlignRight);
    edit->setPlaceholderText(placeholder);
    edit->setFixedWidth(80);
    connect(edit, &QLineEdit::textEdited, this, &LobeForm::changed);
    connect(edit, &QLineEdit::returnPressed, this, [this] { focusNextChild(); });
    return edit;
}

QWidget* LobeForm::make_card() {
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 4, 0, 0);
    grid->setVerticalSpacing(4);
    const auto side = [this](const QString& name, const QString& spoken) {
        auto* box = new QComboBox;
        box->setObjectName(name);
        box->setAccessibleName(spoken);
        box->addItems({tr("of the lobe"), tr("of the valve")});
        connect(box, &QComboBox::activated, this, &LobeForm::changed);
        return box;
    };
    const auto unit = [this] {
        auto* label = new QLabel;
        length_units_.push_back(label);
        return label;
    };
    lift_ = number_edit(QStringLiteral("card_lift"), tr("Lift"), tr("not known"));
    lift_side_ = side(QStringLiteral("card_lift_side"), tr("Whose lift"));
    lift_side_->setCurrentIndex(1);
    grid->addWidget(new QLabel(tr("Lift")), 0, 0);
    grid->addWidget(lift_, 0, 1);
    grid->addWidget(unit(), 0, 2);
    grid->addWidget(lift_side_, 0, 5);
    for (int i = 0; i < kClaims; ++i) {
        Claim claim{number_edit(QStringLiteral("card_duration_%1").arg(i), tr("Duration, crank degrees"),
                                tr("not known")),
                    number_edit(QStringLiteral("card_height_%1").arg(i), tr("at which lift"), {}),
                    side(QStringLiteral("card_side_%1").arg(i), tr("whose lift"))};
        grid->addWidget(new QLabel(i == 0 ? tr("Duration") : tr("and")), i + 1, 0);
        grid->addWidget(claim.duration, i + 1, 1);
        grid->addWidget(new QLabel(tr("° at")), i + 1, 2);
        grid->addWidget(claim.height, i + 1, 3);
        grid->addWidget(unit(), i + 1, 4);
        grid->addWidget(claim.side, i + 1, 5);
        claims_.push_back(claim);
    }
    grid->setColumnStretch(0, 1);
    return page;
}

QWidget* LobeForm::make_readings() {
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(0, 4, 0, 0);
    auto* row = new QHBoxLayout;
    angles_ = new QComboBox;
    angles_->setObjectName(QStringLiteral("readings_angles"));
    angles_->setAccessibleName(tr("Angles are"));
    angles_->addItems({tr("cam degrees"), tr("crank degrees")});
    lifts_ = new QComboBox;
    lifts_->setObjectName(QStringLiteral("readings_lifts"));
    lifts_->setAccessibleName(tr("Lifts are"));
    lifts_->addItems({tr("mm"), tr("in")});
    auto* file = new QPushButton(tr("From a file…"));
    file->setObjectName(QStringLiteral("readings_file"));
    row->addWidget(angles_);
    row->addWidget(lifts_);
    row->addStretch();
    row->addWidget(file);
    layout->addLayout(row);
    readings_ = new ListEdit(QStringLiteral("readings"), {tr("angle"), tr("lift at the follower")});
    readings_->setTabChangesFocus(true);
    readings_->setFixedHeight(96);
    layout->addWidget(readings_);
    connect(angles_, &QComboBox::activated, this, [this](int index) {
        table_.angle_unit = static_cast<AngleUnit>(index);
        emit changed();
    });
    connect(lifts_, &QComboBox::activated, this, [this](int index) {
        table_.lift_unit = static_cast<LiftUnit>(index);
        emit changed();
    });
    connect(readings_, &ListEdit::edited, this, [this](const std::vector<std::vector<double>>& columns) {
        table_.angle = columns[0];
        table_.lift = columns[1];
        emit changed();
    });
    connect(file, &QPushButton::clicked, this, [this] { from_file(); });
    return page;
}

void LobeForm::from_file() {
    const QString path = dialogs_.open_gauge();
    if (path.isEmpty())
        return;
    try {
        GaugeImportDialog dialog(path, this);
        if (dialog.exec() != QDialog::Accepted || dialog.lobes().empty())
            return;
        dialog.remember();
        show_lobe(dialog.lobes().front().combined.table);
        emit changed();
        if (dialog.lobes().size() > 1)
            QMessageBox::information(this, tr("The first lobe was taken"),
                                     tr("The file holds %1 lobes. The others come onto the shelf with "
                                        "Ctrl+J, once the train is made.")
                                         .arg(dialog.lobes().size()));
    } catch (const InputError& error) {
        QMessageBox::information(this, tr("The file was not read"), phrase(error.what()));
    }
}

void LobeForm::relabel() {
    for (QLabel* label : length_units_)
        label->setText(units_.unit_name(Quantity::Length));
    const QString usual[kClaims] = {units_.typed(Quantity::Length, 1.27e-3),
                                    units_.typed(Quantity::Length, 0.5e-3),
                                    units_.typed(Quantity::Length, 4e-3)};
    for (int i = 0; i < kClaims; ++i)
        claims_[static_cast<std::size_t>(i)].height->setPlaceholderText(usual[i]);
}

std::optional<double> LobeForm::length(const QLineEdit* edit) const {
    const auto value = parse_number(edit->text().isEmpty() ? edit->placeholderText() : edit->text());
    return value ? std::optional(*value * units_.unit(Quantity::Length).to_si) : std::nullopt;
}

std::variant<LobeCard, LobeTable> LobeForm::lobe() const {
    if (tabs_->currentIndex() == kReadings && !table_.angle.empty())
        return table_;
    LobeCard card;
    card.lift_m = length(lift_);
    card.lift_at_valve = lift_side_->currentIndex() == 1;
    for (const Claim& claim : claims_)
        if (const auto duration = parse_number(claim.duration->text()))
            if (const auto height = length(claim.height))
                card.durations.push_back({*height, radians(*duration), claim.side->currentIndex() == 1});
    return card;
}

void LobeForm::show_lobe(const std::variant<LobeCard, LobeTable>& lobe) {
    typed_ = lobe;
    if (const auto* table = std::get_if<LobeTable>(&lobe)) {
        table_ = *table;
        const QSignalBlocker quiet(tabs_);
        tabs_->setCurrentIndex(kReadings);
        angles_->setCurrentIndex(static_cast<int>(table->angle_unit));
        lifts_->setCurrentIndex(static_cast<int>(table->lift_unit));
        readings_->show_rows({table->angle, table->lift});
        return;
    }
    table_ = {};
    readings_->show_rows({{}, {}});
    const QSignalBlocker quiet(tabs_);
    tabs_->setCurrentIndex(kCard);
    fill_card(std::get<LobeCard>(lobe));
}

void LobeForm::fill_card(const LobeCard& card) {
    const auto text = [&](double si) { return units_.typed(Quantity::Length, si); };
    lift_->setText(card.lift_m ? text(*card.lift_m) : QString());
    lift_side_->setCurrentIndex(card.lift_at_valve ? 1 : 0);
    for (std::size_t i = 0; i < claims_.size(); ++i) {
        const bool there = i < card.durations.size();
        claims_[i].duration->setText(there ? digits(degrees(card.durations[i].duration_crank_rad), 6)
                                           : QString());
        claims_[i].height->setText(there ? text(card.durations[i].height_m) : QString());
        claims_[i].side->setCurrentIndex(there && card.durations[i].at_valve ? 1 : 0);
    }
}

QString LobeForm::problem() const {
    if (tabs_->currentIndex() == kReadings)
        return readings_->problem();
    std::vector<const QLineEdit*> all = {lift_};
    for (const Claim& claim : claims_)
        all.insert(all.end(), {claim.duration, claim.height});
    for (const QLineEdit* edit : all)
        if (!edit->text().trimmed().isEmpty() && !parse_number(edit->text()))
            return tr("\"%1\" is not a number").arg(edit->text());
    return {};
}

} // namespace bathmos::app
