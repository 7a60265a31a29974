#include "app/stations/dyno/states_view.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"

#include <QHeaderView>
#include <QLabel>
#include <QVBoxLayout>
#include <cmath>

namespace bathmos::app {

namespace {

enum StatesColumn {
    kStateName,
    kStateBreak,
    kStateMissing,
    kLowThird,
    kMiddleThird,
    kTopThird,
    kStateCrosses
};
constexpr int kStateWidth = 120;

} // namespace

StatesView::StatesView(Context context, QWidget* parent)
    : QWidget(parent), context_(context), words_(new QLabel),
      table_(new NumberTable(QStringLiteral("dyno_states"))) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 4, 0, 0);
    words_->setObjectName(QStringLiteral("dyno_states_words"));
    words_->setWordWrap(true);
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    table_->setAccessibleName(tr("States beside each other"));
    table_->set_headings(
        {tr("State"), tr("break"), tr("missing"), tr("low"), tr("middle"), tr("top"), tr("crosses")});
    table_->setToolTip(tr("Enter shows that state."));
    table_->setColumnWidth(kStateName, kStateWidth);
    table_->horizontalHeader()->setStretchLastSection(true);
    connect(table_, &QTableWidget::cellActivated, this,
            [this](int row) { context_.dyno.choose(row, context_.dyno.against()); });
    layout->addWidget(words_);
    layout->addWidget(table_, 1);
}

void StatesView::fill() {
    fill_words();
    const auto& states = context_.dyno.states();
    const auto told = session::states_told(states, context_.dyno.against());
    table_->setRowCount(static_cast<int>(states.size()));
    for (std::size_t i = 0; i < states.size(); ++i)
        fill_row(static_cast<int>(i), states[i], told[i]);
}

void StatesView::fill_words() {
    QStringList text;
    for (const std::string& sentence : session::break_sentences(context_.dyno.states()))
        text << phrase(sentence);
    const QString unit = context_.units.unit_name(Quantity::Power);
    text << tr("Missing at the top: against the trend below the break, continued.");
    text << (context_.dyno.compared() ? tr("Low, middle, top: gain over %1 by thirds of the speeds that both "
                                           "have, %2; in brackets: within scatter, or "
                                           "not repeated.")
                                            .arg(words(context_.dyno.compared()->label), unit)
                                      : tr("Choose a state to compare with for the gains."));
    words_->setText(text.join(QLatin1Char(' ')));
}

void StatesView::fill_row(int row, const session::DynoState& state, const session::StateTold& told) {
    const auto power = [&](double si) { return fixed(context_.units.value(Quantity::Power, si), 1); };
    const QString none = QStringLiteral("–");
    table_->set_cell(row, kStateName, words(state.label), false);
    table_->item(row, kStateName)->setToolTip(words(state.label));
    table_->set_cell(row, kStateBreak, state.first_break ? fixed(state.first_break->speed_rpm, 0) : none);
    table_->set_cell(row, kStateMissing, told.missing ? power(told.missing->power_W) : none);
    if (told.missing)
        table_->item(row, kStateMissing)
            ->setToolTip(tr("%1 % at %2 rev/min")
                             .arg(fixed(100 * told.missing->share, 1))
                             .arg(fixed(told.missing->at_rpm, 0)));
    for (int third = 0; third < 3; ++third) {
        const int column = kLowThird + third;
        if (!told.gain) {
            table_->set_cell(row, column, none);
            continue;
        }
        const RangeGain& gain = told.gain->thirds[static_cast<std::size_t>(third)];
        const bool sure = gain.plus_minus_W && std::abs(gain.gain_W) > *gain.plus_minus_W;
        const QString value = (gain.gain_W > 0 ? QStringLiteral("+") : QString()) + power(gain.gain_W);
        table_->set_cell(row, column, sure ? value : QStringLiteral("(%1)").arg(value));
        table_->item(row, column)
            ->setToolTip(tr("%1 … %2 rev/min, %3")
                             .arg(fixed(gain.from_rpm, 0))
                             .arg(fixed(gain.to_rpm, 0))
                             .arg(!gain.plus_minus_W ? tr("not repeated")
                                  : sure             ? tr("± %1").arg(power(*gain.plus_minus_W))
                                         : tr("± %1: within scatter").arg(power(*gain.plus_minus_W))));
    }
    QStringList crosses;
    for (const double rpm : told.crosses_rpm)
        crosses << fixed(rpm, 0);
    table_->set_cell(row, kStateCrosses, crosses.isEmpty() ? none : crosses.join(QStringLiteral(", ")));
}

} // namespace bathmos::app
