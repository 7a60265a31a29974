#include "app/stations/plan/campaign_form.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "core/problem/input_error.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <set>

namespace bathmos::app {

namespace {

enum FactorColumn { kFactor, kChange, kMounted, kBaseline, kComesWith };

QString hours_text(const std::vector<double>& hours) {
    QStringList out;
    for (const double one : hours)
        out << digits(one, 6);
    return out.join(QLatin1Char(' '));
}

std::optional<std::vector<double>> hours_in(const QString& text) {
    std::vector<double> out;
    for (const QString& one : text.split(QLatin1Char(' '), Qt::SkipEmptyParts)) {
        const auto value = parse_number(one);
        if (!value)
            return std::nullopt;
        out.push_back(*value);
    }
    return out;
}

} // namespace

CampaignForm::CampaignForm(Context context, QWidget* parent)
    : QWidget(parent), context_(context), factors_(new QTableWidget), levels_(new QListWidget),
      kinds_(new QComboBox), add_(new QPushButton(tr("Add factor"))),
      remove_(new QPushButton(tr("Remove factor"))), leave_out_(new QPushButton(tr("Leave level out"))),
      use_fit_(new QCheckBox) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 4, 0);
    layout->setSpacing(4);
    factors_->setObjectName(QStringLiteral("plan_factors"));
    factors_->setTabKeyNavigation(false); // Tab leaves it, arrows go through it
    factors_->setAccessibleName(tr("What is changed, with the hours it takes"));
    factors_->setColumnCount(5);
    factors_->setHorizontalHeaderLabels(
        {tr("factor"), tr("hours"), tr("mounted"), tr("baseline"), tr("opens too")});
    factors_->horizontalHeaderItem(kComesWith)
        ->setToolTip(tr("Factors that cost nothing when this one is changed"));
    factors_->verticalHeader()->hide();
    factors_->horizontalHeader()->setSectionResizeMode(kFactor, QHeaderView::ResizeToContents);
    factors_->horizontalHeader()->setSectionResizeMode(kChange, QHeaderView::ResizeToContents);
    factors_->horizontalHeader()->setSectionResizeMode(kMounted, QHeaderView::Stretch);
    factors_->horizontalHeader()->setSectionResizeMode(kBaseline, QHeaderView::Stretch);
    factors_->horizontalHeader()->setSectionResizeMode(kComesWith, QHeaderView::ResizeToContents);
    factors_->setSelectionBehavior(QAbstractItemView::SelectRows);
    factors_->setSelectionMode(QAbstractItemView::SingleSelection);
    connect(factors_, &QTableWidget::cellChanged, this, &CampaignForm::cell_changed);
    connect(factors_, &QTableWidget::currentCellChanged, this, [this] { fill_levels(); });
    layout->addWidget(factors_, 3);
    auto* line = new QHBoxLayout;
    kinds_->setObjectName(QStringLiteral("plan_kinds"));
    kinds_->setAccessibleName(tr("Kind of part to try"));
    add_->setObjectName(QStringLiteral("plan_add_factor"));
    add_->setToolTip(tr("Its levels are the parts of that kind on the shelf that fit"));
    remove_->setObjectName(QStringLiteral("plan_remove_factor"));
    connect(add_, &QPushButton::clicked, this, [this] {
        const auto kind = static_cast<PartKind>(kinds_->currentData().toInt());
        change(tr("Factor %1").arg(kinds_->currentText()), [&](io::CampaignDraft& draft) {
            const auto found =
                session::shelf_factor(context_.document.project(), context_.document.shown(), kind);
            if (!found)
                throw InputError({"", "shelf",
                                  kinds_->currentText().toStdString() + ": nothing else fits this build",
                                  "put a part on the shelf whose numbers differ (Train, Shelf)"});
            session::add_factor(draft, *found);
        });
    });
    connect(remove_, &QPushButton::clicked, this, [this] {
        change(tr("Factor left out"),
               [&](io::CampaignDraft& draft) { session::remove_factor(draft, factor()); });
    });
    line->addWidget(kinds_, 1);
    line->addWidget(add_);
    line->addWidget(remove_);
    layout->addLayout(line);
    levels_->setObjectName(QStringLiteral("plan_levels"));
    levels_->setAccessibleName(tr("Levels of the factor"));
    layout->addWidget(levels_, 2);
    leave_out_->setObjectName(QStringLiteral("plan_leave_out"));
    connect(leave_out_, &QPushButton::clicked, this, [this] {
        if (const int row = levels_->currentRow(); row >= 0)
            change(tr("Level left out"), [&](io::CampaignDraft& draft) {
                session::remove_level(draft, factor(), static_cast<std::size_t>(row));
            });
    });
    layout->addWidget(leave_out_, 0, Qt::AlignLeft);
    layout->addWidget(make_hours());
    use_fit_->setObjectName(QStringLiteral("plan_use_fit"));
    use_fit_->setToolTip(tr("Forecasts take the numbers that a calibrated run has fitted, wherever a "
                            "combination has the part that they belong to, with what they are known to"));
    connect(use_fit_, &QCheckBox::clicked, this, [this](bool on) {
        change(on ? tr("Forecast with what was fitted") : tr("Forecast as believed"),
               [on](io::CampaignDraft& draft) { draft.use_fit = on; });
    });
    layout->addWidget(use_fit_);
}

