// Programmes of a rig kept in a project, by name, beside the revision that they were made for.
#pragma once

#include "core/live/programme.h"
#include "core/project/project.h"

namespace bathmos::session {

/// A programme as a record. Throws InputError for one without a name.
Entry programme_record(const live::Programme& programme, Id revision);
/// The programme that a record holds, by the record's name. Throws InputError where it holds none.
live::Programme programme_of(const Entry& record);
/// Programmes of a build, by number, latest last.
std::vector<Id> programmes_of(const Project& project, Id build);
/// That of a name, the latest; 0: none.
Id programme_named(const Project& project, Id build, const std::string& name);

} // namespace bathmos::session
