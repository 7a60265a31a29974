#include "app/stations/verdict/verdict_station.h"

#include "app/stations/verdict/changes_panel.h"
#include "app/stations/verdict/verdict_runner.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"
#include "io/project/store.h"

#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QProgressBar>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

QString group_name(SymptomGroup group) {
    switch (group) {
    case SymptomGroup::Dyno:
    case SymptomGroup::Logged:
        return VerdictStation::tr("dyno");
    case SymptomGroup::Model:
        return VerdictStation::tr("model");
    case SymptomGroup::Rig:
        return VerdictStation::tr("rig");
    case SymptomGroup::Bench:
        return VerdictStation::tr("bench");
    case SymptomGroup::Changes:
        return VerdictStation::tr("changes");
    case SymptomGroup::Trials:
        break;
    }
    return VerdictStation::tr("trials");
}

// How strongly a symptom speaks, in words and in marks.
QString strength(double nats) {
    const double size = std::abs(nats);
    const QString mark = nats > 0 ? QStringLiteral("+") : QStringLiteral("−");
    return mark.repeated(size > 1.2 ? 3 : size > 0.5 ? 2 : 1);
}

// What the model says by force and by what a rig could see, and by which limits: "limits usual: contact loss
// from 7632, onset 7710; ".
QString model_words(const MadeVerdict& made) {
    QString out = VerdictStation::tr("limits %1: ").arg(phrase(made.file.limits));
    if (!made.file.model)
        return out;
    const ModelFacts& m = *made.file.model;
    const auto speed = [](const std::optional<double>& rpm) {
        return rpm ? fixed(*rpm, 0) : VerdictStation::tr("not in range");
    };
    return out + VerdictStation::tr("model loses contact from %1, onset that a rig could see %2; ")
                     .arg(speed(m.contact_loss_rpm), speed(m.onset_rpm));
}

} // namespace

VerdictStation::VerdictStation(Context context, const Dialogs& dialogs, QWidget* parent)
    : Station(context, QStringLiteral("verdict"), parent), dialogs_(dialogs),
      runner_(new VerdictRunner(context.document, this)), pages_(new QStackedLayout(this)) {
    auto* empty = new EmptyNote(tr("<h3>Verdict</h3><p>Where does this train stop, why, and what would move "
                                   "that speed? The program weighs what "
                                   "the bench, the model, the rig, the dyno and the change log say. What is "
                                   "missing counts as missing.</p>"
                                   "<p>Open a project or a train first.</p>"));
    connect(empty->add_step(tr("Open project or train…"), QStringLiteral("verdict_open")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("open_train")); });
    pages_->addWidget(empty);
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(12, 8, 12, 8);
    layout->setSpacing(6);
    layout->addWidget(make_answer());
    auto* split = new QSplitter(Qt::Vertical);
    split->addWidget(make_causes());
    split->addWidget(make_tabs());
    split->setStretchFactor(0, 1);
    split->setStretchFactor(1, 1);
    layout->addWidget(split, 1);
    pages_->addWidget(page);
    refresher_ = new Refresher(this, 30, [this] { refresh(); });
    connect(runner_, &VerdictRunner::changed, this, [this] { refresher_->ask(); });
    refresh();
}

QWidget* VerdictStation::make_answer() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    question_ = new QLabel;
    question_->setObjectName(QStringLiteral("verdict_question"));
    answer_ = new QLabel;
    answer_->setObjectName(QStringLiteral("verdict_answer"));
    answer_->setWordWrap(true);
    answer_->setFont(Theme::text_font(18, true));
    answer_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    valve_ = new QLabel;
    valve_->setObjectName(QStringLiteral("verdict_valve"));
    valve_->setWordWrap(true);
    valve_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    layout->addWidget(question_);
    layout->addWidget(answer_);
    layout->addWidget(valve_);
    auto* line = new QHBoxLayout;
    status_ = new QLabel;
    status_->setObjectName(QStringLiteral("verdict_status"));
    status_->setWordWrap(true);
    progress_ = new QProgressBar;
    progress_->setAccessibleName(tr("Progress of the verdict"));
    progress_->setFixedWidth(140);
    weigh_ = new QPushButton(tr("Weigh again"));
    weigh_->setObjectName(QStringLiteral("verdict_weigh"));
    connect(weigh_, &QPushButton::clicked, runner_, &VerdictRunner::weigh);
    stop_ = new QPushButton(tr("Stop"));
    stop_->setObjectName(QStringLiteral("verdict_stop"));
    connect(stop_, &QPushButton::clicked, runner_, &VerdictRunner::stop);
    record_ = new QPushButton(tr("Record this verdict…"));
    record_->setObjectName(QStringLiteral("verdict_record"));
    record_->setToolTip(tr("Keeps the answer, the causes and your reasons, without a change of the train."));
    connect(record_, &QPushButton::clicked, this, [this] { record(false); });
    line->addWidget(status_, 1);
    line->addWidget(progress_);
    line->addWidget(stop_);
    line->addWidget(weigh_);
    line->addWidget(record_);
    layout->addLayout(line);
    return box;
}