QLineEdit* CampaignForm::field(const char* name, const QString& label, const QString& help, QWidget* row) {
    auto* box = new QVBoxLayout;
    box->setSpacing(0);
    auto* words_of = new QLabel(label);
    words_of->setFont(Theme::text_font(12));
    auto* edit = new QLineEdit;
    edit->setObjectName(QLatin1String(name));
    edit->setAccessibleName(label);
    edit->setToolTip(help);
    edit->setFont(Theme::number_font(12));
    words_of->setBuddy(edit);
    box->addWidget(words_of);
    box->addWidget(edit);
    static_cast<QHBoxLayout*>(row->layout())->addLayout(box, 1);
    connect(edit, &QLineEdit::editingFinished, this, [this, edit] { hours_typed(edit); });
    return edit;
}

QWidget* CampaignForm::make_hours() {
    auto* row = new QWidget;
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    days_ = field("plan_days", tr("Hours, day by day"), tr("Of each day booked, with blanks between"), row);
    setup_ = field("plan_setup", tr("Set-up, h"), tr("Before the first run"), row);
    run_ = field("plan_run_h", tr("A run, h"), tr("With warming up and checks"), row);
    every_ = field("plan_every", tr("Baseline every"),
                   tr("Runs between two of the baseline; 0: first and last"), row);
    return row;
}

std::size_t CampaignForm::factor() const {
    return static_cast<std::size_t>(std::max(0, factors_->currentRow()));
}

void CampaignForm::show_campaign(const io::CampaignDraft& draft, const std::vector<CarriedFit>& fits) {
    draft_ = draft;
    fill();
    use_fit_->setVisible(!fits.empty());
    use_fit_->setChecked(draft_.use_fit);
    std::set<std::string> numbers;
    for (const CarriedFit& fit : fits)
        for (const std::string& key : found_numbers(fit))
            numbers.insert(key);
    if (!fits.empty())
        use_fit_->setText(tr("Forecast with %1, fitted to a run: %2 numbers")
                              .arg(words(fits.back().source))
                              .arg(numbers.size()));
}

void CampaignForm::fill() {
    filling_ = true;
    const plan::Campaign& c = draft_.campaign;
    const int row_before = factors_->currentRow();
    factors_->setRowCount(static_cast<int>(c.factors.size()));
    for (int row = 0; row < factors_->rowCount(); ++row) {
        const auto f = static_cast<std::size_t>(row);
        QStringList frees;
        for (const std::size_t with : c.factors[f].frees)
            frees << words(c.factors[with].name);
        factors_->setItem(row, kFactor, new QTableWidgetItem(words(c.factors[f].name)));
        factors_->item(row, kFactor)->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
        factors_->setItem(row, kChange, new QTableWidgetItem(digits(c.factors[f].change_h, 6)));
        factors_->setItem(row, kComesWith, new QTableWidgetItem(frees.join(QStringLiteral(", "))));
        for (const auto& [column, now] : {std::pair{kMounted, c.mounted[f]}, {kBaseline, c.baseline[f]}}) {
            auto* box = new QComboBox;
            box->setObjectName(
                QStringLiteral("plan_%1_%2").arg(column == kMounted ? "mounted" : "baseline").arg(row));
            box->setAccessibleName(
                tr("%1 of %2")
                    .arg(column == kMounted ? tr("mounted") : tr("baseline"), words(c.factors[f].name)));
            for (const std::string& level : c.factors[f].levels)
                box->addItem(words(level));
            box->setCurrentIndex(static_cast<int>(now));
            const bool mounted = column == kMounted;
            connect(box, &QComboBox::activated, this, [this, f, mounted](int level) {
                if (f >= draft_.campaign.factors.size() ||
                    static_cast<std::size_t>(level) >= draft_.campaign.factors[f].levels.size())
                    return; // a row that is going
                change(mounted ? tr("Mounted now") : tr("Baseline"), [&](io::CampaignDraft& draft) {
                    (mounted ? draft.campaign.mounted : draft.campaign.baseline)[f] =
                        static_cast<std::size_t>(level);
                });
            });
            factors_->setCellWidget(row, column, box);
        }
    }
    factors_->setCurrentCell(std::clamp(row_before, 0, std::max(0, factors_->rowCount() - 1)), 0);
    days_->setText(hours_text(c.day_h));
    setup_->setText(digits(c.setup_h, 6));
    run_->setText(digits(c.run_h, 6));
    every_->setText(QString::number(c.baseline_every));
    kinds_->clear();
    if (context_.document.has_train())
        for (const PartKind kind :
             session::kinds_to_try(context_.document.project(), context_.document.shown()))
            if (std::ranges::find(c.factors, info(kind).key, &plan::Factor::name) == c.factors.end())
                kinds_->addItem(phrase(info(kind).label), static_cast<int>(kind));
    add_->setEnabled(kinds_->count() > 0);
    remove_->setEnabled(c.factors.size() > 1);
    filling_ = false;
    fill_levels();
}

