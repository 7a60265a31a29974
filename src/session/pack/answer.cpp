#include "session/pack/answer.h"

#include "io/project/parts_csv.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

using io::RecordChange;
using io::RecordKind;

// The same numbers, whatever the part is called.
bool same_values(const Part& a, const Part& b) {
    Part alike = a;
    alike.name = b.name;
    alike.serial = b.serial;
    alike.note = b.note;
    alike.cost = b.cost;
    alike.history_known = b.history_known;
    return alike == b;
}

} // namespace

Answer answer_of(const Project& project, std::string_view text, const std::string& source) {
    Answer out;
    for (Part& part : io::parse_parts_csv(text, source)) {
        if (const auto problems = check_part(part); !problems.empty())
            throw InputError(problems.front()).in(source);
        if (std::ranges::any_of(project.parts,
                                [&](const auto& one) { return same_values(one.second, part); }))
            ++out.known;
        else
            out.parts.push_back(std::move(part));
    }
    return out;
}

Entry answer_note(const Answer& answer, const std::string& file, const std::string& who,
                  const std::string& when) {
    Entry out;
    out.name = "Answer of a maker";
    out.when = when;
    out.who = who;
    out.words["kind"] = "note";
    out.text = fmt::format("{}: {} parts put on the shelf", file, answer.parts.size());
    for (const Part& part : answer.parts)
        out.text += fmt::format("; {} ({})", part.name, info(part.kind).label);
    return out;
}

std::vector<Id> keep_answer(io::Store& store, const Answer& answer, const Entry& note) {
    std::vector<RecordChange> changes;
    std::vector<Id> out;
    Project made;
    for (const Part& part : answer.parts) {
        out.push_back(store.new_id(RecordKind::Part));
        made.parts[out.back()] = part;
        changes.push_back(
            {RecordKind::Part, out.back(), io::record_text(made, RecordKind::Part, out.back())});
    }
    const Id line = store.new_id(RecordKind::Log);
    made.of(EntryKind::Log)[line] = note;
    changes.push_back({RecordKind::Log, line, io::record_text(made, RecordKind::Log, line)});
    store.commit("Answer of a maker", {}, changes);
    return out;
}

} // namespace bathmos::session
