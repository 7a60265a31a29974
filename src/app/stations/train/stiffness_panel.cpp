#include "app/stations/train/stiffness_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

QString signed_speed(const std::optional<double>& rpm) {
    return rpm ? QStringLiteral("%1%2").arg(*rpm < 0 ? QString() : QStringLiteral("+")).arg(fixed(*rpm, 0))
               : QStringLiteral("–");
}

} // namespace

StiffnessPanel::StiffnessPanel(Context context, QWidget* parent)
    : QWidget(parent), context_(context), run_(new QPushButton(tr("Try stiffer links"))), words_(new QLabel),
      table_(new NumberTable(QStringLiteral("stiffness_table"))) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(8, 0, 8, 4);
    layout->setSpacing(4);
    auto* line = new QHBoxLayout;
    run_->setObjectName(QStringLiteral("stiffness_run"));
    run_->setToolTip(tr("The limit with each link between cam and valve a tenth stiffer, at its mass of now "
                        "and with the mass that it takes"));
    words_->setObjectName(QStringLiteral("stiffness_words"));
    words_->setWordWrap(true);
    line->addWidget(run_);
    line->addWidget(words_, 1);
    layout->addLayout(line);
    table_->setAccessibleName(tr("Gain of the limit by stiffer links"));
    table_->setFixedHeight(4 * table_->verticalHeader()->defaultSectionSize() + 8); // heading and three links
    layout->addWidget(table_);
    connect(run_, &QPushButton::clicked, this, &StiffnessPanel::run);
    connect(&context_.document, &Document::changed, this, [this] {
        work_.stop();
        state_.clear();
        show_result();
    });
    connect(&context_.units, &DisplayUnits::changed, this, &StiffnessPanel::show_result);
    show_result();
}

void StiffnessPanel::run() {
    if (work_.running()) {
        work_.stop();
        state_.clear();
        return show_result();
    }
    if (!context_.document.rigid())
        return;
    LimitQuestion question;
    question.range = context_.document.range();
    question.range.last_rpm = std::max(question.range.last_rpm, context_.document.target_rpm() + 1500);
    question.limits = context_.document.limits();
    const quint64 revision = context_.document.revision();
    state_ = tr("trying…");
    words_->setText(state_);
    run_->setText(tr("Stop"));
    work_.start(
        [=, this, train = context_.document.train()](const std::stop_token& stop,
                                                     const Background::Post& post) {
            LimitQuestion asked = question;
            asked.stop = stop;
            const auto progress = [&](double share) {
                post([this, share] {
                    state_ = tr("%1 % tried").arg(fixed(100 * share, 0));
                    words_->setText(state_);
                });
            };
            StiffnessBudget budget = stiffness_budget(train, asked, progress);
            post([this, revision, budget = std::move(budget)]() mutable {
                budget_ = std::move(budget);
                revision_ = revision;
            });
        },
        [this](const QString& failure) {
            state_ = failure;
            show_result();
        });
}

QString StiffnessPanel::words_now() const {
    if (!state_.isEmpty())
        return state_;
    if (!budget_)
        return tr("What the limit gains with each link a tenth stiffer.");
    const QString now = budget_->limit_rpm
                            ? tr("Limit of now: %1.").arg(speed_text(*budget_->limit_rpm))
                            : tr("No limit in the range: gains are those that bring one into it.");
    const QString mend = budget_->mend_first.empty()
                             ? tr("No link has over three tenths of the compliance.")
                             : tr("Mend %1 first: it has over three tenths of the compliance.")
                                   .arg(phrase(budget_->mend_first));
    const QString old =
        revision_ == context_.document.revision() ? QString() : tr("(old: from before the last edit) ");
    return old + now + QLatin1Char(' ') + mend;
}

void StiffnessPanel::show_result() {
    run_->setText(tr("Try stiffer links"));
    words_->setText(words_now());
    table_->setVisible(budget_.has_value());
    if (!budget_)
        return;
    table_->set_headings({tr("link"), tr("share"), tr("same mass"), tr("its mass"),
                          tr("adds, %1").arg(context_.units.unit_name(Quantity::Mass))});
    table_->horizontalHeaderItem(1)->setToolTip(tr("of the compliance at the valve's tip"));
    table_->horizontalHeaderItem(2)->setToolTip(tr("rev/min gained by the limit, at its mass of now"));
    table_->horizontalHeaderItem(3)->setToolTip(
        tr("rev/min gained by the limit, with the mass that it takes"));
    table_->setRowCount(static_cast<int>(budget_->links.size()));
    int row = 0;
    for (const StiffnessGain& link : budget_->links) {
        table_->set_cell(row, 0, phrase(link.part), false);
        table_->set_cell(row, 1, tr("%1 %").arg(fixed(100 * link.share, 1)));
        table_->set_cell(row, 2, signed_speed(link.same_mass_rpm));
        table_->set_cell(row, 3, signed_speed(link.true_mass_rpm));
        table_->set_cell(row, 4, fixed(context_.units.value(Quantity::Mass, link.added_kg), 1));
        ++row;
    }
    table_->resizeColumnsToContents();
}

} // namespace bathmos::app
