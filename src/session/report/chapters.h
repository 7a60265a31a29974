// The chapters of a report, each on its own.
#pragma once

#include "session/report/report.h"

namespace bathmos::session {

/// What every chapter reads.
struct ReportView {
    const ReportInput& input;
    const ReportFacts& facts;
    const ReportAsked& asked;
    const Project& project() const { return input.of.project; }
    const Revision& revision() const { return project().revisions.at(input.of.revision); }
    std::string text(const MeasuredText& told) const { return told.in_words(asked.units); }
    std::string text(Quantity quantity, double si) const { return quantity_text(quantity, si, asked.units); }
};

void write_answer(const ReportView& view, paper::Paper& out);
void write_evidence(const ReportView& view, paper::Paper& out);
void write_train(const ReportView& view, paper::Paper& out);
void write_changes(const ReportView& view, paper::Paper& out);
void write_findings(const ReportView& view, paper::Paper& out);
void write_life(const ReportView& view, paper::Paper& out);
void write_record(const ReportView& view, paper::Paper& out);
void write_next(const ReportView& view, paper::Paper& out);
void write_cautions(paper::Paper& out);

} // namespace bathmos::session