QWidget* VerdictStation::make_causes() {
    auto* split = new QSplitter(Qt::Horizontal);
    causes_ = new NumberTable(QStringLiteral("verdict_causes"));
    causes_->setAccessibleName(tr("Causes, likeliest first"));
    causes_->set_headings({tr("%"), tr("Cause"), tr("how sure"), tr("where")});
    causes_->horizontalHeader()->setStretchLastSection(true);
    causes_->setSelectionBehavior(QAbstractItemView::SelectRows);
    connect(causes_, &QTableWidget::itemSelectionChanged, this, &VerdictStation::fill_evidence);
    evidence_ = new NumberTable(QStringLiteral("verdict_evidence"));
    evidence_->setAccessibleName(tr("Evidence for and against the chosen cause"));
    evidence_->set_headings({tr("for/against"), tr("from"), tr("Evidence (Enter: show it)")});
    evidence_->wrap_last_column();
    connect(evidence_, &QTableWidget::cellActivated, this, &VerdictStation::follow_evidence);
    split->addWidget(causes_);
    split->addWidget(evidence_);
    split->setSizes({460, 700});
    return split;
}

QWidget* VerdictStation::make_tabs() {
    tabs_ = new QTabWidget;
    tabs_->setObjectName(QStringLiteral("verdict_tabs"));
    changes_ = new ChangesPanel(context_, *runner_);
    connect(changes_, &ChangesPanel::decide_wanted, this, [this] { record(true); });
    tabs_->addTab(changes_, tr("Change study"));
    const auto table = [&](const QString& name, const QString& title, const QStringList& headings) {
        auto* out = new NumberTable(name);
        out->setAccessibleName(title);
        out->set_headings(headings);
        out->horizontalHeader()->setStretchLastSection(true);
        tabs_->addTab(out, title);
        return out;
    };
    next_ = table(QStringLiteral("verdict_next"), tr("Next test"),
                  {tr("Test"), tr("hours"), tr("settles %"), tr("% an hour"), tr("How")});
    missing_ = new QListWidget;
    missing_->setObjectName(QStringLiteral("verdict_missing"));
    missing_->setAccessibleName(tr("Evidence that nobody gave"));
    missing_->setWordWrap(true);
    tabs_->addTab(missing_, tr("Missing"));
    decisions_ = table(QStringLiteral("verdict_decisions"), tr("Decisions"),
                       {tr("When"), tr("On"), tr("Decision"), tr("Reasons")});
    return tabs_;
}

void VerdictStation::showEvent(QShowEvent* event) {
    Station::showEvent(event);
    if (context_.document.rigid() && !runner_->weighing() && (!runner_->made() || runner_->old()))
        runner_->weigh();
}

void VerdictStation::stop() {
    runner_->stop();
}

void VerdictStation::refresh() {
    pages_->setCurrentIndex(context_.document.has_train() ? 1 : 0);
    const MadeVerdict* made = runner_->made();
    const bool busy = runner_->weighing() || runner_->trying();
    progress_->setVisible(busy);
    progress_->setValue(static_cast<int>(100 * runner_->progress()));
    stop_->setVisible(busy);
    weigh_->setEnabled(!runner_->weighing() && context_.document.rigid());
    changes_->refresh();
    record_->setEnabled(made && !runner_->old());
    for (QWidget* shown :
         {static_cast<QWidget*>(answer_), static_cast<QWidget*>(valve_), static_cast<QWidget*>(causes_),
          static_cast<QWidget*>(evidence_), static_cast<QWidget*>(next_)})
        shown->setEnabled(!runner_->old()); // greyed: made before the last edit
    question_->setText(made ? phrase(made->verdict.question) : tr("Where does it stop, and why?"));
    answer_->setText(made ? phrase(made->verdict.answer) : runner_->weighing() ? tr("Weighing…") : QString());
    valve_->setText(made ? phrase(made->verdict.valve_answer) : QString());
    valve_->setVisible(!valve_->text().isEmpty());
    QString status;
    if (!runner_->failure().isEmpty())
        status = runner_->failure();
    else if (runner_->weighing())
        status = tr("reading pulls and run, computing the model…");
    else if (runner_->trying())
        status = tr("trying changes by the full model…");
    else if (runner_->old())
        status = tr("old: made before the last edit or for another revision; weigh again");
    else if (made)
        status = model_words(*made) +
                 tr("valve train %1 %; settled to %2 %; advice, not a decision: makers' instructions and a "
                    "competent person come first")
                     .arg(fixed(100 * made->verdict.weighing.valve_train, 0))
                     .arg(fixed(std::floor(100 * made->verdict.weighing.settled()), 0));
    status_->setText(status);
    fill_causes();
    fill_next();
    fill_decisions();
}

