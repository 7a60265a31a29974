#include "session/live/programme_record.h"

#include "core/problem/input_error.h"
#include "io/live/programme_file.h"
#include "session/plan/campaign_record.h"

namespace bathmos::session {

namespace {
const char* const kProgrammeKey = "programme";
} // namespace

Entry programme_record(const live::Programme& programme, Id revision) {
    if (programme.name.empty())
        throw InputError({"", "programme", "has no name", "type one beside it"});
    Entry out;
    out.name = programme.name;
    out.revision = revision;
    out.words[kProgrammeKey] = io::programme_text(programme);
    return out;
}

live::Programme programme_of(const Entry& record) {
    const auto text = record.words.find(kProgrammeKey);
    if (text == record.words.end())
        throw InputError({record.name, "", "holds no programme of a rig", "make it anew"});
    live::Programme out = io::parse_programme(text->second, record.name);
    out.name = record.name;
    return out;
}

std::vector<Id> programmes_of(const Project& project, Id build) {
    return plans_holding(project, build, kProgrammeKey);
}

Id programme_named(const Project& project, Id build, const std::string& name) {
    Id out = 0;
    for (const Id id : programmes_of(project, build))
        if (project.of(EntryKind::Plan).at(id).name == name)
            out = id;
    return out;
}

} // namespace bathmos::session
