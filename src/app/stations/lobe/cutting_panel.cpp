#include "app/stations/lobe/cutting_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/cam/cutting.h"

#include <QLabel>
#include <QListWidget>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

enum Row {
    Under,
    CutFor,
    ConvexRow,
    OpeningOffset,
    ClosingOffset,
    Swept,
    OpeningPressure,
    ClosingPressure,
    Wheel
};

std::optional<FollowerKind> kind_of(const std::string& word) {
    if (word == "flat")
        return FollowerKind::Flat;
    if (word == "roller")
        return FollowerKind::Roller;
    return std::nullopt;
}

QString sign_of(Severity severity) {
    return severity == Severity::Stop   ? QStringLiteral("■ ")
           : severity == Severity::Warn ? QStringLiteral("△ ")
                                        : QStringLiteral("○ ");
}

} // namespace

CuttingPanel::CuttingPanel(Context context, LobeSet& set, QWidget* parent)
    : QWidget(parent), context_(context), set_(set) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 0);
    auto* words = new QLabel(tr("Each lobe under the follower of the build in hand. The maker of lobe and "
                                "follower has the last word on what may be ground and run."));
    words->setWordWrap(true);
    layout->addWidget(words);
    table_ = new NumberTable(QStringLiteral("cutting_table"));
    table_->setAccessibleName(tr("Cutting limits of the shown lobes"));
    layout->addWidget(table_, 3);
    findings_ = new QListWidget;
    findings_->setObjectName(QStringLiteral("cutting_findings"));
    findings_->setAccessibleName(tr("What stands against cutting or running them"));
    findings_->setWordWrap(true);
    layout->addWidget(findings_, 2);
    refresh_ = new Refresher(this, 15, [this] { refresh(); });
    const auto ask = [this] { refresh_->ask(); };
    connect(&set_, &LobeSet::changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    connect(&context_.document, &Document::changed, this, ask);
    ask();
}

void CuttingPanel::refresh() {
    findings_->clear();
    QStringList headings = {tr("Cutting limit")};
    const std::vector<const LoadedLobe*> lobes = set_.shown();
    for (const LoadedLobe* lobe : lobes)
        headings.push_back(lobe->name);
    table_->setRowCount(0);
    table_->set_headings(headings);
    const QStringList rows = {tr("Runs under a"),
                              tr("Was cut for a"),
                              tr("Least convex radius, at crank degrees"),
                              tr("Flat: contact runs off the axis, opening"),
                              tr("Flat: contact runs off the axis, closing"),
                              tr("Flat: width that the contact sweeps"),
                              tr("Roller: pressure angle, opening"),
                              tr("Roller: pressure angle, closing"),
                              tr("Roller: largest grinding wheel, diameter")};
    table_->setRowCount(static_cast<int>(rows.size()));
    for (int row = 0; row < rows.size(); ++row)
        table_->set_cell(row, 0, rows[row], false);
    for (std::size_t i = 0; i < lobes.size(); ++i)
        add_lobe(static_cast<int>(i) + 1, *lobes[i]);
    if (findings_->count() == 0 && !lobes.empty())
        findings_->addItem(tr("Nothing stands against these lobes under this follower."));
    table_->resizeColumnsToContents();
}

void CuttingPanel::add_lobe(int column, const LoadedLobe& loaded) {
    const Lobe lobe = set_.in_hand(loaded);
    const auto length = [&](double si) { return context_.units.text(Quantity::Length, si); };
    const bool roller = lobe.follower == FollowerKind::Roller;
    const auto kind = [&](bool is_roller) { return is_roller ? tr("roller") : tr("flat face"); };
    table_->set_cell(Under, column, kind(roller));
    const auto cut_for = kind_of(loaded.facts.word("cut_for"));
    table_->set_cell(CutFor, column, cut_for ? kind(*cut_for == FollowerKind::Roller) : tr("not known"));
    try {
        const Cutting c = cutting_of(lobe, *loaded.curve);
        table_->set_cell(ConvexRow, column,
                         tr("%1 at %2°")
                             .arg(length(c.least_convex_m.value))
                             .arg(fixed(2 * degrees(c.least_convex_m.theta_rad), 0)));
        if (roller) {
            table_->set_cell(OpeningPressure, column,
                             tr("%1°").arg(fixed(degrees(c.opening_pressure_rad.value), 1)));
            table_->set_cell(ClosingPressure, column,
                             tr("%1°").arg(fixed(degrees(c.closing_pressure_rad.value), 1)));
            table_->set_cell(Wheel, column,
                             c.least_concave_m ? length(2 * c.least_concave_m->value) : tr("any: no hollow"));
        } else {
            table_->set_cell(OpeningOffset, column, length(c.opening_offset_m.value));
            table_->set_cell(ClosingOffset, column, length(c.closing_offset_m.value));
            table_->set_cell(Swept, column, length(c.swept_width_m));
        }
        const double wheel = loaded.facts.number("wheel_mm").value_or(0);
        for (const Finding& finding : cutting_findings(lobe, c, cut_for, wheel))
            findings_->addItem(sign_of(finding.severity) + loaded.name + QStringLiteral(": ") +
                               phrase(in_words(finding, context_.units.choice())));
    } catch (const InputError& error) {
        findings_->addItem(QStringLiteral("○ ") + loaded.name + QStringLiteral(": ") + phrase(error.what()));
    }
}

} // namespace bathmos::app
