#include "app/shell/build_bar.h"

#include "app/shell/revision_list.h"

#include <QAbstractItemView>
#include <QComboBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSpinBox>
#include <QTimer>
#include <QVBoxLayout>

namespace bathmos::app {

BuildBar::BuildBar(Context context, QWidget* parent) : QWidget(parent), context_(context) {
    setObjectName(QStringLiteral("build_bar"));
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(12, 6, 12, 6);
    line->setSpacing(8);
    auto* names = new QVBoxLayout;
    names->setSpacing(0);
    name_ = new QLabel;
    name_->setObjectName(QStringLiteral("build_name"));
    name_->setFont(Theme::text_font(15, true));
    state_ = new QLabel;
    state_->setObjectName(QStringLiteral("build_state"));
    state_->setFont(Theme::text_font(12));
    for (QLabel* label : {name_, state_}) // a long name is cut, it does not widen the window
        label->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    names->addWidget(name_);
    auto* below = new QHBoxLayout;
    below->setSpacing(6);
    shown_list_ = new RevisionList(context_.document, {}, this);
    compared_list_ = new RevisionList(context_.document, tr("nothing"), this);
    shown_ = revision_box(QStringLiteral("revision_in_hand"), tr("Revision in hand"), shown_list_);
    compared_ =
        revision_box(QStringLiteral("revision_compared"), tr("Revision it is compared with"), compared_list_);
    below->addWidget(shown_);
    below->addWidget(new QLabel(tr("against")));
    below->addWidget(compared_);
    below->addWidget(state_, 1);
    names->addLayout(below);
    line->addLayout(names, 7);
    connect(shown_, &QComboBox::activated, this, [this] {
        const Id id = shown_->currentData().toLongLong();
        QTimer::singleShot(0, this, [this, id] { context_.document.show(id); }); // the box is refilled then
    });
    connect(compared_, &QComboBox::activated, this, [this] {
        const Id id = compared_->currentData().toLongLong();
        QTimer::singleShot(0, this, [this, id] { context_.document.compare(id); });
    });
    connect(&context_.document, &Document::judged, this, &BuildBar::refresh);
    connect(&context_.document, &Document::records_changed, this, [this] {
        fill_revisions();
        refresh();
    });
    verdict_ = new QLabel;
    verdict_->setObjectName(QStringLiteral("build_verdict"));
    verdict_->setFont(Theme::text_font(13, true));
    verdict_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred); // cut before it widens the window
    verdict_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    auto* judged = new QVBoxLayout;
    judged->setSpacing(0);
    judged->addWidget(verdict_);
    limits_ = new QPushButton;
    limits_->setObjectName(QStringLiteral("limits_button"));
    limits_->setFlat(true);
    limits_->setFont(Theme::text_font(12));
    limits_->setCursor(Qt::PointingHandCursor);
    connect(limits_, &QPushButton::clicked, this, &BuildBar::limits_wanted);
    judged->addWidget(limits_, 0, Qt::AlignRight);
    line->addLayout(judged, 4);
    progress_ = new QProgressBar;
    progress_->setAccessibleName(tr("Sweep progress"));
    progress_->setFixedSize(90, 14);
    progress_->setTextVisible(false);
    stop_ = new QPushButton(tr("Stop"));
    stop_->setObjectName(QStringLiteral("sweep_stop"));
    connect(stop_, &QPushButton::clicked, this, [this] {
        if (context_.sweep.state() == SweepRunner::State::Running)
            context_.sweep.stop();
        else
            context_.sweep.restart();
    });
    line->addWidget(progress_);
    line->addWidget(stop_);
    line->addWidget(new QLabel(tr("Sweep")));
    line->addWidget(first_ =
                        speed_box(QStringLiteral("sweep_first"), tr("Sweep from, rev/min"), 500, 20000, 100));
    line->addWidget(new QLabel(tr("to")));
    line->addWidget(last_ =
                        speed_box(QStringLiteral("sweep_last"), tr("Sweep to, rev/min"), 600, 20000, 100));
    line->addWidget(new QLabel(tr("by")));
    line->addWidget(step_ = speed_box(QStringLiteral("sweep_step"), tr("Sweep step, rev/min"), 10, 500, 10));
    line->addWidget(new QLabel(tr("Target")));
    line->addWidget(target_ =
                        speed_box(QStringLiteral("target"), tr("Target speed, rev/min"), 0, 20000, 100));
    target_->setSpecialValueText(tr("none"));
    show_range();
    const auto ranged = [this] {
        if (last_->value() > first_->value())
            context_.document.set_range({static_cast<double>(first_->value()),
                                         static_cast<double>(last_->value()),
                                         static_cast<double>(step_->value())});
    };
    for (QSpinBox* box : {first_, last_, step_})
        connect(box, &QSpinBox::valueChanged, this, ranged);
    connect(target_, &QSpinBox::valueChanged, this, [this](int rpm) { context_.document.set_target(rpm); });
    connect(&context_.document, &Document::range_changed, this, &BuildBar::show_range);
    connect(&context_.document, &Document::limits_changed, this, &BuildBar::refresh);
    connect(&context_.document, &Document::changed, this, &BuildBar::refresh);
    connect(&context_.document, &Document::file_changed, this, &BuildBar::refresh);
    connect(&context_.sweep, &SweepRunner::motions_changed, this, &BuildBar::refresh);
    connect(&context_.sweep, &SweepRunner::progress_changed, this, &BuildBar::refresh);
    connect(&context_.sweep, &SweepRunner::finished, this, &BuildBar::refresh);
    fill_revisions();
    refresh();
}

