// Run sheets of a campaign on paper: one a run, with parts, checks, speeds, what stops it, cautions.
#pragma once

#include "app/text/display_units.h"
#include "core/live/stop_rules.h"
#include "core/plan/plan.h"

#include <QString>

namespace bathmos::app {

/// All runs as text with tables, a page each; `of` names build and revision.
QString run_sheets(const plan::Campaign& campaign, const plan::Plan& plan, const QString& of,
                   const DisplayUnits& units);

} // namespace bathmos::app
