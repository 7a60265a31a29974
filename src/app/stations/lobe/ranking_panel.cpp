#include "app/stations/lobe/ranking_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSplitter>
#include <QVBoxLayout>

namespace bathmos::app {

RankingPanel::RankingPanel(Context context, LobeSet& set, QWidget* parent)
    : QWidget(parent), context_(context), set_(set) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 0);
    auto* line = new QHBoxLayout;
    run_ = new QPushButton(tr("Rank the shown lobes"));
    run_->setObjectName(QStringLiteral("ranking_run"));
    run_->setToolTip(tr("Puts each into the train in hand and runs the full model."));
    stop_ = new QPushButton(tr("Stop"));
    stop_->setObjectName(QStringLiteral("ranking_stop"));
    progress_ = new QProgressBar;
    progress_->setAccessibleName(tr("Ranking progress"));
    progress_->setFixedWidth(120);
    words_ = new QLabel;
    words_->setObjectName(QStringLiteral("ranking_words"));
    words_->setWordWrap(true);
    line->addWidget(run_);
    line->addWidget(stop_);
    line->addWidget(progress_);
    line->addWidget(words_, 1);
    layout->addLayout(line);
    auto* split = new QSplitter(Qt::Vertical);
    table_ = new NumberTable(QStringLiteral("ranking_table"));
    table_->setAccessibleName(tr("Lobes, hardest on the train first"));
    table_->set_headings({tr("Hardest first"), tr("Limit"), tr("By"), tr("Rigid bound"), tr("Seating"),
                          tr("Loft"), tr("Spring force needed"), tr("at"), tr("Least to spare")});
    split->addWidget(table_);
    force_ = new Plot(context_.theme, tr("Spring force needed"));
    for (int i = 0; i < kMostDrawn; ++i)
        force_->add_curve({}, Role::Ink);
    force_->set_x_range(-200, 200);
    force_->set_cursor(context_.cursors.crank_deg());
    connect(force_, &Plot::cursor_moved, this, [this](double deg) { context_.cursors.set_crank(deg); });
    connect(&context_.cursors, &Cursors::crank_changed, this,
            [this](double deg) { force_->set_cursor(deg); });
    split->addWidget(force_);
    split->setSizes({220, 300});
    layout->addWidget(split, 1);
    connect(run_, &QPushButton::clicked, this, &RankingPanel::start);
    connect(stop_, &QPushButton::clicked, this, &RankingPanel::stop);
    connect(&set_, &LobeSet::changed, this, &RankingPanel::show_state);
    connect(&context_.units, &DisplayUnits::changed, this, &RankingPanel::show_result);
    connect(&context_.document, &Document::changed, this, &RankingPanel::show_state);
    show_state();
}

std::vector<Lobe> RankingPanel::asked() const {
    std::vector<Lobe> out;
    for (const LoadedLobe* shown : set_.shown())
        out.push_back(set_.in_hand(*shown));
    return out;
}

void RankingPanel::start() {
    if (!context_.document.has_train() || set_.shown().empty())
        return;
    RankingQuery query;
    query.limit.range = context_.sweep.range();
    query.speed_rpm = context_.cursors.speed_rpm();
    failure_.clear();
    train_ = context_.document.train();
    ranked_ = asked();
    speed_rpm_ = query.speed_rpm;
    progress_->setValue(0);
    work_.start(
        [this, query, train = train_, lobes = ranked_](const std::stop_token& stop,
                                                       const Background::Post& post) {
            std::vector<RankedLobe> found = rank_lobes(
                train, lobes, query,
                [&](double share) {
                    post([this, share] { progress_->setValue(static_cast<int>(100 * share)); });
                },
                stop);
            post([this, found = std::move(found)]() mutable { standings_ = std::move(found); });
        },
        [this](const QString& failure) {
            failure_ = failure;
            show_result();
        });
    show_state();
}

void RankingPanel::stop() {
    work_.stop();
    show_state();
}

bool RankingPanel::old() const {
    return !standings_.empty() &&
           (!context_.document.has_train() || asked() != ranked_ || !(context_.document.train() == train_));
}

void RankingPanel::show_state() {
    const bool running = work_.running();
    run_->setEnabled(!running && context_.document.has_train() && !set_.shown().empty());
    stop_->setVisible(running);
    progress_->setVisible(running);
    QString words;
    if (running)
        words = tr("Each lobe is put into the train in hand and run.");
    else if (!failure_.isEmpty())
        words = tr("The lobes were not ranked. %1").arg(failure_);
    else if (standings_.empty())
        words =
            tr("Tick lobes on the left, then rank them: by limit speed, and at the speed cursor by seating "
               "and by the spring force that each needs.");
    else if (old())
        words = tr("△ old: lobes or train have changed since; rank again.");
    else
        words = tr("Computed in the train in hand; seating, loft and force at %1 rev/min.")
                    .arg(fixed(speed_rpm_, 0));
    words_->setText(words);
    table_->setEnabled(!old());
    force_->set_note(old() ? tr("old: lobes or train have changed since") : QString());
    force_->redraw();
}

void RankingPanel::show_result() {
    table_->setRowCount(static_cast<int>(standings_.size()));
    const auto maybe = [&](const std::optional<double>& si, Quantity quantity) {
        return si ? context_.units.text(quantity, *si) : QStringLiteral("–");
    };
    for (int i = 0; i < kMostDrawn; ++i)
        force_->clear_curve(i);
    int row = 0;
    for (const RankedLobe& s : standings_) {
        const QString name = QString::fromStdString(s.name);
        table_->set_cell(row, 0, name, false);
        if (!s.trouble.empty()) {
            table_->set_cell(row, 1, QStringLiteral("■ ") + phrase(s.trouble), false);
            table_->item(row, 1)->setToolTip(phrase(s.trouble));
            ++row;
            continue;
        }
        table_->set_cell(row, 1,
                         s.limit_rpm ? tr("%1 rev/min").arg(speed_text(s.limit_rpm)) : tr("none in range"));
        table_->set_cell(row, 2,
                         QString::fromStdString(s.limit_metric).replace(QLatin1Char('_'), QLatin1Char(' ')),
                         false);
        table_->set_cell(row, 3,
                         s.separation_rpm ? tr("%1 rev/min").arg(speed_text(s.separation_rpm)) : tr("–"));
        table_->set_cell(row, 4, maybe(s.seating_m_per_s, Quantity::Velocity));
        table_->set_cell(row, 5, maybe(s.loft_m, Quantity::Length));
        table_->set_cell(row, 6, context_.units.text(Quantity::Force, s.most_needed_N));
        table_->set_cell(row, 7, tr("%1°").arg(fixed(s.most_needed_crank_deg, 0)));
        table_->set_cell(row, 8, context_.units.text(Quantity::Force, s.least_margin_N));
        QVector<double> x, y;
        for (std::size_t i = 0; i < s.needed_N.size(); ++i) {
            x.push_back(static_cast<double>(i) - 360);
            y.push_back(context_.units.value(Quantity::Force, s.needed_N[i]));
        }
        for (const LoadedLobe* lobe : set_.shown())
            if (lobe->name == name && row < kMostDrawn) {
                force_->restyle_curve(row, name, lobe->role, lobe->stroke);
                force_->set_curve(row, x, y);
            }
        ++row;
    }
    table_->resizeColumnsToContents();
    force_->set_axes(tr("crank angle from the nose, °"),
                     tr("spring force needed, %1").arg(context_.units.unit_name(Quantity::Force)));
    show_state();
}

} // namespace bathmos::app
