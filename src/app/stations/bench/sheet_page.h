// A bench sheet on paper: filled in, or blank to be filled in by hand.
#pragma once

#include "app/text/display_units.h"
#include "session/bench/sheet_record.h"

#include <QString>

namespace bathmos::app {

struct PagedSheet {
    QString name, of; ///< "Spring on the tester", "Ashgill A22, revision 3"
    QString when;
    bench::SheetDraft draft;
    session::JudgedSheet said;
};

/// As text with tables: what was read, how, what it says and changes, and the caution. `blank`: boxes in
/// place of readings, nothing said.
QString sheet_page(const PagedSheet& sheet, const DisplayUnits& units, bool blank);
/// The page as PDF, A4 upright. False where the file cannot be written.
bool write_text_pdf(const QString& path, const QString& title, const QString& html);

} // namespace bathmos::app
