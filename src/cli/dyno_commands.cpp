#include "cli/dyno_commands.h"

#include "core/problem/input_error.h"
#include "core/verdict/changes.h"
#include "io/dyno/pull_file.h"
#include "io/dyno/pull_json.h"
#include "io/file/safe_file.h"
#include "io/project/store.h"
#include "io/verdict/case_input.h"
#include "io/verdict/help_json.h"

#include <filesystem>
#include <fmt/format.h>

namespace bathmos::cli {

namespace {

std::vector<io::PullReport> reports_of(const std::string& path, bool correct, const std::stop_token& stop) {
    std::vector<io::PullReport> out;
    try {
        for (const Pull& pull : io::read_pulls(path, stop))
            out.push_back(io::report_on(pull, correct));
    } catch (const InputError& error) {
        throw error.problem().source.empty() ? error.in(path) : error;
    }
    return out;
}

StateCurve curve_of_state(const std::vector<io::PullReport>& reports) {
    std::vector<const PullAnalysis*> pulls;
    for (const io::PullReport& r : reports)
        pulls.push_back(&r.analysis);
    return state_curve(pulls);
}

std::string curve_csv(const std::vector<io::PullReport>& reports) {
    std::string out = "pull,rpm,power_kW,trend_kW,sigma_kW\n";
    for (const io::PullReport& r : reports)
        for (std::size_t i = 0; i < r.analysis.curve.size(); ++i)
            out += fmt::format("{},{:.1f},{:.3f},{:.3f},{:.3f}\n", r.name, r.analysis.curve.speed_rpm[i],
                               r.analysis.curve.power_W[i] / 1e3, r.analysis.trend_W[i] / 1e3,
                               r.analysis.curve.sigma_W[i] / 1e3);
    return out;
}

void pull_command(const DynoOptions& o, const std::stop_token& stop) {
    const std::vector<io::PullReport> reports = reports_of(o.pull, o.correct, stop);
    std::optional<StateDifference> change;
    if (!o.against.empty()) {
        const std::vector<io::PullReport> before = reports_of(o.against, o.correct, stop);
        const Pull here = io::read_pulls(o.pull, stop).front(), there = io::read_pulls(o.against, stop).front();
        if (here.corrected != there.corrected)
            throw InputError({o.against, "correction", "one file is corrected and the other is not",
                              "compare pulls of one kind"});
        change = difference(curve_of_state(before), curve_of_state(reports));
    }
    if (!o.out.empty())
        io::write_file(o.out, curve_csv(reports));
    io::write_file(o.summary, io::pull_json(reports, change));
}

// The build of a name, and its revision in hand unless another one is asked for.
Id revision_of(const Project& project, const DynoOptions& o) {
    if (o.revision) {
        if (!project.revisions.contains(o.revision))
            throw InputError({o.project, "--revision", fmt::format("{} is not there", o.revision),
                              "give the number of a revision"});
        return o.revision;
    }
    std::string names;
    for (const auto& [id, build] : project.builds) {
        if (build.name == o.build)
            return build.head;
        names += (names.empty() ? "" : ", ") + build.name;
    }
    throw InputError({o.project, "--build", fmt::format("\"{}\" is not there", o.build), "give one of: " + names});
}

void print_plain(const Verdict& v) {
    fmt::print("{}\n{}\n\n", v.question, v.answer);
    for (std::size_t i = 0; i < std::min<std::size_t>(4, v.weighing.causes.size()); ++i) {
        const WeighedCause& c = v.weighing.causes[i];
        fmt::print("{:5.1f} %  {}\n", 100 * c.probability, info(c.cause).label);
        for (std::size_t k = 0; k < std::min<std::size_t>(4, c.arguments.size()); ++k)
            fmt::print("          {} {}\n", c.arguments[k].weight > 0 ? "+" : "-",
                       v.evidence[c.arguments[k].evidence].text);
    }
    if (!v.next.empty())
        fmt::print("\nNext: {} ({:g} h). {}\n", v.next.front().trial->label, v.next.front().trial->hours,
                   v.next.front().trial->how);
    for (const std::string& missing : v.missing)
        fmt::print("missing: {}\n", missing);
}

void diagnose_command(const DynoOptions& o, const std::stop_token& stop) {
    const io::Store store = io::Store::open(o.project);
    const Id revision = revision_of(store.project(), o);
    const io::CaseInput input =
        io::gather_case(store.project(), revision, [&](Id id) { return store.trace(id); });
    FactsQuery query;
    query.stop = stop;
    const CaseFile file = io::open_case(input, query);
    const Verdict verdict = judge(file);
    io::HelpText help;
    if (o.changes)
        help = io::help_for(input, file, verdict, {}, stop);
    if (o.json)
        fmt::print("{}", io::verdict_json(file, verdict, o.changes ? &help : nullptr));
    else
        print_plain(verdict);
}

void keep_command(const DynoOptions& o, const std::stop_token& stop) {
    const std::vector<Pull> pulls = io::read_pulls(o.pull, stop);
    io::Store store = io::Store::open(o.project);
    Project next = store.project();
    const Id revision = o.revision;
    if (!next.revisions.contains(revision))
        throw InputError({o.project, "--revision", fmt::format("{} is not there", o.revision),
                          "give the number of a revision of the project"});
    std::vector<io::RecordChange> changes;
    for (const Pull& pull : pulls) {
        const Id id = store.new_id(io::RecordKind::DynoPull);
        Entry& entry = next.of(EntryKind::DynoPull)[id];
        entry.name = pull.name;
        entry.revision = revision;
        entry.when = io::now_text();
        entry.text = o.notes;
        if (!o.changed.empty())
            entry.words["changed"] = o.changed;
        if (!o.fuel.empty())
            entry.words["fuel"] = o.fuel;
        if (o.boost_kPa)
            entry.numbers["boost_kPa"] = *o.boost_kPa;
        if (pull.corrected)
            entry.numbers["corrected"] = 1;
        entry.traces = {store.add_trace(io::packed(io::trace_of(pull)))};
        changes.push_back({io::RecordKind::DynoPull, id, io::record_text(next, io::RecordKind::DynoPull, id)});
    }
    store.commit(fmt::format("{} pull(s) of {}", pulls.size(), std::filesystem::path(o.pull).filename().string()), "",
                 changes);
}

} // namespace

void define_dyno(CLI::App& app, DynoOptions& o) {
    CLI::App* pull = app.add_subcommand("pull", "What a dyno pull says: peaks, break, roughness, what else moved");
    pull->add_option("pull", o.pull, "Pull, delimited text; several pulls in a file are told apart")->required();
    pull->add_option("--against", o.against, "Pull or pulls of the state before: the difference with its band");
    pull->add_flag("--correct", o.correct, "Correct by SAE J1349 instead of taking it as recorded");
    pull->add_option("--out", o.out, "CSV of readings and trend to write");
    pull->add_option("--summary", o.summary, "JSON to write")->required();

    CLI::App* diagnose = app.add_subcommand("diagnose", "Why a build stops where it does, and what to test next");
    diagnose->add_option("project", o.project, "Project, *.bathmos")->required();
    diagnose->add_option("--build", o.build, "Name of the build");
    diagnose->add_option("--revision", o.revision, "Number of another revision than the one in hand");
    diagnose->add_flag("--json", o.json, "JSON on standard output");
    diagnose->add_flag("--changes", o.changes, "Also what would help: takes a minute or more");

    CLI::App* keep = app.add_subcommand("keep-pull", "Keep the pulls of a file in a project, with their revision");
    keep->add_option("project", o.project, "Project, *.bathmos")->required();
    keep->add_option("pull", o.pull, "Pull, delimited text")->required();
    keep->add_option("--revision", o.revision, "Number of the revision that was pulled")->required();
    keep->add_option("--changed", o.changed, "What else was changed, such as \"smaller blower pulley\"");
    keep->add_option("--fuel", o.fuel, "Fuel");
    keep->add_option("--boost-kPa", o.boost_kPa, "Boost as set, above ambient");
    keep->add_option("--notes", o.notes, "Notes");
}

bool run_dyno(const std::string& command, const DynoOptions& o, const std::stop_token& stop) {
    if (command == "pull")
        pull_command(o, stop);
    else if (command == "diagnose")
        diagnose_command(o, stop);
    else if (command == "keep-pull")
        keep_command(o, stop);
    else
        return false;
    return true;
}

} // namespace bathmos::cli
