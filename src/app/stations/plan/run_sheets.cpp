#include "app/stations/plan/run_sheets.h"

#include "app/text/words.h"

#include <QCoreApplication>
#include <numeric>

namespace bathmos::app {

namespace {

QString paper_words(const char* text) {
    return QCoreApplication::translate("RunSheets", text);
}

QString paper_row(const QString& what, const QString& value) {
    return QStringLiteral("<tr><td width='32%'>%1</td><td>%2</td></tr>").arg(what, value);
}

// What was changed since the run before, and is to be checked before this one.
QString changes_to(const plan::Campaign& campaign, const plan::Combination& from,
                   const plan::Combination& to) {
    QString out;
    for (std::size_t f = 0; f < to.size(); ++f) {
        const QString level = words(campaign.factors[f].levels[to[f]]).toHtmlEscaped();
        out += paper_row(
            words(campaign.factors[f].name).toHtmlEscaped(),
            from[f] == to[f] ? level : QStringLiteral("<b>%1</b> (%2)").arg(level, paper_words("change")));
    }
    return out;
}

QString stop_rows(const DisplayUnits& units) {
    QString out;
    for (const live::StopRuleInfo& rule : live::stop_rules())
        out += paper_row(phrase(rule.label),
                         QStringLiteral("%1 · %2").arg(rule.quantity == Quantity::Count
                                                           ? QString::number(rule.usual)
                                                           : units.text(rule.quantity, rule.usual),
                                                       phrase(rule.why)));
    return out;
}

} // namespace

QString run_sheets(const plan::Campaign& campaign, const plan::Plan& plan, const QString& of,
                   const DisplayUnits& units) {
    QString out;
    plan::Combination before = campaign.measured.empty() ? campaign.mounted : campaign.measured.back().levels;
    for (std::size_t i = 0; i < plan.runs.size(); ++i) {
        const plan::PlannedRun& run = plan.runs[i];
        const double begun = std::accumulate(
            campaign.day_h.begin(), campaign.day_h.begin() + static_cast<std::ptrdiff_t>(run.day), 0.0);
        out += QStringLiteral("<div%1><h2>%2</h2><p>%3</p>")
                   .arg(i ? QStringLiteral(" style='page-break-before: always'") : QString(),
                        paper_words("Run %1: %2")
                            .arg(i + 1)
                            .arg((run.baseline ? paper_words("baseline")
                                               : words(plan::name_of(campaign, run.levels)))
                                     .toHtmlEscaped()),
                        paper_words("%1. Day %2, from hour %3 of it; %4 h to change, %5 h to run. %6.")
                            .arg(of.toHtmlEscaped())
                            .arg(run.day + 1)
                            .arg(fixed(run.start_h + run.change_h - begun, 1))
                            .arg(fixed(run.change_h, 2))
                            .arg(fixed(campaign.run_h, 2))
                            .arg(phrase(run.why).toHtmlEscaped()));
        out += QStringLiteral(
                   "<h3>%1</h3><table border='1' cellspacing='0' cellpadding='3' width='100%'>%2%3</table>")
                   .arg(paper_words("Parts"), changes_to(campaign, before, run.levels),
                        paper_row(paper_words("Serial numbers, as fitted"), QStringLiteral("&nbsp;")));
        out +=
            QStringLiteral(
                "<h3>%1</h3><table border='1' cellspacing='0' cellpadding='3' width='100%'>%2%3%4%5</table>")
                .arg(paper_words("Before it turns"),
                     paper_row(paper_words("Torque as the maker says"), paper_words("□ done by ______")),
                     paper_row(paper_words("Locks counted in and seated"), paper_words("□ done by ______")),
                     paper_row(paper_words("Lash on every valve, cold"), paper_words("□ ______")),
                     paper_row(paper_words("Turned twice by hand, sensor zero noted"),
                               paper_words("□ zero ______")));
        out +=
            QStringLiteral(
                "<h3>%1</h3><table border='1' cellspacing='0' cellpadding='3' width='100%'>%2%3%4%5</table>")
                .arg(paper_words("Speeds"),
                     paper_row(paper_words("Steps"),
                               paper_words("%1 to %2 by %3 rev/min, at least 16 good cycles each")
                                   .arg(fixed(campaign.range.first_rpm, 0))
                                   .arg(fixed(run.expected.high_rpm, 0))
                                   .arg(fixed(campaign.range.step_rpm, 0))),
                     paper_row(paper_words("Expected limit"),
                               paper_words("%1 rev/min, 8 of 10 between %2 and %3")
                                   .arg(fixed(run.expected.limit_rpm, 0))
                                   .arg(fixed(run.expected.low_rpm, 0))
                                   .arg(fixed(run.expected.high_rpm, 0))),
                     paper_row(paper_words("Hold"), paper_words("10 s at %1 rev/min: does anything creep?")
                                                        .arg(fixed(0.95 * run.expected.low_rpm, 0))),
                     paper_row(paper_words("Limit that came"), QStringLiteral("______ ± ____ rev/min")));
        out += QStringLiteral(
                   "<h3>%1</h3><table border='1' cellspacing='0' cellpadding='3' width='100%'>%2</table>")
                   .arg(paper_words("Stop when"), stop_rows(units));
        out +=
            QStringLiteral("<p>%1</p></div>")
                .arg(paper_words(
                    "Guards closed, interlock tested, room clear; nobody near a running train. The rig's "
                    "maker, local rules and a competent person come first. Look afterwards at tips, wheels, "
                    "locks, springs, seats."));
        before = run.levels;
    }
    return out;
}

} // namespace bathmos::app
