#include "app/stations/rig/change_view.h"

#include "app/stations/rig/fitted_words.h"
#include "app/text/words.h"
#include "app/widgets/number_table.h"

#include <QHeaderView>
#include <QLabel>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

enum ChangeColumn { kOwnName, kRevision, kOwnBelieved, kOwnFitted, kOwnUnit };

} // namespace

ChangeView::ChangeView(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    sentence_ = new QLabel;
    sentence_->setObjectName(QStringLiteral("calibration_change"));
    sentence_->setWordWrap(true);
    sentence_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    numbers_ = new NumberTable(QStringLiteral("calibration_change_numbers"));
    numbers_->setAccessibleName(tr("Numbers that differ between the two revisions, believed and fitted"));
    numbers_->set_headings(
        {tr("Number of its own"), tr("Revision"), tr("Believed"), tr("Fitted ± 1 σ"), tr("Unit")});
    numbers_->horizontalHeader()->setSectionResizeMode(kOwnName, QHeaderView::Stretch);
    layout->addWidget(sentence_);
    layout->addWidget(numbers_, 1);
}

QString ChangeView::sentence() const {
    const CalibrationRunner& runner = context_.calibration;
    if (const ChangeEffect* change = runner.change())
        return phrase(said_of(*change));
    if (runner.running() && runner.other_run())
        return tr("Both runs are being fitted: what did not change between them is one number for both.");
    return tr(
        "Choose a run of another revision beside Calibrate: both are fitted at once, what did not change "
        "between them is one number for both, and what the change did to the limit stands here.");
}

void ChangeView::refresh() {
    sentence_->setText(sentence());
    fill();
}

QString ChangeView::revision_of(std::size_t train) const {
    const Project& project = context_.document.project();
    const Id revision = context_.calibration.revision_of(train);
    return project.revisions.contains(revision) ? words(project.revision_label(revision)) : tr("other");
}

// The same number of both revisions one below the other.
void ChangeView::fill() {
    const Calibration* found = context_.calibration.calibration();
    numbers_->setRowCount(0);
    if (!found || !found->other)
        return;
    std::vector<const FittedNumber*> own;
    for (const FittedNumber& one : found->numbers)
        if (one.number.only)
            own.push_back(&one);
    numbers_->setRowCount(static_cast<int>(own.size()));
    for (int row = 0; row < numbers_->rowCount(); ++row) {
        const FittedNumber& one = *own[static_cast<std::size_t>(row)];
        const auto shown = [&](double si) { return context_.units.value(one.number.quantity, si); };
        const bool count = one.number.quantity == Quantity::Count;
        numbers_->set_cell(row, kOwnName, phrase(one.number.label), false);
        numbers_->set_cell(row, kRevision, revision_of(*one.number.only), false);
        numbers_->set_cell(row, kOwnBelieved, with_digits(shown(one.believed), shown(one.prior_sd)));
        numbers_->set_cell(row, kOwnFitted,
                           QStringLiteral("%1 ± %2").arg(with_digits(shown(one.value), shown(one.sd)),
                                                         with_digits(shown(one.sd), shown(one.sd))));
        numbers_->set_cell(row, kOwnUnit, count ? QString() : context_.units.unit_name(one.number.quantity),
                           false);
    }
}

} // namespace bathmos::app
