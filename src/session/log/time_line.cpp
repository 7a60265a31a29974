#include "session/log/time_line.h"

#include "core/life/part_life.h"
#include "core/problem/input_error.h"
#include "io/project/store.h"

#include <algorithm>
#include <fmt/format.h>
#include <future>
#include <thread>

namespace bathmos::session {

namespace {

const std::vector<LineKindInfo> kKinds = {
    {LineKind::Revision, "revision", "Revision"},
    {LineKind::Sheet, "sheet", "Sheet"},
    {LineKind::Run, "run", "Rig run"},
    {LineKind::Pull, "pull", "Pull"},
    {LineKind::Campaign, "plan", "Plan"},
    {LineKind::Verdict, "verdict", "Verdict"},
    {LineKind::Calibration, "calibration", "Calibration"},
    {LineKind::Waiver, "waiver", "Waiver"},
    {LineKind::Limits, "limits", "Limits"},
    {LineKind::Note, "note", "Note"},
    {LineKind::Use, "use", "Engine use"},
    {LineKind::Failure, "failure", "Failure"},
};

const std::vector<FailureMode> kModes = {
    {"broken", "broken"}, {"worn", "worn"},     {"galled", "galled"}, {"hammered", "hammered"},
    {"bent", "bent"},     {"marked", "marked"}, {"walked", "walked"},
};

constexpr std::pair<EntryKind, LineKind> kEntryLines[] = {
    {EntryKind::Sheet, LineKind::Sheet},     {EntryKind::RigRun, LineKind::Run},
    {EntryKind::DynoPull, LineKind::Pull},   {EntryKind::Plan, LineKind::Campaign},
    {EntryKind::Verdict, LineKind::Verdict}, {EntryKind::Calibration, LineKind::Calibration},
    {EntryKind::Waiver, LineKind::Waiver},
};

constexpr std::size_t kWorthWorkers = 200;     // revisions
constexpr std::string_view kFileKey = "file "; // of a record's words; the hash follows

std::string said_in(const Entry& entry, const std::string& key) {
    const auto at = entry.words.find(key);
    return at == entry.words.end() ? std::string() : at->second;
}

// Name and serial, of a part on the shelf or fitted.
std::string called(const auto& part) {
    return part.serial.empty() ? part.name : part.name + " " + part.serial;
}

void join(std::string& text, const std::string& more) {
    if (!more.empty())
        text += (text.empty() ? "" : text.ends_with('.') ? " " : "; ") + more;
}

// How all revisions are called: each by itself would count all before it.
std::map<Id, std::string> labels_of(const Project& project) {
    std::map<Id, std::size_t> places; // by build
    std::map<Id, std::string> out;
    for (const auto& [id, revision] : project.revisions)
        out[id] = Project::label_at(++places[revision.build], revision);
    return out;
}

// Build and revision in words.
void place(const Project& project, const std::map<Id, std::string>& labels, LogLine& line) {
    const auto at = project.revisions.find(line.revision);
    if (at == project.revisions.end())
        return;
    line.build = at->second.build;
    const auto build = project.builds.find(line.build);
    line.where = (build == project.builds.end() ? "" : build->second.name + " ") + labels.at(line.revision);
}

std::string use_words(const Entry& entry) {
    const auto use = life::use_in(entry);
    if (!use)
        return {};
    const auto& classes = use->use.classes();
    return fmt::format("{:.0f} cycles in {:.1f} min, up to {:.0f} rev/min", use->use.cycles(),
                       use->use.seconds() / 60, life::EngineUse::speed_of(classes.rbegin()->second));
}

LogLine line_of(const Project& project, LineKind kind, Id id, const Entry& entry) {
    LogLine out;
    out.kind = kind == LineKind::Note ? line_kind_of(entry) : kind;
    out.id = id;
    out.revision = entry.revision;
    out.when = entry.when;
    out.title = entry.name;
    out.text = entry.text;
    if (out.kind == LineKind::Failure)
        out.title += (out.title.empty() ? "" : ": ") + said_in(entry, "mode");
    join(out.text, said_in(entry, "place"));
    for (const char* key : {"changed", "answer", "decision"})
        join(out.text, said_in(entry, key));
    if (out.kind == LineKind::Use || out.kind == LineKind::Run)
        join(out.text, use_words(entry));
    join(out.text, entry.who);
    if (const auto part = project.parts.find(part_named(entry)); part != project.parts.end())
        out.parts.push_back(called(part->second));
    for (const auto& [key, name] : entry.words)
        if (key.starts_with(kFileKey)) {
            out.files.push_back({key.substr(kFileKey.size()), name});
            join(out.text, name);
        }
    return out;
}

LogLine line_of(const Project& project, Id id, const Revision& revision) {
    LogLine out{LineKind::Revision, id, id, revision.build, revision.when, revision.name,
                revision.reason,    ""};
    if (const auto parent = project.revisions.find(revision.parent); parent != project.revisions.end()) {
        std::size_t told = 0;
        for (const Difference& one : differences(parent->second.assembly, revision.assembly))
            if (++told <= 4)
                join(out.text, in_words(one));
        if (told > 4)
            join(out.text, fmt::format("and {} more", told - 4));
    }
    for (const auto& [kind, part] : revision.assembly.parts)
        if (part.part != 0)
            out.parts.push_back(called(part));
    return out;
}

// What changed in each, by all cores: to compare two whole trains is slow, and ten years have thousands.
std::vector<LogLine> revision_lines(const Project& project) {
    std::vector<const std::pair<const Id, Revision>*> all;
    for (const auto& one : project.revisions)
        all.push_back(&one);
    std::vector<LogLine> out(all.size());
    const auto chunk = [&](std::size_t from, std::size_t every) {
        for (std::size_t i = from; i < all.size(); i += every)
            out[i] = line_of(project, all[i]->first, all[i]->second);
    };
    const std::size_t workers =
        all.size() < kWorthWorkers ? 1 : std::max(1u, std::thread::hardware_concurrency());
    std::vector<std::future<void>> others;
    for (std::size_t i = 1; i < workers; ++i)
        others.push_back(std::async(std::launch::async, chunk, i, workers));
    chunk(0, workers);
    for (std::future<void>& other : others)
        other.get();
    return out;
}

std::string words_of(const LogLine& line) {
    std::string out = fmt::format("{}\n{}\n{}\n{}\n{}", line.title, line.text, line.where, line.when,
                                  kKinds[static_cast<std::size_t>(line.kind)].label);
    for (const std::string& part : line.parts)
        out += "\n" + part;
    return out;
}

std::vector<std::string> words_of(const std::vector<LogLine>& lines) {
    std::vector<std::string> out;
    out.reserve(lines.size());
    for (const LogLine& line : lines)
        out.push_back(words_of(line));
    return out;
}

// Parts that a line is about: of a revision those that it brought in, of all else those that were fitted.
std::set<Id> parts_of(const Project& project, const LogLine& line) {
    std::set<Id> out;
    const auto at = project.revisions.find(line.revision);
    if (at == project.revisions.end())
        return out;
    const auto parent = project.revisions.find(at->second.parent);
    for (const auto& [kind, part] : at->second.assembly.parts) {
        const FittedPart* before =
            parent == project.revisions.end() ? nullptr : parent->second.assembly.find(kind);
        if (line.kind != LineKind::Revision || !before || before->part != part.part)
            out.insert(part.part);
    }
    return out;
}

bool carries(const Assembly& assembly, Id part) {
    return std::ranges::any_of(assembly.parts, [&](const auto& one) { return one.second.part == part; });
}

[[noreturn]] void refuse_line(const std::string& where, const std::string& what, const std::string& mend) {
    throw InputError({"", where, what, mend});
}

} // namespace

const std::vector<LineKindInfo>& line_kinds() {
    return kKinds;
}

std::optional<LineKind> find_line_kind(std::string_view key) {
    const auto at = std::ranges::find(kKinds, key, &LineKindInfo::key);
    return at == kKinds.end() ? std::nullopt : std::optional(at->kind);
}

const std::vector<FailureMode>& failure_modes() {
    return kModes;
}

std::vector<LogLine> time_line(const Project& project) {
    const std::map<Id, std::string> labels = labels_of(project);
    std::vector<LogLine> out = revision_lines(project);
    for (const auto& [entry_kind, kind] : kEntryLines)
        for (const auto& [id, entry] : project.of(entry_kind))
            out.push_back(line_of(project, kind, id, entry));
    const auto& by_hand = project.of(EntryKind::Log);
    for (auto at = by_hand.rbegin(); at != by_hand.rend(); ++at)
        out.push_back(line_of(project, LineKind::Note, at->first, at->second));
    for (const auto& [id, set] : project.limits)
        if (!set.when.empty())
            out.push_back({LineKind::Limits, id, 0, 0, set.when, set.name, set.reason, ""});
    for (LogLine& line : out) {
        place(project, labels, line);
        if (line.kind == LineKind::Revision && line.title.empty())
            line.title = labels.at(line.id);
    }
    std::ranges::stable_sort(out, std::greater<>(), &LogLine::when);
    return out;
}

Log::Log(const Project& project) : lines_(time_line(project)), index_(words_of(lines_)) {
    for (const LogLine& line : lines_) {
        fitted_.push_back(parts_of(project, line));
        if (line.kind == LineKind::Failure || line.kind == LineKind::Note)
            if (const Id part = part_named(project.of(EntryKind::Log).at(line.id)); part != 0)
                fitted_.back() = {part};
    }
}

std::vector<std::size_t> Log::find(const LogFilter& filter) const {
    std::vector<std::size_t> out;
    for (const std::size_t i : index_.find(filter.words)) {
        const LogLine& line = lines_[i];
        if ((filter.kinds.empty() || filter.kinds.contains(line.kind)) &&
            (filter.build == 0 || line.build == filter.build) &&
            (filter.part == 0 || fitted_[i].contains(filter.part)))
            out.push_back(i);
    }
    return out;
}

Entry log_entry(const LogNote& note, const Project& project) {
    if (note.kind != LineKind::Note && note.kind != LineKind::Use && note.kind != LineKind::Failure)
        refuse_line("kind", "is not entered by hand", "note, use or failure");
    if (!note.when.empty() && !life::day_of(note.when))
        refuse_line("when", fmt::format("\"{}\" is no date", note.when),
                    "2026-02-27 or 2026-02-27T08:00:00Z");
    if (note.revision != 0 && !project.revisions.contains(note.revision))
        refuse_line("revision", fmt::format("{} is not there", note.revision), "a revision of the project");
    if (note.part != 0 && !project.parts.contains(note.part))
        refuse_line("part", fmt::format("{} is not there", note.part), "a part of the shelf");
    Entry out;
    out.name = note.title;
    out.text = note.text;
    out.who = note.who;
    out.revision = note.revision;
    out.when = note.when.empty() ? io::now_text() : note.when;
    if (note.part != 0)
        out.numbers["part"] = static_cast<double>(note.part);
    out.words["kind"] = kKinds[static_cast<std::size_t>(note.kind)].key;
    for (const LineFile& file : note.files)
        out.words[std::string(kFileKey) + file.hash] = file.name;
    if (note.kind == LineKind::Use) {
        if (note.use.classes().empty())
            refuse_line("use", "has no time at a speed", "a time and a speed, or a logger's file");
        if (note.revision == 0)
            refuse_line("revision", "is missing", "say which revision ran");
        if (!(note.runs >= 0 && note.runs < 1e6))
            refuse_line("runs", fmt::format("{:g}", note.runs), "a number of 0 or more");
        out.numbers.merge(life::as_numbers(note.use));
        out.numbers["runs"] = note.runs;
        if (out.name.empty())
            out.name = "Engine use";
    } else if (note.kind == LineKind::Failure) {
        if (std::ranges::find(kModes, note.mode, &FailureMode::key) == kModes.end())
            refuse_line("mode", fmt::format("\"{}\" is none", note.mode),
                        "broken, worn, galled, hammered, bent, marked or walked");
        if (note.part == 0)
            refuse_line("part", "is missing", "say which part of the shelf failed");
        if (note.revision == 0)
            refuse_line("revision", "is missing", "say in which revision it failed");
        if (!carries(project.revisions.at(note.revision).assembly, note.part))
            refuse_line("part", called(project.parts.at(note.part)) + " is not in that revision",
                        "show the revision that it failed in");
        if (out.name.empty())
            out.name = called(project.parts.at(note.part));
        out.words["mode"] = note.mode;
        if (!note.place.empty())
            out.words["place"] = note.place;
    } else if (out.name.empty() && !note.files.empty())
        out.name = note.files.front().name;
    else if (out.name.empty() && out.text.empty())
        refuse_line("text", "has no words", "write what was seen or done");
    return out;
}

LineKind line_kind_of(const Entry& entry) {
    return find_line_kind(said_in(entry, "kind")).value_or(LineKind::Note);
}

} // namespace bathmos::session