QSpinBox* BuildBar::speed_box(const QString& name, const QString& label, int low, int high, int step) {
    auto* box = new QSpinBox;
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->setToolTip(label);
    box->setRange(low, high);
    box->setSingleStep(step);
    box->setKeyboardTracking(false);
    box->setFont(Theme::number_font(12));
    box->setAlignment(Qt::AlignRight);
    box->setButtonSymbols(QAbstractSpinBox::NoButtons);
    box->setFixedWidth(58);
    return box;
}

QComboBox* BuildBar::revision_box(const QString& name, const QString& label, RevisionList* list) {
    auto* box = new QComboBox;
    box->setModel(list);
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->setToolTip(label);
    box->setFont(Theme::text_font(12));
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(10);
    box->view()->setMinimumWidth(320);
    return box;
}

void BuildBar::fill_revisions() {
    const RevisionRows now = revision_rows(context_.document);
    for (const auto& [box, list] : {std::pair{shown_, shown_list_}, {compared_, compared_list_}}) {
        const QSignalBlocker quiet(box);
        list->refresh(now);
        box->setCurrentIndex(
            list->row_of(box == shown_ ? context_.document.shown() : context_.document.compared()));
        box->setEnabled(context_.document.has_train());
    }
}

void BuildBar::show_range() {
    const SpeedRange& range = context_.document.range();
    const std::pair<QSpinBox*, double> boxes[] = {{first_, range.first_rpm},
                                                  {last_, range.last_rpm},
                                                  {step_, range.step_rpm},
                                                  {target_, context_.document.target_rpm()}};
    for (const auto& [box, value] : boxes) {
        const QSignalBlocker quiet(box);
        box->setValue(static_cast<int>(value));
    }
}

// "■ 1 stop ▲ 2 warn", by shape and number; waived ones do not count.
QString BuildBar::finding_words() const {
    int count[3] = {0, 0, 0};
    for (const FoundFit& found : context_.document.findings())
        if (found.waiver == 0)
            ++count[static_cast<int>(found.finding.severity)];
    QString out;
    const std::pair<Severity, QString> signs[] = {{Severity::Stop, tr(" ■ %1 stop")},
                                                  {Severity::Warn, tr(" ▲ %1 warn")},
                                                  {Severity::Note, tr(" ○ %1 note")}};
    for (const auto& [severity, sign] : signs)
        if (const int n = count[static_cast<int>(severity)])
            out += sign.arg(n);
    return out.trimmed();
}

void BuildBar::refresh() {
    const Document& d = context_.document;
    name_->setText(d.has_train() ? QString::fromStdString(d.train().name) : tr("No train"));
    QString state;
    if (d.has_train()) {
        state = d.draft() ? tr("draft, no project file yet") : QFileInfo(d.path()).fileName();
        if (!d.read_only_why().isEmpty())
            state += tr(" · read only");
        const QString found = d.problems().empty()
                                  ? finding_words()
                                  : tr("■ %1 problem(s), see Train").arg(d.problems().size());
        if (!found.isEmpty()) // what may be cut comes last
            state = found + QStringLiteral(" · ") + state;
    }
    state_->setText(state);
    name_->setToolTip(name_->text());
    state_->setToolTip(state + QLatin1Char('\n') + d.path());
    limits_->setText(tr("limits: %1…").arg(phrase(d.limits().name)));
    limits_->setAccessibleName(tr("Limits in force: %1. Choose others").arg(phrase(d.limits().name)));
    limits_->setToolTip(
        tr("What counts as a limit, and the lift at which duration is checked (Ctrl+Shift+L)"));
    limits_->setEnabled(d.has_train());
    const bool running = context_.sweep.state() == SweepRunner::State::Running;
    progress_->setVisible(running);
    progress_->setValue(static_cast<int>(100 * context_.sweep.progress()));
    stop_->setVisible(running || context_.sweep.state() == SweepRunner::State::Stopped);
    stop_->setText(running ? tr("Stop") : tr("Sweep again"));
    bool old = false;
    const SweepSummary* summary = context_.sweep.summary(&old);
    QString verdict;
    if (context_.sweep.state() == SweepRunner::State::Failed)
        verdict = tr("■ %1").arg(context_.sweep.failure());
    else if (summary && summary->limit.speed_rpm)
        verdict =
            tr("limit %1%2, %3%4")
                .arg(running && !old ? tr("about ") : QString())
                .arg(speed_text(summary->limit.speed_rpm))
                .arg(lower_phrase(info(summary->limit.first->metric).label), old ? tr(" (old)") : QString());
    else if (summary)
        verdict = tr("no limit in range%1").arg(old ? tr(" (old)") : QString());
    if (summary && !d.stops().empty())
        verdict = tr("■ stop · ") + verdict;
    verdict_->setText(verdict);
    const QString free_again = summary ? free_again_text(summary->limit.free_again) : QString();
    verdict_->setToolTip(free_again.isEmpty() ? verdict : verdict + QLatin1Char('\n') + free_again);
}

} // namespace bathmos::app
