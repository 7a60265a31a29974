#include "app/stations/motion/uncertainty_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "app/widgets/tolerance_popup.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

QString with_error(const std::optional<double>& rpm, double error) {
    return rpm ? UncertaintyPanel::tr("%1 ± %2").arg(speed_text(rpm)).arg(fixed(std::max(1.0, error), 0))
               : UncertaintyPanel::tr("above the range");
}

} // namespace

UncertaintyPanel::UncertaintyPanel(Context context, QWidget* parent)
    : QWidget(parent), context_(context), headline_(new QLabel),
      automatic_(new QCheckBox(tr("after each sweep"))),
      table_(new NumberTable(QStringLiteral("uncertainty_table"))),
      source_(source_box(QStringLiteral("tolerance_source"), tr("Where the chosen number is known from"))) {
    table_->setAccessibleName(tr("Numbers by what they add to the uncertainty"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(4);
    auto* top = new QHBoxLayout;
    headline_->setObjectName(QStringLiteral("uncertainty_headline"));
    headline_->setWordWrap(true);
    headline_->setFixedHeight(2 * headline_->fontMetrics().lineSpacing() + 2);
    automatic_->setObjectName(QStringLiteral("uncertainty_automatic"));
    automatic_->setToolTip(
        tr("Compute the uncertainty whenever a sweep is done: some seconds of all cores."));
    automatic_->setChecked(context_.uncertainty.automatic());
    connect(automatic_, &QCheckBox::toggled, this,
            [this](bool on) { context_.uncertainty.set_automatic(on); });
    top->addWidget(headline_, 1);
    top->addWidget(automatic_);
    layout->addLayout(top);
    table_->set_headings({tr("May be off"), tr("Value"), tr("±"), tr("Unit"), tr("Known from"), tr("Share")});
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setMinimumHeight(60);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    layout->addWidget(table_, 1);
    auto* line = new QHBoxLayout;
    chosen_ = new QWidget;
    chosen_->setLayout(new QHBoxLayout);
    chosen_->layout()->setContentsMargins(0, 0, 0, 0);
    line->addWidget(chosen_, 1);
    line->addWidget(source_);
    layout->addLayout(line);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int row, int, int before) {
        if (row != before)
            show_chosen();
    });
    connect(source_, &QComboBox::activated, this, [this](int index) {
        const int row = table_->currentRow();
        if (row >= 0 && row < static_cast<int>(inputs_.size()))
            set_tolerance(
                {static_cast<Source>(index), inputs_[static_cast<std::size_t>(row)].tolerance.plus_minus});
    });
    redraw_ = new Refresher(this, kUnhurried_ms, [this] { refresh(); });
    const auto ask = [this] { redraw_->ask(); };
    connect(&context_.uncertainty, &UncertaintyRunner::changed, this, ask);
    connect(&context_.document, &Document::changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    ask();
}

QString UncertaintyPanel::headline() const {
    const UncertaintyRunner& runner = context_.uncertainty;
    const LimitUncertainty* s = runner.uncertainty();
    QString out;
    if (s && s->trains >= 5)
        out =
            tr("10 % below %1, half below %2, 90 % below %3 rev/min; %4 trains")
                .arg(with_error(s->low_rpm, s->low_error_rpm), with_error(s->middle_rpm, s->middle_error_rpm),
                     with_error(s->high_rpm, s->high_error_rpm))
                .arg(s->trains);
    if (s && runner.old())
        out += tr(" (old: from before the last edit)");
    if (!runner.failure().isEmpty())
        out += tr(" · stopped: %1").arg(runner.failure());
    else if (runner.running())
        out += tr(" · %1 % of the trains run").arg(fixed(100 * runner.progress(), 0));
    else if (!s)
        out = tr(
            "Not computed yet: how far the limit may be off, as the numbers below are only known so well.");
    return out;
}

void UncertaintyPanel::refresh() {
    headline_->setText(headline());
    fill_table();
}

void UncertaintyPanel::fill_table() {
    if (!context_.document.has_train())
        return table_->setRowCount(0);
    const Train& train = context_.document.train();
    const int row_before = table_->currentRow();
    const std::string chosen = row_before >= 0 && row_before < static_cast<int>(inputs_.size())
                                   ? inputs_[static_cast<std::size_t>(row_before)].key
                                   : std::string();
    inputs_ = uncertain_inputs(train);
    const LimitUncertainty* uncertainty = context_.uncertainty.uncertainty();
    const auto driver = [&](const std::string& key) -> const Driver* {
        if (!uncertainty)
            return nullptr;
        const auto found = std::find_if(uncertainty->drivers.begin(), uncertainty->drivers.end(),
                                        [&](const Driver& d) { return d.input.key == key; });
        return found == uncertainty->drivers.end() ? nullptr : &*found;
    };
    const auto share = [&](const UncertainInput& input) {
        const Driver* d = driver(input.key);
        return d ? d->share : -1;
    };
    std::stable_sort(inputs_.begin(), inputs_.end(),
                     [&](const auto& a, const auto& b) { return share(a) > share(b); });
    const QSignalBlocker quiet(table_);
    table_->setRowCount(static_cast<int>(inputs_.size()));
    int current = 0;
    for (int row = 0; row < table_->rowCount(); ++row) {
        const UncertainInput& input = inputs_[static_cast<std::size_t>(row)];
        const Quantity quantity = quantity_of_value(train, input.key);
        const auto number = [&](double si) { return context_.units.typed(quantity, si); };
        table_->set_cell(row, 0, phrase(input.label), false);
        table_->set_cell(row, 1, number(value_of(train, input.key).value_or(0)));
        table_->set_cell(row, 2, number(input.tolerance.plus_minus));
        table_->set_cell(row, 3, context_.units.unit_name(quantity), false);
        table_->set_cell(row, 4,
                         input.usual ? phrase(source_name(input.tolerance.source))
                         : input.tolerance.source == Source::Estimate
                             ? tr("? assumed")
                             : phrase(source_name(input.tolerance.source)) + tr(", set"),
                         false);
        const Driver* d = driver(input.key);
        table_->set_cell(
            row, 5,
            d && uncertainty->trains >= 40
                ? tr("%1 ± %2 %").arg(fixed(100 * d->share, 0)).arg(fixed(100 * d->share_error, 0))
                : QString());
        if (input.key == chosen)
            current = row;
    }
    table_->setCurrentCell(current, 0);
    show_chosen();
}

void UncertaintyPanel::show_chosen() {
    const int row = table_->currentRow();
    if (row < 0 || row >= static_cast<int>(inputs_.size()))
        return;
    const UncertainInput& input = inputs_[static_cast<std::size_t>(row)];
    source_->setCurrentIndex(static_cast<int>(input.tolerance.source));
    const Quantity quantity = quantity_of_value(context_.document.train(), input.key);
    const QString label = tr("± of %1").arg(phrase(input.label));
    if (plus_minus_ && plus_minus_->property("key").toString() == words(input.key)) {
        plus_minus_->show_value(input.tolerance.plus_minus);
        return;
    }
    delete plus_minus_;
    plus_minus_ = new NumberField(context_.units, quantity, QStringLiteral("tolerance"), label,
                                  tr("Two standard deviations. 0 counts as exact."), [](double value) {
                                      return value >= 0 ? std::string() : std::string("must be at least 0");
                                  });
    plus_minus_->setProperty("key", words(input.key));
    plus_minus_->show_value(input.tolerance.plus_minus);
    chosen_->layout()->addWidget(plus_minus_);
    connect(plus_minus_, &NumberField::edited, this, [this](double si) {
        set_tolerance({static_cast<Source>(source_->currentIndex()), si});
    });
}

void UncertaintyPanel::set_tolerance(const Tolerance& tolerance) {
    const UncertainInput& input = inputs_[static_cast<std::size_t>(table_->currentRow())];
    Train next = context_.document.train();
    next.tolerances[input.key] = tolerance;
    context_.document.edit(next, tr("change ± of %1").arg(phrase(input.label)),
                           QStringLiteral("tolerance.") + words(input.key));
}

} // namespace bathmos::app