void VerdictStation::fill_causes() {
    const int kept = std::max(0, causes_->currentRow());
    causes_->setRowCount(0);
    if (const MadeVerdict* made = runner_->made())
        for (const WeighedCause& c : made->verdict.weighing.causes) {
            if (c.probability < 0.0005 && causes_->rowCount() >= 5)
                break;
            const int row = causes_->rowCount();
            causes_->setRowCount(row + 1);
            causes_->set_cell(row, 0, fixed(100 * c.probability, 1));
            causes_->set_cell(row, 1, phrase(info(c.cause).label), false);
            causes_->set_cell(row, 2, phrase(sureness_words(c.probability)), false);
            causes_->set_cell(row, 3, info(c.cause).valve_train ? tr("valve train") : tr("elsewhere"), false);
            causes_->item(row, 1)->setToolTip(
                tr("%1 Predicts: %2.")
                    .arg(phrase(info(c.cause).prior_reason), phrase(info(c.cause).predicts)));
        }
    causes_->resizeColumnToContents(0);
    if (causes_->rowCount())
        causes_->selectRow(std::min(kept, causes_->rowCount() - 1));
    fill_evidence();
}

QString VerdictStation::subject() const {
    const MadeVerdict* made = runner_->made();
    const int chosen = causes_->currentRow();
    if (!made || chosen < 0 || chosen >= static_cast<int>(made->verdict.weighing.causes.size()))
        return {};
    const Cause cause = made->verdict.weighing.causes[static_cast<std::size_t>(chosen)].cause;
    return QStringLiteral("cause/") + words(info(cause).key);
}

void VerdictStation::fill_evidence() {
    evidence_->setRowCount(0);
    const MadeVerdict* made = runner_->made();
    const int chosen = causes_->currentRow();
    if (!made || chosen < 0 || chosen >= static_cast<int>(made->verdict.weighing.causes.size()))
        return;
    for (const Argument& a : made->verdict.weighing.causes[static_cast<std::size_t>(chosen)].arguments) {
        const Evidence& e = made->verdict.evidence[a.evidence];
        const int row = evidence_->rowCount();
        evidence_->setRowCount(row + 1);
        evidence_->set_cell(row, 0, strength(a.weight), false);
        evidence_->set_cell(row, 1, group_name(info(e.symptom).group), false);
        evidence_->set_cell(row, 2, phrase(e.text.in_words(context_.units.choice())), false);
        evidence_->item(row, 0)->setData(Qt::UserRole, QString::fromStdString(e.link));
        evidence_->item(row, 2)->setToolTip(
            tr("%1 Source: %2. Weight %3.")
                .arg(phrase(info(e.symptom).label) + QLatin1Char('.'), phrase(info(e.symptom).source))
                .arg(fixed(a.weight, 2)));
    }
}

void VerdictStation::follow_evidence(int row) {
    const QString link = evidence_->item(row, 0)->data(Qt::UserRole).toString();
    if (const MadeVerdict* made = runner_->made(); made && made->verdict.speed.rpm)
        context_.cursors.set_speed(*made->verdict.speed.rpm);
    if (!link.isEmpty())
        emit link_wanted(link);
}

void VerdictStation::fill_next() {
    next_->setRowCount(0);
    missing_->clear();
    const MadeVerdict* made = runner_->made();
    if (!made)
        return;
    for (const RankedTrial& t : made->verdict.next) {
        const int row = next_->rowCount();
        next_->setRowCount(row + 1);
        next_->set_cell(row, 0, phrase(t.trial->label), false);
        next_->set_cell(row, 1, fixed(t.trial->hours, 1));
        const double share = made->verdict.weighing.share_settled_by(t.information_bit);
        next_->set_cell(row, 2, fixed(100 * share, 1));
        next_->set_cell(row, 3, fixed(100 * share / t.trial->hours, 1));
        next_->item(row, 2)->setToolTip(
            tr("Expected share of what is still open that it takes away: %1 bit of %2.")
                .arg(fixed(t.information_bit, 3))
                .arg(fixed(made->verdict.weighing.entropy_bit, 2)));
        next_->set_cell(row, 4, phrase(t.trial->how), false);
        next_->item(row, 4)->setToolTip(phrase(t.trial->how));
    }
    next_->resizeColumnsToContents();
    for (const std::string& text : made->verdict.missing)
        missing_->addItem(phrase(text));
    if (made->verdict.missing.empty())
        missing_->addItem(tr("Nothing: every kind of evidence was given."));
}

