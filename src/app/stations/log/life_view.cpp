#include "app/stations/log/life_view.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "io/project/store.h"
#include "session/log/log_json.h"

#include <QHeaderView>
#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>
#include <fmt/format.h>

namespace bathmos::app {

namespace {

constexpr int kWidest_px = 210; // so that ten columns stand beside the form

QString name_of(const session::AgedPart& part) {
    return words(part.serial.empty() ? part.name : part.name + " " + part.serial);
}

QString claim_words(const life::LifeClaim& claim) {
    switch (claim.rule) {
    case life::LifeRule::Cycles:
        return LifeView::tr("%1 million cycles").arg(digits(claim.whole * 1e-6, 4));
    case life::LifeRule::Hours:
        return LifeView::tr("%1 h").arg(digits(claim.whole, 4));
    case life::LifeRule::Runs:
        return LifeView::tr("%1 runs").arg(digits(claim.whole, 4));
    case life::LifeRule::Wire:
        return LifeView::tr("wire, estimated");
    case life::LifeRule::LoadLoss:
        return LifeView::tr("%1 % of load lost").arg(fixed(100 * claim.whole, 0));
    }
    return {};
}

} // namespace

LifeView::LifeView(Context context, QWidget* parent)
    : QWidget(parent), context_(context), words_(new QLabel), trends_(new QLabel),
      table_(new NumberTable(QStringLiteral("life_parts"))) {
    table_->setAccessibleName(tr("Parts and what they have used of their life"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 4);
    words_->setObjectName(QStringLiteral("life_words"));
    words_->setWordWrap(true);
    trends_->setObjectName(QStringLiteral("life_trends"));
    trends_->setWordWrap(true);
    table_->set_headings({tr("part"), tr("kind"), tr("million cycles"), tr("hours"), tr("runs"),
                          tr("over limit"), tr("used"), tr("of"), tr("over on"), tr("failed")});
    table_->horizontalHeader()->setMaximumSectionSize(kWidest_px);
    table_->horizontalHeaderItem(5)->setToolTip(
        tr("Cycles above the limit that was computed for the revision that ran"));
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    layout->addWidget(words_);
    layout->addWidget(table_, 1);
    layout->addWidget(trends_);
    refresher_ = new Refresher(this, kPage_ms, [this] {
        if (!context_.document.has_train())
            return;
        count_wires();
        fill();
    });
}

double LifeView::today() const {
    return today_.value_or(life::day_of(io::now_text()).value_or(0));
}

void LifeView::refresh() {
    refresher_->ask();
}

void LifeView::stop() {
    if (!work_.running())
        return;
    work_.stop();
    stopped_ = true; // until something else is asked
    fill();
}

void LifeView::count_wires() {
    const Project& project = context_.document.project();
    const life::UseByPart use = life::use_by_part(project);
    std::string asked = session::fatigue_asked(project, use);
    if (asked == counted_)
        return;
    counted_ = std::move(asked);
    fatigue_.reset();
    stopped_ = false;
    trouble_.clear();
    if (counted_.empty())
        return work_.stop();
    auto made = std::make_shared<session::FatigueByRevision>();
    work_.start(
        [project, use, made](const std::stop_token& stop, const Background::Post&) {
            *made = session::fatigue_by_revision(project, use, {}, stop);
        },
        [this, made](const QString& failure) {
            if (failure.isEmpty())
                fatigue_ = made;
            trouble_ = failure;
            fill();
        });
}

void LifeView::fill() {
    ages_ = session::part_ages(context_.document.project(), today(), fatigue_.get());
    table_->setRowCount(static_cast<int>(ages_.parts.size()));
    for (int row = 0; row < table_->rowCount(); ++row) {
        const session::AgedPart& part = ages_.parts[static_cast<std::size_t>(row)];
        const life::PartLife& life = part.life;
        const bool known = !life.claims.empty();
        table_->set_cell(row, 0, name_of(part), false);
        table_->set_cell(row, 1, phrase(info(part.kind).label), false);
        table_->set_cell(row, 2, fixed(life.cycles * 1e-6, 2));
        table_->set_cell(row, 3, fixed(life.hours, 1));
        table_->set_cell(row, 4, fixed(life.runs, 0));
        table_->set_cell(row, 5, part.over_limit > 0 ? fixed(part.over_limit, 0) : QString());
        table_->set_cell(row, 6,
                         !known ? QString()
                                : tr("%1%2 %")
                                      .arg(life.over()  ? QStringLiteral("■ ")
                                           : life.due() ? QStringLiteral("▲ ")
                                                        : QString())
                                      .arg(fixed(100 * life.claims.front().used, 0)));
        table_->set_cell(row, 7, known ? claim_words(life.claims.front()) : tr("nobody says how long"),
                         false);
        table_->set_cell(row, 8,
                         life.over() ? tr("now")
                         : life.over_day && *life.over_day < session::kFurthestDay
                             ? words(session::date_text(*life.over_day))
                             : QString(),
                         false);
        table_->set_cell(row, 9, part.failures ? QString::number(part.failures) : QString());
    }
    table_->resizeColumnsToContents();
    fill_words();
}

void LifeView::fill_words() {
    QStringList over, due;
    for (const session::AgedPart& part : ages_.parts)
        if (part.life.over())
            over << name_of(part);
        else if (part.life.due())
            due << name_of(part);
    QString text;
    if (!over.isEmpty())
        text += tr("<b>■ Over its life: %1.</b> ").arg(over.join(QStringLiteral(", ")).toHtmlEscaped());
    if (!due.isEmpty())
        text += tr("<b>▲ Due: %1.</b> ").arg(due.join(QStringLiteral(", ")).toHtmlEscaped());
    if (ages_.parts.empty())
        text = tr("No use of a part is on record. Add engine use on the right, or keep rig runs.");
    else if (text.isEmpty())
        text = tr("No part has used four fifths of its life.");
    if (ages_.silent > 0)
        text += tr(" Records that say nothing of time and speed, not counted: %1.").arg(ages_.silent);
    if (work_.running())
        text += tr(" The model is asked for the stress of the wires … (Ctrl+. stops)");
    if (stopped_)
        text += tr(" Wires are not counted: it was stopped. They are when the record of use changes.");
    if (!trouble_.isEmpty())
        text += tr(" Wires are not counted: %1").arg(trouble_.toHtmlEscaped());
    words_->setText(text);
    QString drift;
    if (const auto lash = session::lash_trend(context_.document.project(), context_.document.build()))
        drift =
            lash->trend.drifts
                ? tr("▲ Lash drifts by %1 mm in a million cycles, beyond its noise of %2 mm: seat, tip or "
                     "wheel wears.")
                      .arg(fixed(1e3 * lash->trend.per_unit * 1e6, 3))
                      .arg(fixed(1e3 * lash->trend.noise, 3))
                : tr("Lash of %1 sheets does not drift beyond its noise.").arg(lash->lash_m.size());
    trends_->setText(drift);
    trends_->setVisible(!drift.isEmpty());
}

} // namespace bathmos::app
