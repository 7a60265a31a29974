#include "app/stations/train/checks_panel.h"

#include "app/text/words.h"
#include "app/widgets/refresher.h"

#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

QString severity_word(Severity severity) {
    return severity == Severity::Stop   ? ChecksPanel::tr("stop")
           : severity == Severity::Warn ? ChecksPanel::tr("warn")
                                        : ChecksPanel::tr("note");
}

QListWidget* list(const QString& name, const QString& spoken) {
    auto* out = new QListWidget;
    out->setObjectName(name);
    out->setAccessibleName(spoken);
    out->setWordWrap(true);
    out->setFrameShape(QFrame::NoFrame);
    return out;
}

} // namespace

QString sign_of(Severity severity) {
    return severity == Severity::Stop   ? QStringLiteral("■")
           : severity == Severity::Warn ? QStringLiteral("▲")
                                        : QStringLiteral("○");
}

ChecksPanel::ChecksPanel(Context context, const Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), context_(context), dialogs_(dialogs),
      findings_(list(QStringLiteral("findings"), tr("Findings"))),
      checks_(list(QStringLiteral("open_checks"), tr("To check again"))), checks_title_(new QLabel) {
    auto* page = new QVBoxLayout(this);
    page->setContentsMargins(0, 0, 0, 0);
    page->setSpacing(4);
    const auto button = [&](QHBoxLayout* to, const char* name, const QString& text, const QString& tip,
                            auto run) {
        auto* made = new QPushButton(text);
        made->setObjectName(QLatin1String(name));
        made->setToolTip(tip);
        connect(made, &QPushButton::clicked, this, run);
        to->addWidget(made);
    };
    auto* title = new QLabel(tr("Findings"));
    title->setFont(Theme::text_font(13, true));
    auto* first = new QHBoxLayout;
    first->addWidget(title, 1);
    button(first, "waive_finding", tr("Waive…"), tr("Lets a finding stand, with your reason in the record"),
           [this] { waive_finding(); });
    page->addLayout(first);
    page->addWidget(findings_, 3);
    checks_title_->setFont(Theme::text_font(13, true));
    auto* second = new QHBoxLayout;
    second->addWidget(checks_title_, 1);
    button(second, "check_done", tr("Checked…"), tr("Closes the chosen checks with what you found"),
           [this] { close_checks(EntryKind::Sheet); });
    button(second, "check_waive", tr("Waive…"),
           tr("Closes the chosen checks without looking, with your reason"),
           [this] { close_checks(EntryKind::Waiver); });
    page->addLayout(second);
    checks_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    page->addWidget(checks_, 2);
    auto* seen = new Refresher(this, kAtOnce_ms, [this] { refresh(); });
    connect(&context_.document, &Document::records_changed, seen, &Refresher::at_once);
    connect(&context_.document, &Document::judged, seen, &Refresher::at_once);
    connect(&context_.units, &DisplayUnits::changed, seen, &Refresher::at_once);
    connect(&context_.theme, &Theme::changed, seen, &Refresher::at_once);
    seen->at_once();
}

void ChecksPanel::focus_on_checks() {
    checks_->setFocus(); // no focus proxy: it would take the panel's buttons out of the tab order
}

void ChecksPanel::refresh() {
    if (!context_.document.has_train())
        return;
    show_findings();
    show_checks();
}

void ChecksPanel::show_findings() {
    findings_->clear();
    const auto add = [&](Severity severity, const QString& text, const QString& location, bool waived) {
        auto* item = new QListWidgetItem(
            waived ? tr("waived %1: %2").arg(severity_word(severity), text)
                   : QStringLiteral("%1 %2: %3").arg(sign_of(severity), severity_word(severity), text),
            findings_);
        item->setToolTip(location);
        item->setForeground(context_.theme.color(waived                       ? Role::Faint
                                                 : severity == Severity::Stop ? Role::StopMark
                                                 : severity == Severity::Warn ? Role::LimitMark
                                                                              : Role::Ink));
        return item;
    };
    for (const InputProblem& problem : context_.document.problems())
        add(Severity::Stop, phrase(problem.sentence()), QString::fromStdString(problem.location), false);
    for (const FoundFit& found : context_.document.findings()) {
        const FitRule* rule = find_fit_rule(found.finding.rule);
        QString location = QString::fromStdString(found.finding.part);
        if (rule)
            location = tr("%1. Source: %2.").arg(phrase(rule->label), phrase(rule->source));
        if (found.waiver != 0)
            location += tr(" Waived: %1")
                            .arg(QString::fromStdString(
                                context_.document.project().of(EntryKind::Waiver).at(found.waiver).text));
        auto* item = add(found.finding.severity, phrase(in_words(found.finding, context_.units.choice())),
                         location, found.waiver != 0);
        item->setData(Qt::UserRole, QString::fromStdString(found.finding.rule));
    }
    if (findings_->count() == 0)
        findings_->addItem(tr("none"));
}

QString ChecksPanel::chosen_rule() const {
    const QListWidgetItem* item = findings_->currentItem();
    return item ? item->data(Qt::UserRole).toString() : QString();
}

void ChecksPanel::show_checks() {
    checks_->clear();
    const auto& open = context_.document.open_checks();
    checks_title_->setText(open.empty() ? tr("To check again") : tr("To check again (%1)").arg(open.size()));
    for (const OpenCheck& one : open) {
        const CheckInfo& what = info(one.check);
        auto* item = new QListWidgetItem(QStringLiteral("□ %1").arg(phrase(what.label)), checks_);
        item->setToolTip(
            tr("%1 Asked for by %2: %3")
                .arg(phrase(what.how),
                     QString::fromStdString(context_.document.project().revision_label(one.since)),
                     QString::fromStdString(one.cause)));
        item->setData(Qt::UserRole, words(what.key));
    }
    if (open.empty())
        checks_->addItem(tr("nothing is open"));
}

void ChecksPanel::waive_finding() {
    const QListWidgetItem* item = findings_->currentItem();
    const FitRule* rule = item ? find_fit_rule(item->data(Qt::UserRole).toString().toStdString()) : nullptr;
    if (!rule)
        return emit message(
            tr("Choose a finding of the list first. A problem that stops the arithmetic cannot be "
               "waived."));
    const QString reason = dialogs_.ask_words(
        tr("Waive a finding"),
        tr("Why may \"%1\" stand? It is kept with the record, and ends when its parts change.")
            .arg(phrase(rule->label)),
        {});
    if (reason.isEmpty())
        return emit message(tr("Nothing was waived: a waiver needs its reason."));
    context_.document.close_checks(EntryKind::Waiver, {waiver_key(*rule)}, reason);
}

void ChecksPanel::close_checks(EntryKind kind) {
    std::vector<std::string> keys;
    for (const QListWidgetItem* item : checks_->selectedItems())
        if (const std::string key = item->data(Qt::UserRole).toString().toStdString(); !key.empty())
            keys.push_back(key);
    if (keys.empty())
        return emit message(tr("Choose one or more open checks first."));
    const bool sheet = kind == EntryKind::Sheet;
    const QString said =
        dialogs_.ask_words(sheet ? tr("Checked") : tr("Waive checks"),
                           sheet ? tr("What was found, with which gauge?") : tr("Why not?"), {});
    if (said.isEmpty())
        return emit message(tr("Nothing was closed: the record needs a line of words."));
    context_.document.close_checks(kind, keys, said);
}

} // namespace bathmos::app
