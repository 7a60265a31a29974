#include "cli/revision_choice.h"

#include "core/problem/input_error.h"

#include <fmt/format.h>

namespace bathmos::cli {

void add_revision_choice(CLI::App* command, RevisionChoice& into) {
    command->add_option("--build", into.build, "Name of the build");
    command->add_option("--revision", into.revision, "Number of another revision than the one in hand");
}

Id revision_of(const Project& project, const std::string& path, const RevisionChoice& asked) {
    if (asked.revision) {
        if (!project.revisions.contains(asked.revision))
            throw InputError({path, "--revision", fmt::format("{} is not there", asked.revision),
                              "give the number of a revision"});
        return asked.revision;
    }
    std::string names;
    for (const auto& [id, build] : project.builds) {
        if (build.name == asked.build || (asked.build.empty() && project.builds.size() == 1))
            return build.head;
        names += (names.empty() ? "" : ", ") + build.name;
    }
    throw InputError(
        {path, "--build", fmt::format("\"{}\" is not there", asked.build), "give one of: " + names});
}

} // namespace bathmos::cli
