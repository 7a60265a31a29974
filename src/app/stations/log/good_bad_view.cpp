#include "app/stations/log/good_bad_view.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"
#include "session/cases/case_input.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSplitter>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

using session::StateMark;

QString mark_words(StateMark mark) {
    switch (mark) {
    case StateMark::Good:
        return GoodBadView::tr("● good");
    case StateMark::Bad:
        return GoodBadView::tr("■ bad");
    case StateMark::Unknown:
        break;
    }
    return GoodBadView::tr("○ not known");
}

NumberTable* between_table(const char* name, const QString& label, const QStringList& headings,
                           QSplitter* into) {
    auto* out = new NumberTable(QLatin1String(name));
    out->setAccessibleName(label);
    out->set_headings(headings);
    out->setSelectionBehavior(QAbstractItemView::SelectRows);
    into->addWidget(out);
    return out;
}

QString value_text(const DisplayUnits& units, Quantity quantity, const std::optional<double>& si) {
    if (!si)
        return QStringLiteral("–");
    return quantity == Quantity::Count ? fixed(*si, 0) : units.text(quantity, *si);
}

} // namespace

GoodBadView::GoodBadView(Context context, QWidget* parent)
    : QWidget(parent), context_(context), words_(new QLabel), good_(new QComboBox), bad_(new QComboBox),
      stop_(new QPushButton) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 4);
    auto* top = new QHBoxLayout;
    const auto choice = [&](QComboBox* box, const char* name, const QString& what) {
        box->setObjectName(QLatin1String(name));
        box->setAccessibleName(what);
        box->setMinimumContentsLength(18);
        top->addWidget(new QLabel(what));
        top->addWidget(box);
        connect(box, &QComboBox::activated, this, &GoodBadView::look_between);
    };
    choice(good_, "between_good", tr("last good"));
    choice(bad_, "between_bad", tr("first bad"));
    stop_->setObjectName(QStringLiteral("between_stop"));
    connect(stop_, &QPushButton::clicked, this, [this] {
        if (looking())
            return stop();
        looked_at_.reset();
        look();
    });
    top->addWidget(stop_);
    top->addStretch(1);
    layout->addLayout(top);
    words_->setObjectName(QStringLiteral("between_words"));
    words_->setWordWrap(true);
    layout->addWidget(words_);
    auto* split = new QSplitter(Qt::Vertical);
    states_ = between_table("between_states", tr("States of this build, good and bad"),
                            {tr("state"), tr("was"), tr("what tells")}, split);
    changes_ = between_table("between_changes", tr("What changed between the two"),
                             {tr("undone, the limit gains"), tr("what changed")}, split);
    auto* lower = new QSplitter(Qt::Horizontal);
    effects_ = between_table("between_effects", tr("What the changes do"),
                             {tr("what that does"), tr("good"), tr("bad")}, lower);
    lines_ = between_table("between_lines", tr("What was done meanwhile"),
                           {tr("when"), tr("done meanwhile"), tr("words")}, lower);
    lower->setSizes({400, 460});
    split->addWidget(lower);
    for (NumberTable* one : {states_, changes_, lines_})
        one->wrap_last_column();
    split->setSizes({100, 100, 360});
    layout->addWidget(split, 1);
    refresher_ = new Refresher(this, kPage_ms, [this] { look(); });
    connect(&context_.units, &DisplayUnits::changed, this, [this] { fill_between(); });
}

void GoodBadView::refresh() {
    refresher_->ask();
}

void GoodBadView::stop() {
    if (!work_.running())
        return;
    work_.stop();
    failure_ = tr("Stopped.");
    show_words();
}

void GoodBadView::look() {
    const Document& document = context_.document;
    if (!document.has_train())
        return;
    if (looked_at_ && looked_at_->revision == document.shown() &&
        session::same_evidence(looked_at_->project, document.project()))
        return;
    failure_.clear();
    seen_.reset();
    between_.reset();
    try {
        auto input = std::make_shared<session::SeenInput>(session::gather_seen(
            document.project(), document.shown(), [&](Id id) { return document.trace(id); }));
        looked_at_ = input;
        auto seen = std::make_shared<std::vector<session::SeenState>>();
        work_.start([input, seen, &results = context_.document.results()](
                        const std::stop_token& stop,
                        const Background::Post&) { *seen = session::seen_states(*input, results, {}, stop); },
                    [this, seen](const QString& failure) {
                        failure_ = failure;
                        if (failure.isEmpty())
                            seen_ = seen;
                        fill_states();
                    });
    } catch (const InputError& error) {
        failure_ = phrase(error.what());
    }
    show_words();
}

session::GoodBad GoodBadView::chosen() const {
    return {static_cast<Id>(good_->currentData().toLongLong()),
            static_cast<Id>(bad_->currentData().toLongLong())};
}

