// A maker's answer to a pack: parts that were not on the shelf.
#pragma once

#include "core/project/project.h"
#include "io/project/store.h"

namespace bathmos::session {

struct Answer {
    std::vector<Part> parts;
    std::size_t known = 0; ///< parts that the shelf has already, value for value
};
/// What an answer brings to a shelf. Throws InputError for a table that is none, or with parts that cannot
/// be; `source` names the file.
Answer answer_of(const Project& project, std::string_view text, const std::string& source);

/// The line of the log that says so.
Entry answer_note(const Answer& answer, const std::string& file, const std::string& who,
                  const std::string& when);

/// Puts the parts on the shelf with their line in the log, as one edit. Their numbers. Throws InputError.
std::vector<Id> keep_answer(io::Store& store, const Answer& answer, const Entry& note);

} // namespace bathmos::session
