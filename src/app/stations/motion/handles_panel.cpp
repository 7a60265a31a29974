#include "app/stations/motion/handles_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "core/problem/input_error.h"
#include "core/whatif/handles.h"

#include <QGridLayout>
#include <QPushButton>

namespace bathmos::app {

namespace {
constexpr int kColumns = 5;

} // namespace

HandlesPanel::HandlesPanel(Context context, QWidget* parent)
    : QWidget(parent), context_(context), answer_(new QLabel) {
    setObjectName(QStringLiteral("handles"));
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(8, 6, 8, 0);
    grid->setHorizontalSpacing(16);
    grid->setVerticalSpacing(2);
    auto* title = new QLabel(tr("What if"));
    title->setFont(Theme::text_font(13, true));
    title->setToolTip(
        tr("Drag a name sideways, or press Up and Down in its field: the limit follows at once."));
    answer_->setObjectName(QStringLiteral("what_if_answer"));
    answer_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred); // its words make no column wider
    forget_ = new QPushButton(tr("Forget before"));
    forget_->setObjectName(QStringLiteral("forget_before"));
    forget_->setToolTip(tr("The limit as it is now becomes the one that changes are compared with."));
    connect(forget_, &QPushButton::clicked, this, [this] { context_.what_if.forget_before(); });
    grid->addWidget(title, 0, 0);
    grid->addWidget(answer_, 0, 1, 1, kColumns - 2);
    grid->addWidget(forget_, 0, kColumns - 1, Qt::AlignRight);
    for (std::size_t i = 0; i < handles().size(); ++i) {
        const Handle& handle = handles()[i];
        const QString key = QStringLiteral("handle.") + words(handle.key);
        auto* field = new NumberField(
            context_.units, handle.quantity, key, phrase(handle.label), phrase(handle.help),
            [](double value) { return value > -1e12 ? std::string() : std::string("too low"); });
        field->set_compact();
        field->set_pullable(handle.step);
        const QString what = tr("change %1").arg(lower_phrase(handle.label));
        connect(field, &NumberField::dragged, this, [this, i](double si) { drag(i, si); });
        connect(field, &NumberField::let_go, this,
                [this, what, key](double) { context_.what_if.let_go(what, key); });
        connect(field, &NumberField::pull_left, this, [this] { context_.what_if.leave(); });
        connect(field, &NumberField::edited, this, [this, i, what, key](double si) {
            if (drag(i, si))
                context_.what_if.let_go(what, key);
        });
        const int place = static_cast<int>(i);
        grid->addWidget(field, 1 + place / kColumns, place % kColumns);
        fields_.push_back(field);
    }
    for (int c = 0; c < kColumns; ++c)
        grid->setColumnStretch(c, 1);
    connect(&context_.document, &Document::changed, this, &HandlesPanel::refresh);
    connect(&context_.document, &Document::put_back, this, &HandlesPanel::refresh);
    connect(&context_.units, &DisplayUnits::changed, this, &HandlesPanel::refresh);
    connect(&context_.what_if, &WhatIf::changed, this, &HandlesPanel::tell);
    connect(&context_.sweep, &SweepRunner::motions_changed, this, &HandlesPanel::tell);
    refresh();
    tell();
}

// False where the train in hand is none that the change could be made of; that is told.
bool HandlesPanel::drag(std::size_t handle, double si) {
    Train train = context_.document.train();
    try {
        handles()[handle].set(train, si);
    } catch (const InputError& error) {
        refresh();
        answer_->setText(tr("Not changed. %1").arg(phrase(error.what())));
        return false;
    }
    context_.what_if.drag(train);
    return true;
}

void HandlesPanel::refresh() {
    if (!context_.document.has_train())
        return;
    for (std::size_t i = 0; i < fields_.size(); ++i) {
        const std::optional<double> value = handles()[i].get(context_.document.train());
        fields_[i]->setEnabled(value.has_value());
        if (value)
            fields_[i]->show_value(*value);
    }
}

QString HandlesPanel::answer() const {
    const WhatIf& what_if = context_.what_if;
    const auto named = [](const ClaimedLimit& limit) {
        return speed_text(limit.speed_rpm) + QLatin1Char(' ') + lower_phrase(info(limit.metric).label);
    };
    QString out;
    if (what_if.before())
        out = tr("before %1  →  ").arg(named(*what_if.before()));
    if (what_if.active()) {
        if (!what_if.problem().isEmpty())
            return out + what_if.problem();
        if (what_if.stage() == WhatIf::Stage::Dragging)
            return out + QStringLiteral("…");
        out += what_if.limit() ? named(*what_if.limit()) : tr("no limit in range");
        out += what_if.stage() == WhatIf::Stage::Refined ? QString() : tr(" (coarse)");
        const QString opposed = what_if.opposed();
        return opposed.isEmpty() ? out : out + tr("  ⇅ %1").arg(opposed);
    }
    bool old = false;
    const SweepSummary* summary = context_.sweep.summary(&old);
    if (!what_if.before() || !summary || old)
        return out.isEmpty() ? tr("Drag a name sideways, or use Up and Down in its field.")
                             : out + QStringLiteral("…");
    return out + (summary->limit.speed_rpm ? named({*summary->limit.speed_rpm, summary->limit.first->metric})
                                           : tr("no limit in range"));
}

void HandlesPanel::tell() {
    answer_->setText(answer());
    forget_->setEnabled(context_.what_if.before().has_value());
}

} // namespace bathmos::app