void GoodBadView::fill_states() {
    states_->setRowCount(0);
    good_->clear();
    bad_->clear();
    if (seen_) {
        for (const session::SeenState& state : *seen_) {
            const int row = states_->rowCount();
            states_->setRowCount(row + 1);
            states_->set_cell(row, 0, words(state.label), false);
            states_->set_cell(row, 1, mark_words(state.mark), false);
            QStringList why;
            for (const std::string& one : state.why)
                why << words(one);
            states_->set_cell(row, 2, why.join(QStringLiteral("; ")), false);
            for (QComboBox* box : {good_, bad_})
                box->addItem(words(state.label), static_cast<qlonglong>(state.revision));
        }
        const session::GoodBad found = session::last_good_first_bad(*seen_);
        good_->setCurrentIndex(good_->findData(static_cast<qlonglong>(found.good)));
        bad_->setCurrentIndex(bad_->findData(static_cast<qlonglong>(found.bad)));
    }
    states_->resizeColumnToContents(0);
    look_between();
}

void GoodBadView::look_between() {
    between_.reset();
    const session::GoodBad of = chosen();
    if (!looked_at_ || of.good == 0 || of.bad == 0 || of.good == of.bad) {
        work_.stop();
        return fill_between();
    }
    failure_.clear();
    auto made = std::make_shared<session::BetweenStates>();
    work_.start(
        [made, of, input = looked_at_, range = context_.document.range(), limits = context_.document.limits(),
         &results = context_.document.results()](const std::stop_token& stop, const Background::Post&) {
            *made = session::study_between(input->project, of, range, limits, results, {}, stop);
        },
        [this, made](const QString& failure) {
            failure_ = failure;
            if (failure.isEmpty())
                between_ = made;
            fill_between();
        });
    fill_between();
}

void GoodBadView::fill_between() {
    for (NumberTable* one : {changes_, effects_, lines_})
        one->setRowCount(0);
    if (between_) {
        const UnitChoice& units = context_.units.choice();
        const auto add_row = [](NumberTable* into) {
            into->setRowCount(into->rowCount() + 1);
            return into->rowCount() - 1;
        };
        for (const StateChange& one : between_->changes.changes) {
            const int row = add_row(changes_);
            changes_->set_cell(row, 0,
                               one.undone_gain_rpm
                                   ? QStringLiteral("%1%2 rev/min")
                                         .arg(*one.undone_gain_rpm > 0 ? QStringLiteral("+") : QString())
                                         .arg(fixed(*one.undone_gain_rpm, 0))
                                   : QStringLiteral("–"));
            changes_->set_cell(row, 1, phrase(one.text.in_words(units)), false);
        }
        for (const Difference& one : between_->effects) {
            const int row = add_row(effects_);
            effects_->set_cell(row, 0, phrase(one.label), false);
            effects_->set_cell(row, 1, value_text(context_.units, one.quantity, one.before));
            effects_->set_cell(row, 2, value_text(context_.units, one.quantity, one.after));
        }
        for (const session::LogLine& one : between_->lines) {
            const int row = add_row(lines_);
            lines_->set_cell(row, 0, words(one.when).left(10), false);
            lines_->set_cell(row, 1, words(one.title), false);
            lines_->set_cell(row, 2, words(one.text), false);
        }
    }
    effects_->resizeColumnsToContents();
    show_words();
}

void GoodBadView::show_words() {
    stop_->setText(looking() ? tr("Stop") : tr("Look again"));
    if (!failure_.isEmpty())
        return words_->setText(failure_.toHtmlEscaped());
    if (looking())
        return words_->setText(seen_ ? tr("Both states are run by the model…")
                                     : tr("Pulls and runs of this build are looked at…"));
    if (!seen_)
        return words_->setText({});
    if (!between_)
        return words_->setText(
            tr("No good state is followed by a bad one on the way to this revision. Choose two to see what "
               "lies between them."));
    const Project& project = looked_at_->project;
    QString text = tr("From <b>%1</b> to <b>%2</b> the model's limit goes from %3 to %4 rev/min.")
                       .arg(words(project.revision_label(between_->of.good)).toHtmlEscaped(),
                            words(project.revision_label(between_->of.bad)).toHtmlEscaped(),
                            speed_text(between_->good_rpm), speed_text(between_->bad_rpm));
    if (between_->changes.nothing_in_the_train())
        text += tr(" Nothing in the train differs: look at what was done beside it, and at wear.");
    if (between_->cycles > 0)
        text += tr(" %1 million cycles were run with the good one.").arg(fixed(between_->cycles * 1e-6, 2));
    words_->setText(text);
}

} // namespace bathmos::app
