// What a pack must not say: how the parts of other makers are called.
#pragma once

#include "core/project/project.h"

#include <string_view>

namespace bathmos::session {

/// Names and serials of parts of other kinds than those of an audience, on the shelf and in revisions. A name
/// that says no more than its kind ("pushrod"), and one that the audience's own parts bear too, is no secret.
class OtherMakers {
  public:
    static constexpr std::string_view kInstead = "[part of another maker]";
    /// `instead`: what stands where such a name was.
    OtherMakers(const Project& project, const std::set<PartKind>& own,
                std::string instead = std::string(kInstead));
    /// A text in which such names, as whole words and whatever their case, are replaced; `masked` gets them.
    std::string masked(std::string text, std::set<std::string>& masked) const;
    /// Those that stand in a text, as they are or as HTML and JSON write them.
    std::vector<std::string> found_in(std::string_view text) const;

  private:
    std::string instead_;
    std::vector<std::string> names_; ///< the longest first
};

} // namespace bathmos::session