// The decision with its reasons; with a change, the next revision too. The record names the revision that was
// judged.
void VerdictStation::record(bool with_change) {
    const MadeVerdict* made = runner_->made();
    const ChangeOutcome* outcome = with_change ? changes_->chosen() : nullptr;
    if (!made || runner_->old() || (with_change && !outcome))
        return;
    const Verdict& v = made->verdict;
    const QString what = outcome ? phrase(outcome->label) : tr("no change");
    const QString reason = dialogs_.ask_words(
        tr("Decision"), tr("Why? It stands in the record with the verdict."),
        outcome ? tr("%1: the model says %2 rev/min").arg(what, speed_text(outcome->limit_rpm)) : QString());
    if (reason.isEmpty())
        return;
    const Entry entry =
        session::verdict_record(v, made->input.revision, what.toStdString(), reason.toStdString(),
                                qEnvironmentVariable("USER").toStdString(), outcome);
    Assembly next = context_.document.assembly();
    if (outcome) {
        try {
            for (std::size_t i : outcome->changes)
                next = runner_->changes()[i].apply(next);
        } catch (const InputError& error) {
            return emit message(tr("The change was not made. %1").arg(phrase(error.what())));
        }
    }
    if (outcome)
        context_.document.decide(entry, next, tr("Decided: %1. %2").arg(what, reason));
    else
        context_.document.add_entry(EntryKind::Verdict, entry,
                                    tr("Verdict recorded: %1").arg(QString::fromStdString(entry.name)));
}

void VerdictStation::fill_decisions() {
    decisions_->setRowCount(0);
    if (!context_.document.has_train())
        return;
    const Project& project = context_.document.project();
    for (const auto& [id, entry] : project.of(EntryKind::Verdict)) {
        const int row = decisions_->rowCount();
        decisions_->setRowCount(row + 1);
        const auto word = [&words = entry.words](const char* key) {
            const auto at = words.find(key);
            return at == words.end() ? QString() : QString::fromStdString(at->second);
        };
        decisions_->set_cell(
            row, 0, QString::fromStdString(entry.when).left(16).replace(QLatin1Char('T'), QLatin1Char(' ')),
            false);
        decisions_->set_cell(row, 1,
                             project.revisions.contains(entry.revision)
                                 ? QString::fromStdString(project.revision_label(entry.revision))
                                 : QString(),
                             false);
        decisions_->set_cell(row, 2, tr("%1: %2").arg(QString::fromStdString(entry.name), word("decision")),
                             false);
        decisions_->set_cell(
            row, 3, QString::fromStdString(entry.text) + QStringLiteral(" – ") + word("answer"), false);
        decisions_->item(row, 3)->setToolTip(decisions_->item(row, 3)->text());
    }
    decisions_->resizeColumnsToContents();
}

QString VerdictStation::help() const {
    return tr(
        "<h3>Verdict</h3><p>The answer on top names the speed, what the valve does there, why, and how "
        "sure that is. It is "
        "made anew when you come here after an edit. Under it, apart from the power: what the valve does on "
        "the rig, and what the calibrated run says by itself (Rig, Calibrate).</p>"
        "<p><b>Causes</b>: each says what it predicts for bench, model, rig, dyno and change log; what "
        "was seen is weighed by "
        "Bayes' rule with one table of priors and likelihoods (docs/verdict.md). What nobody looked "
        "for counts nothing. "
        "Choose a cause: the evidence for (+) and against (−) it stands beside it; Enter on a line "
        "shows the plot.</p>"
        "<p><b>Change study</b>: parts of the shelf and usual steps, each by the full model, with "
        "what comes near its limits "
        "and the findings it would raise; then combinations that reach the target. More spring and "
        "less mass, close to bind "
        "and roomy: both schools stand there with their trade.</p>"
        "<p><b>Next test</b>: most expected information an hour first. <b>Decide</b> makes the change "
        "a new revision and records "
        "your reasons.</p>"
        "<p><b>Caution.</b> Compressed springs and locks fly: eye protection, drain holes covered, "
        "locks counted. Makers' "
        "instructions, local rules and a competent person come first.</p>");
}

} // namespace bathmos::app
