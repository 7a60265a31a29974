// Which revision a command is about: that of a build, or another one by its number.
#pragma once

#include "cli/arguments.h"
#include "core/project/project.h"

namespace bathmos::cli {

struct RevisionChoice {
    std::string build;
    Id revision = 0;
};
/// --build NAME and --revision NUMBER.
void add_revision_choice(CLI::App* command, RevisionChoice& into);
/// The revision asked for, else that in hand of the build; of the only build where none is named. Throws
/// InputError naming the builds.
Id revision_of(const Project& project, const std::string& path, const RevisionChoice& asked);

} // namespace bathmos::cli
