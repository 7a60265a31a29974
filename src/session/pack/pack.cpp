#include "session/pack/pack.h"

#include "core/problem/input_error.h"
#include "core/project/limit_sets.h"
#include "io/file/content_hash.h"
#include "io/json/json.h"
#include "io/paper/paper_html.h"
#include "io/result/result_h5.h"
#include "io/train/train_file.h"
#include "session/pack/pack_view.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::session {

namespace {

using io::Json;

const std::vector<AudienceInfo> kAudiences = {
    {Audience::Lobe, "lobe", "lobe maker", {PartKind::Lobe}},
    {Audience::Spring, "spring", "spring maker", {PartKind::Spring}},
    {Audience::Rocker, "rocker", "rocker maker", {PartKind::Rocker, PartKind::Stand}},
    {Audience::Pushrod, "pushrod", "pushrod maker", {PartKind::Pushrod}},
    {Audience::Lifter, "lifter", "lifter maker", {PartKind::Lifter}},
    {Audience::Valve, "valve", "valve maker", {PartKind::Valve}},
};

// Names of other makers' parts are looked for in what a person can read.
bool is_text(const std::string& name) {
    return name.ends_with(".html") || name.ends_with(".json") || name.ends_with(".csv");
}

Json manifest_of(const PackView& view, const std::vector<io::PackFile>& files) {
    Json out = {{"format", "bathmos-pack"},
                {"version", 1},
                {"made_by", "Bathmos " + program_version()},
                {"date", view.asked.date},
                {"audience", view.audience.key},
                {"revision", view.input.of.revision},
                {"limits", view.input.of.limits.name},
                {"made_from", pack_made_from(view.project(), view.input.of.revision)},
                {"stops", view.stops()}};
    out["files"] = Json::array();
    for (const io::PackFile& file : files)
        out["files"].push_back(Json{
            {"name", file.name}, {"bytes", file.bytes.size()}, {"xxh128", io::content_hash(file.bytes)}});
    return out;
}

std::vector<std::string> told_of(const PackView& view) {
    std::vector<std::string> out;
    for (const std::string& stop : view.stops())
        out.push_back("STOP stands: " + stop);
    if (!view.run())
        out.push_back("no run of this revision: the pack has no measured traces");
    for (const std::string& name : view.masked())
        out.push_back(fmt::format("\"{}\" is another maker's part: masked", name));
    const Build& build = view.project().builds.at(view.revision().build);
    if (build.head != view.input.of.revision)
        out.push_back(fmt::format("{} is in hand by now, this is {}",
                                  view.project().revision_label(build.head),
                                  view.project().revision_label(view.input.of.revision)));
    return out;
}

std::string said(const Json& json, const char* key) {
    const auto at = json.find(key);
    return at != json.end() && at->is_string() ? at->get<std::string>() : std::string();
}

Json read_manifest(const std::vector<io::PackFile>& files) {
    const io::PackFile* file = io::find_file(files, "manifest.json");
    if (!file)
        throw InputError({"", "manifest.json", "is not there", "give the folder or zip of a pack"});
    try {
        Json json = io::parse_json(file->bytes);
        if (json.is_object() && said(json, "format") == "bathmos-pack" && json.contains("revision") &&
            json["revision"].is_number_integer() && json.contains("files") && json["files"].is_array())
            return json;
    } catch (const InputError& error) {
        throw error.in("manifest.json");
    }
    throw InputError({"manifest.json", "format", "is that of no pack", "make the pack again"});
}

// Each file as it was written.
void check_files(const Json& manifest, const std::vector<io::PackFile>& files,
                 std::vector<std::string>& out) {
    std::set<std::string> known = {"manifest.json"};
    for (const Json& one : manifest["files"]) {
        const std::string name = said(one, "name");
        known.insert(name);
        const io::PackFile* file = io::find_file(files, name);
        if (!file)
            out.push_back(name + " is missing");
        else if (io::content_hash(file->bytes) != said(one, "xxh128"))
            out.push_back(name + " was changed after the pack was made");
    }
    std::set<std::string> seen;
    for (const io::PackFile& file : files)
        if (!known.contains(file.name) || !seen.insert(file.name).second)
            out.push_back(file.name + " is no file of the pack");
}

} // namespace

const std::vector<AudienceInfo>& audiences() {
    return kAudiences;
}

std::optional<Audience> find_audience(std::string_view key) {
    const auto at = std::ranges::find(kAudiences, key, &AudienceInfo::key);
    return at == kAudiences.end() ? std::nullopt : std::optional(at->audience);
}

std::string pack_made_from(const Project& project, Id revision) {
    std::string all = io::train_text(project.revisions.at(revision).assembly.train);
    for (const auto& [id, run] : project.of(EntryKind::RigRun))
        if (run.revision == revision && !is_hidden(run))
            all += fmt::format("run {}\n", id);
    return hash_of(all, in_force(limit_set_of(project)));
}

Pack pack_of(const ReportInput& input, const ReportFacts& facts, const PackAsked& asked) {
    if (asked.question.find_first_not_of(" \t\r\n") == std::string::npos)
        throw InputError({"", "question", "is empty", "say in your words what the maker is asked"});
    const PackView view(input, facts, asked);
    Pack out;
    out.files = {{"page.html", io::paper_html(pack_page(view))},
                 {"numbers.json", pack_numbers(view)},
                 {"lift.csv", pack_traces(view)},
                 {"answer.csv", pack_answer_form(view)},
                 {"motions.h5", io::motions_h5(pack_motions(view), facts.rigid_m,
                                               view.open(facts.file.build + " " + facts.file.state),
                                               input.of.limits.name, "motions.h5")}};
    out.files.push_back({"manifest.json", io::json_text(manifest_of(view, out.files), 1) + "\n"});
    for (const io::PackFile& file : out.files)
        if (is_text(file.name))
            for (const std::string& name : view.others.found_in(file.bytes))
                throw InputError({file.name, "", fmt::format("names \"{}\", another maker's part", name),
                                  "call it otherwise where the sender's own records do"});
    out.told = told_of(view);
    return out;
}

std::vector<std::string> pack_problems(const std::vector<io::PackFile>& files, const Project& project) {
    const Json manifest = read_manifest(files);
    const Id revision = manifest["revision"].get<Id>();
    const auto audience = find_audience(said(manifest, "audience"));
    if (!project.revisions.contains(revision) || !audience)
        throw InputError(
            {"manifest.json", "revision", "is none of this project", "give the project it is of"});
    std::vector<std::string> out;
    check_files(manifest, files, out);
    if (said(manifest, "made_from") != pack_made_from(project, revision))
        out.push_back(
            "the project has gone on since: train, limits, runs or program are others; make it again");
    const Build& build = project.builds.at(project.revisions.at(revision).build);
    if (build.head != revision)
        out.push_back(fmt::format("{} is in hand by now, the pack is of {}",
                                  project.revision_label(build.head), project.revision_label(revision)));
    const OtherMakers others(project, kAudiences[static_cast<std::size_t>(*audience)].own);
    for (const io::PackFile& file : files)
        if (is_text(file.name))
            for (const std::string& name : others.found_in(file.bytes))
                out.push_back(fmt::format("{} names \"{}\", another maker's part", file.name, name));
    if (manifest.contains("stops") && manifest["stops"].is_array())
        for (const Json& stop : manifest["stops"])
            if (stop.is_string())
                out.push_back("STOP stood: " + stop.get<std::string>());
    return out;
}

} // namespace bathmos::session