void CampaignForm::fill_levels() {
    if (filling_)
        return;
    levels_->clear();
    const plan::Campaign& c = draft_.campaign;
    if (factor() >= c.factors.size())
        return;
    for (std::size_t i = 0; i < c.factors[factor()].levels.size(); ++i) {
        QString text = words(c.factors[factor()].levels[i]);
        if (i == c.baseline[factor()])
            text += tr(" · baseline");
        levels_->addItem(text);
    }
    leave_out_->setEnabled(levels_->count() > 2);
}

// Keeps the edit where it makes a campaign; else says why, and shows what is kept.
void CampaignForm::change(const QString& what, const std::function<void(io::CampaignDraft&)>& edit) {
    if (filling_)
        return;
    io::CampaignDraft next = draft_;
    try {
        edit(next);
        plan::check_campaign(next.campaign);
    } catch (const InputError& error) {
        emit message(tr("Not changed. %1").arg(phrase(error.what())));
        return fill();
    }
    if (next == draft_)
        return;
    draft_ = next;
    fill();
    emit edited(draft_, what);
}

void CampaignForm::cell_changed(int row, int column) {
    if (filling_ || (column != kChange && column != kComesWith))
        return;
    const QString text = factors_->item(row, column)->text();
    const auto f = static_cast<std::size_t>(row);
    if (column == kChange) {
        change(tr("Hours to change %1").arg(factors_->item(row, kFactor)->text()),
               [&](io::CampaignDraft& draft) {
                   const auto hours = parse_number(text);
                   draft.campaign.factors[f].change_h = hours ? *hours : -1;
               });
        return;
    }
    change(tr("What opens with %1").arg(factors_->item(row, kFactor)->text()), [&](io::CampaignDraft& draft) {
        std::vector<std::size_t> frees;
        for (const QString& name : text.split(QLatin1Char(','), Qt::SkipEmptyParts)) {
            const auto at =
                std::ranges::find(draft.campaign.factors, name.trimmed().toStdString(), &plan::Factor::name);
            frees.push_back(static_cast<std::size_t>(at - draft.campaign.factors.begin()));
        }
        draft.campaign.factors[f].frees = frees;
    });
}

void CampaignForm::hours_typed(QLineEdit* edit) {
    if (filling_ || !edit->isModified())
        return;
    edit->setModified(false);
    const QString text = edit->text();
    change(edit->accessibleName(), [&](io::CampaignDraft& draft) {
        plan::Campaign& c = draft.campaign;
        const double number = parse_number(text).value_or(-1);
        if (edit == days_)
            c.day_h = hours_in(text).value_or(std::vector<double>{-1});
        else if (edit == setup_)
            c.setup_h = number;
        else if (edit == run_)
            c.run_h = number;
        else if (!(number >= 0 && number <= 1000 && number == std::floor(number)))
            throw InputError(
                {"", "baseline", "is no number of runs", "give a whole number, 0 for first and last"});
        else
            c.baseline_every = static_cast<std::size_t>(number);
    });
}

} // namespace bathmos::app
