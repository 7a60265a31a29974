// What the parts of a pack are made from.
#pragma once

#include "session/pack/other_makers.h"
#include "session/pack/pack.h"

namespace bathmos::session {

class PackView {
  public:
    PackView(const ReportInput& input, const ReportFacts& facts, const PackAsked& asked);
    const ReportInput& input;
    const ReportFacts& facts;
    const PackAsked& asked;
    const AudienceInfo& audience;
    const OtherMakers others;

    const Project& project() const { return input.of.project; }
    const Revision& revision() const { return project().revisions.at(input.of.revision); }
    std::string text(Quantity quantity, double si) const { return quantity_text(quantity, si, asked.units); }
    /// Somebody's words without the names of other makers' parts; what was taken out is remembered.
    std::string open(const std::string& words) const { return others.masked(words, masked_); }
    const std::set<std::string>& masked() const { return masked_; }
    /// The run of the revision in question; null where there is none, or it could not be reduced.
    const ReducedRun* run() const;
    /// Findings that stop, in words.
    std::vector<std::string> stops() const;
    /// Speeds of the traces that go out, rising: those of the run, else every fourth that was computed.
    std::vector<double> speeds_rpm() const;

  private:
    mutable std::set<std::string> masked_;
};

/// What differs between two revisions as the audience may read it: its own parts and plain numbers in full,
/// of other makers' parts that they were changed.
std::vector<std::string> open_changes(const PackView& view, Id before, Id after);

/// Why a revision was made as the audience may read it: the program writes the first number that changed as
/// the reason where nobody gives one, and that of another maker's part is no more than that it changed.
/// `before` 0: it is the first.
std::string open_reason(const PackView& view, Id before, Id after);

paper::Paper pack_page(const PackView& view);
/// Numbers with their units: speeds, masses, stiffness by part, loads, the audience's own parts.
std::string pack_numbers(const PackView& view);
/// Asked, computed and measured lift over the crank angle, a row a degree and speed.
std::string pack_traces(const PackView& view);
/// Everything that was computed at the speeds of the traces, twelve of them at most.
std::vector<std::shared_ptr<const Motion>> pack_motions(const PackView& view);
/// The audience's own parts as a table to fill in and send back.
std::string pack_answer_form(const PackView& view);

} // namespace bathmos::session
