// The commands that tell others: report, pack.
#include "cli/arguments.h"
#include "cli/printing.h"
#include "cli/revision_choice.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/pack/pack_files.h"
#include "io/paper/paper_html.h"
#include "io/text/encoding.h"
#include "session/pack/answer.h"
#include "session/pack/pack.h"
#include "session/report/report.h"

#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct ReportOptions {
    Id run = 0;
    std::string project, out, question, who, date, units = "metric";
    RevisionChoice of;
    std::vector<std::string> without;
    bool quick = false;
};

struct PackOptions {
    Id run = 0;
    std::string project, out, to = "spring", question, who, date, units = "metric", check, answer;
    RevisionChoice of;
    bool quick = false;
};

std::vector<std::string> chapter_keys() {
    std::vector<std::string> out;
    for (const session::ChapterInfo& one : session::chapters())
        out.emplace_back(one.key);
    return out;
}

std::vector<std::string> audience_keys() {
    std::vector<std::string> out;
    for (const session::AudienceInfo& one : session::audiences())
        out.emplace_back(one.key);
    return out;
}

UnitSystem system_of(const std::string& units) {
    return units == "inch" ? UnitSystem::Inch : UnitSystem::Metric;
}

// A revision with all that was measured on it, judged.
struct Judged {
    session::ReportInput input;
    session::ReportFacts facts;
};
Judged judged(const io::Store& store, const std::string& path, const RevisionChoice& of, Id run, bool quick,
              const std::string& what, const std::stop_token& stop) {
    const auto trace = [&](Id id) { return store.trace(id); };
    session::CaseInput file =
        session::gather_case(store.project(), revision_of(store.project(), path, of), trace);
    file.calibrate = !quick;
    if (run != 0)
        session::rest_on(file, run, trace);
    Judged out{session::gather_report(std::move(file), trace), {}};
    session::Results results;
    out.facts = session::study_report(out.input, results, terminal_progress(what), stop);
    return out;
}

void report_command(const ReportOptions& o, const std::stop_token& stop) {
    require_apart({{"project", o.project}}, {{"--out", o.out}});
    const std::string date = date_asked(o.date);
    require_paper(o.out);
    const io::Store store = open_project(o.project);
    const Judged of = judged(store, o.project, o.of, o.run, o.quick, "report", stop);
    session::ReportAsked asked{o.question, o.who, date, {}, system_of(o.units)};
    for (const std::string& key : o.without)
        asked.without.insert(*session::find_chapter(key));
    write_paper(o.out, session::report_of(of.input, of.facts, asked), date);
}

void make_pack(const PackOptions& o, const std::stop_token& stop) {
    const session::PackAsked asked{*session::find_audience(o.to), o.question, o.who, date_asked(o.date),
                                   system_of(o.units)};
    if (o.out.empty())
        bad_argument("--out", "is missing", "give a new folder, or *.zip");
    require_apart({{"project", o.project}}, {{"--out", o.out}});
    const io::Store store = open_project(o.project);
    const Judged of = judged(store, o.project, o.of, o.run, o.quick, "pack", stop);
    const session::Pack pack = session::pack_of(of.input, of.facts, asked);
    if (std::filesystem::path(o.out).extension() == ".zip")
        io::write_pack_zip(o.out, pack.files, asked.date);
    else
        io::write_pack_folder(o.out, pack.files);
    for (const std::string& told : pack.told)
        note(told);
}

void check_pack(const PackOptions& o) {
    const io::Store store = open_project(o.project);
    const std::vector<std::string> problems = session::pack_problems(io::read_pack(o.check), store.project());
    for (const std::string& problem : problems)
        say(problem + "\n");
    if (!problems.empty())
        throw InputError({o.check, "", "should not go out as it is", "make the pack again"});
    say("the pack is whole and up to date\n");
}

void take_answer(const PackOptions& o) {
    io::Store store = open_project(o.project);
    const std::string file = io::shown_path(std::filesystem::path(o.answer).filename());
    const session::Answer answer = session::answer_of(store.project(), io::read_file(o.answer), o.answer);
    if (answer.known > 0)
        note(fmt::format("{} parts are on the shelf already, value for value", answer.known));
    if (answer.parts.empty())
        return say("nothing new\n");
    const std::vector<Id> ids =
        session::keep_answer(store, answer, session::answer_note(answer, file, o.who, io::now_text()));
    for (std::size_t i = 0; i < ids.size(); ++i)
        say(fmt::format("part {}: {}\n", ids[i], answer.parts[i].name));
}

void pack_command(const PackOptions& o, const std::stop_token& stop) {
    if (!o.answer.empty())
        return take_answer(o);
    if (!o.check.empty())
        return check_pack(o);
    make_pack(o, stop);
}

} // namespace

void define_report_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<ReportOptions>();
    CLI::App* report = add_command(app, "report", "Question, answer and evidence of a build, for others", o,
                                   stop, report_command);
    report->add_option("project", o->project, "Project, *.bathmos")->required();
    add_revision_choice(report, o->of);
    report->add_option("--out", o->out, "File to write: *.html (in one piece) or *.pdf")->required();
    report->add_option("--run", o->run, "Number of another rig run of the revision than its last");
    report->add_option("--question", o->question, "The question in your words");
    report->add_option("--who", o->who, "Who reports");
    report->add_option("--date", o->date, "Date that it bears, 2026-02-27; today");
    report->add_option("--units", o->units, "Units of its numbers")->check(CLI::IsMember({"metric", "inch"}));
    report->add_option("--without", o->without, "Chapters to leave out")
        ->check(CLI::IsMember(chapter_keys()));
    report->add_flag("--quick", o->quick, "Without calibrating a rig run that no calibration is kept of");

    const auto p = std::make_shared<PackOptions>();
    CLI::App* pack = add_command(app, "pack", "What a maker of one kind of part needs to see, and its answer",
                                 p, stop, pack_command);
    pack->add_option("project", p->project, "Project, *.bathmos")->required();
    add_revision_choice(pack, p->of);
    pack->add_option("--run", p->run, "Number of another rig run of the revision than its last");
    pack->add_option("--to", p->to, "Who it goes to")->check(CLI::IsMember(audience_keys()));
    pack->add_option("--question", p->question, "What is asked, in your words");
    pack->add_option("--out", p->out, "New folder, or *.zip");
    pack->add_option("--who", p->who, "Who asks");
    pack->add_option("--date", p->date, "Date that it bears, 2026-02-27; today");
    pack->add_option("--units", p->units, "Units of its page")->check(CLI::IsMember({"metric", "inch"}));
    pack->add_flag("--quick", p->quick, "Without calibrating a rig run that no calibration is kept of");
    pack->add_option(
        "--check", p->check,
        "Looks at a pack that was made: whether it is whole, up to date, and names no other maker's part");
    pack->add_option("--answer", p->answer, "Puts the parts of an answer.csv on the shelf");
}

} // namespace bathmos::cli
