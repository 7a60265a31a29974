#include "app/stations/bench/sheet_limit.h"
#include "app/text/words.h"

#include "core/motion/limit_gain.h"

#include <cmath>

namespace bathmos::app {

SheetLimit::SheetLimit(Context context, QWidget* parent) : QLabel(parent), context_(context) {
    setObjectName(QStringLiteral("bench_limit"));
    setWordWrap(true);
    setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
}

void SheetLimit::stop() {
    work_.stop();
    asked_ = {}; // asked again, it is worked out again
}

void SheetLimit::ask(const bench::SheetEffect& effect, const std::set<std::string>& taken) {
    const Document& document = context_.document;
    const Train next = document.rigid() ? bench::with_changes(document.train(), effect, taken) : Train();
    if (!document.rigid() || next == document.train()) { // nothing is ticked, or all was taken over
        stop();
        return hide();
    }
    show();
    if (next == asked_ && asked_number_ == document.revision())
        return;
    asked_ = next;
    asked_number_ = document.revision();
    setText(tr("With these numbers: …"));
    LimitQuestion question{document.range(), document.limits(), {}};
    const SweepSummary* now = context_.sweep.summary();
    const std::optional<double> now_rpm = now ? now->limit.speed_rpm : std::nullopt;
    work_.start(
        [=, this](const std::stop_token& stop, const Background::Post& post) {
            LimitQuestion asked = question;
            asked.stop = stop;
            const auto limit = limit_within(next, asked, now_rpm);
            post([=, this] {
                if (!limit)
                    setText(tr("With these numbers the train cannot be run."));
                else if (*limit >= question.range.last_rpm)
                    setText(tr("With these numbers: no limit up to %1 rev/min.").arg(fixed(*limit, 0)));
                else if (!now_rpm)
                    setText(tr("With these numbers: limit %1 rev/min.").arg(fixed(*limit, 0)));
                else
                    setText(tr("With these numbers: limit %1 rev/min (%2%3).")
                                .arg(fixed(*limit, 0))
                                .arg(*limit < *now_rpm ? QStringLiteral("−") : QStringLiteral("+"))
                                .arg(fixed(std::abs(*limit - *now_rpm), 0)));
            });
        },
        [this](const QString& failure) {
            if (!failure.isEmpty())
                setText(tr("With these numbers: not known. %1").arg(failure));
        });
}

} // namespace bathmos::app
