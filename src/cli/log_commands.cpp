// The commands of the record: log, life, between.
#include "cli/revision_choice.h"
#include "core/problem/input_error.h"
#include "io/file/content_hash.h"
#include "io/file/safe_file.h"
#include "io/life/use_file.h"
#include "io/text/encoding.h"
#include "io/train/train_file.h"
#include "session/compare/revision_comparison.h"
#include "session/log/log_json.h"
#include "session/project/keeping.h"
#include "session/results/sweep_range.h"

#include <algorithm>
#include <filesystem>
#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct LogOptions {
    std::string project, words, part, summary;
    std::vector<std::string> kinds;
    // what is added
    std::string add, title, text, who, when, mode, place, use;
    std::vector<std::string> stated, files;
    std::string take, out;
    Id revision = 0;
    double runs = 1;
};

struct LifeOptions {
    std::string project, train, use, today, summary, wire;
    double limit_rpm = 0;
    bool without_wire = false;
};

// By number, serial or name; 0 for "".
Id find_part(const Project& project, const std::string& asked) {
    if (asked.empty())
        return 0;
    for (const auto& [id, part] : project.parts)
        if (part.serial == asked || part.name == asked || std::to_string(id) == asked ||
            part.name + " " + part.serial == asked)
            return id;
    bad_argument("--part", fmt::format("\"{}\" is not on the shelf", asked),
                 "give a serial, a name or a number");
}

life::StatedUse stated_use(const std::string& text) {
    const auto at = text.find(':');
    if (at == std::string::npos)
        bad_argument("--at", fmt::format("\"{}\" is no speed and time", text),
                     "give RPM:SECONDS, such as 7000:120");
    return {plain_number(text.substr(at + 1), "--at"), plain_number(text.substr(0, at), "--at")};
}

session::LogNote note_of(const LogOptions& o, const Project& project, const std::stop_token& stop) {
    session::LogNote out;
    out.kind = session::find_line_kind(o.add).value_or(session::LineKind::Revision);
    out.title = o.title;
    out.text = o.text;
    out.who = o.who;
    out.when = o.when;
    out.revision = o.revision;
    out.part = find_part(project, o.part);
    out.mode = o.mode;
    out.place = o.place;
    out.runs = o.runs;
    if (!o.use.empty()) {
        const life::LoggedUse logged = io::read_use(o.use, {}, stop);
        if (logged.gaps > 0)
            note(fmt::format("{} gaps of together {:.0f} s left out", logged.gaps, logged.left_out_s));
        if (logged.lost > 0)
            note(fmt::format("{} readings that no engine has left out", logged.lost));
        out.use = logged.use;
        if (out.title.empty())
            out.title = io::shown_path(std::filesystem::path(o.use).filename());
    }
    std::vector<life::StatedUse> stated;
    for (const std::string& one : o.stated)
        stated.push_back(stated_use(one));
    out.use.add(life::use_of(stated));
    return out;
}

void add_line(const LogOptions& o, const std::stop_token& stop) {
    io::Store store = open_project(o.project);
    session::LogNote adding = note_of(o, store.project(), stop);
    std::vector<std::string> files;
    for (const std::string& file : o.files) {
        files.push_back(io::read_file(file, io::kMostKeptBytes));
        adding.files.push_back(
            {io::content_hash(files.back()), io::shown_path(std::filesystem::path(file).filename())});
    }
    const Entry entry = session::log_entry(adding, store.project());
    for (const std::string& file : files) // once nothing more can refuse it
        store.add_file(file);
    const Id id = session::keep_log_entry(store, entry);
    say(fmt::format("log entry {}\n", id));
}

std::string first_line(const std::string& text) {
    return text.substr(0, text.find('\n'));
}

void tell_log(const LogOptions& o, const std::stop_token& stop) {
    require_apart({{"project", o.project}, {"--use", o.use}}, {{"--summary", o.summary}, {"--out", o.out}});
    if (o.take.empty() != o.out.empty())
        bad_argument("--out", "goes with --take", "give both, or neither");
    if (!o.add.empty())
        return add_line(o, stop);
    const io::Store store = open_project(o.project);
    if (!o.take.empty())
        return io::write_file(o.out, store.file(o.take));
    session::LogFilter filter;
    filter.words = o.words;
    filter.part = find_part(store.project(), o.part);
    for (const std::string& kind : o.kinds)
        filter.kinds.insert(*session::find_line_kind(kind));
    const session::Log whole(store.project());
    std::vector<session::LogLine> found;
    for (const std::size_t i : whole.find(filter))
        found.push_back(whole.lines()[i]);
    if (!o.summary.empty())
        return write_if(o.summary, session::log_json(found));
    std::string out;
    for (const session::LogLine& line : found)
        out += fmt::format("{:<20} {:<11} {}{}{}{}\n", line.when,
                           session::line_kinds()[static_cast<std::size_t>(line.kind)].label, line.title,
                           line.where.empty() ? "" : " · " + line.where, line.text.empty() ? "" : ": ",
                           first_line(line.text));
    say(out);
}

std::string table_of(const session::PartAges& ages) {
    std::string out;
    for (const session::AgedPart& part : ages.parts) {
        const life::PartLife& life = part.life;
        out += fmt::format("{:<9} {:<28} {:9.3f} million cycles {:8.2f} h {:4.0f} runs",
                           info(part.kind).label, part.name + (part.serial.empty() ? "" : " " + part.serial),
                           life.cycles * 1e-6, life.hours, life.runs);
        if (life.claims.empty())
            out += "  nobody says how long it lasts\n";
        else
            out += fmt::format("  {:.0f} % by {}{}{}{}\n", 100 * life.claims.front().used,
                               session::name_of(life.claims.front().rule),
                               life.claims.front().estimated ? " (estimate)" : "",
                               life.over()  ? ", OVER"
                               : life.due() ? ", DUE"
                                            : "",
                               life.over_day && *life.over_day < session::kFurthestDay && !life.over()
                                   ? ", over on " + session::date_text(*life.over_day)
                                   : "");
    }
    return out;
}

void life_of_project(const LifeOptions& o, const std::stop_token& stop) {
    const io::Store store = open_project(o.project);
    const std::string today = o.today.empty() ? io::now_text() : o.today;
    const auto day = life::day_of(today);
    if (!day)
        bad_argument("--today", fmt::format("\"{}\" is no date", o.today), "give YYYY-MM-DD");
    session::FatigueByRevision fatigue;
    if (!o.without_wire)
        fatigue = session::fatigue_by_revision(store.project(), life::use_by_part(store.project()),
                                               terminal_progress("wire"), stop);
    const session::PartAges ages =
        session::part_ages(store.project(), *day, o.without_wire ? nullptr : &fatigue);
    if (ages.silent > 0)
        note(fmt::format("{} records say nothing of time and speed: not counted", ages.silent));
    if (!o.summary.empty())
        return write_if(o.summary, session::ages_json(ages));
    say(table_of(ages));
}

void life_of_use(const LifeOptions& o, const std::stop_token& stop) {
    const life::LoggedUse use =
        io::read_use(o.use, o.limit_rpm > 0 ? std::optional(o.limit_rpm) : std::nullopt, stop);
    std::vector<life::SpringFatigue> springs;
    if (!o.train.empty())
        springs = life::fatigue_of(io::read_train(o.train), life::speeds_of(use.use), o.wire, stop);
    if (!o.summary.empty())
        return write_if(o.summary, session::use_json(use, springs));
    std::string out = fmt::format("{:.0f} cycles in {:.3f} h; {} excursions\n", use.use.cycles(),
                                  use.use.seconds() / 3600, use.excursions.size());
    for (const life::SpringFatigue& spring : springs)
        out += spring.none.empty() ? fmt::format("{}: {:.3g} of its wire's life (estimate)\n", spring.spring,
                                                 spring.share(use.use))
                                   : fmt::format("{}: {}\n", spring.spring, spring.none);
    say(out);
}

void tell_life(const LifeOptions& o, const std::stop_token& stop) {
    require_apart({{"project", o.project}, {"--use", o.use}, {"--train", o.train}},
                  {{"--summary", o.summary}});
    if (o.project.empty() == o.use.empty())
        bad_argument("project", "one of a project and --use is needed", "give PROJECT, or --use FILE");
    return o.use.empty() ? life_of_project(o, stop) : life_of_use(o, stop);
}

struct BetweenOptions {
    std::string project, summary;
    RevisionChoice of;
    Id good = 0, bad = 0;
};

std::string between_text(const std::vector<session::SeenState>& states,
                         const session::BetweenStates* between) {
    constexpr std::string_view kMarks[] = {"not known", "good", "bad"};
    std::string out;
    for (const session::SeenState& state : states)
        out += fmt::format("{:<24} {:<10} {}\n", state.label, kMarks[static_cast<std::size_t>(state.mark)],
                           fmt::join(state.why, "; "));
    if (!between)
        return out + "no good state is followed by a bad one; name them with --good and --bad\n";
    const auto speed = [](const std::optional<double>& rpm) {
        return rpm ? fmt::format("{:.0f}", *rpm) : std::string("none in the range");
    };
    out += fmt::format("\n{} to {}: the model's limit goes from {} to {} rev/min\n", between->changes.from,
                       between->changes.to, speed(between->good_rpm), speed(between->bad_rpm));
    for (const StateChange& one : between->changes.changes)
        out += fmt::format("{}  {}\n",
                           one.undone_gain_rpm ? fmt::format("{:+6.0f}", *one.undone_gain_rpm) : "     –",
                           one.text.in_words());
    if (between->cycles > 0)
        out += fmt::format("{:.0f} cycles were run with the good one\n", between->cycles);
    return out;
}

void tell_between(const BetweenOptions& o, const std::stop_token& stop) {
    require_apart({{"project", o.project}}, {{"--summary", o.summary}});
    const io::Store store = open_project(o.project);
    const Project& project = store.project();
    const Id revision = revision_of(project, o.project, o.of);
    session::Results results;
    const session::SeenInput input =
        session::gather_seen(project, revision, [&](Id id) { return store.trace(id); });
    const std::vector<session::SeenState> states =
        session::seen_states(input, results, terminal_progress("states"), stop);
    session::GoodBad of = session::last_good_first_bad(states);
    if (o.good != 0)
        of.good = o.good;
    if (o.bad != 0)
        of.bad = o.bad;
    std::optional<session::BetweenStates> between;
    if (of.good != 0 && of.bad != 0) {
        const auto at = project.revisions.find(of.bad);
        if (at == project.revisions.end())
            bad_argument("--bad", fmt::format("{} is not there", of.bad), "give the number of a revision");
        const auto figures = session::figures_of_revision(at->second);
        between = session::study_between(
            project, of, session::usual_range(figures ? &*figures : nullptr, input.target_rpm), input.limits,
            results, terminal_progress("between"), stop);
    }
    const session::BetweenStates* found = between ? &*between : nullptr;
    if (!o.summary.empty())
        return write_if(o.summary, session::between_json(states, found));
    say(between_text(states, found));
}

std::vector<std::string> kind_keys() {
    std::vector<std::string> out;
    for (const session::LineKindInfo& one : session::line_kinds())
        out.emplace_back(one.key);
    return out;
}

} // namespace

void define_log_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<LogOptions>();
    CLI::App* lines =
        add_command(app, "log", "The time line of a project, or a line more", o, stop, tell_log);
    lines->add_option("project", o->project, "Project, *.bathmos")->required();
    lines->add_option("--words", o->words, "Lines that hold all these words, or words that begin so");
    lines->add_option("--kind", o->kinds, "Lines of these kinds")->check(CLI::IsMember(kind_keys()));
    lines->add_option("--part", o->part,
                      "Lines about a part: its serial, name or number; of what is added, the part");
    lines->add_option("--summary", o->summary, "JSON to write");
    lines->add_option("--add", o->add, "Adds a line")->check(CLI::IsMember({"note", "use", "failure"}));
    lines->add_option("--title", o->title, "Its title");
    lines->add_option("--text", o->text, "Its words");
    lines->add_option("--who", o->who, "Who says so");
    lines->add_option("--when", o->when, "Date, 2026-02-27 or 2026-02-27T08:00:00Z; now");
    lines->add_option("--revision", o->revision, "Number of the revision that it belongs to");
    lines->add_option("--mode", o->mode, "How the part failed")
        ->check(CLI::IsMember({"broken", "worn", "galled", "hammered", "bent", "marked", "walked"}));
    lines->add_option("--place", o->place, "Where on it");
    lines->add_option("--use", o->use, "A logger's file: time and crank speed");
    lines->add_option("--at", o->stated, "RPM:SECONDS that the engine ran");
    lines->add_option("--file", o->files, "A photo or another file to keep with it, 32 MB at most");
    lines->add_option("--take", o->take, "Hash of a kept file, to be written to --out");
    lines->add_option("--out", o->out, "Where to");
    lines->add_option("--runs", o->runs, "Starts to stops of that use")->check(between(0, 1e6));

    const auto p = std::make_shared<LifeOptions>();
    CLI::App* ages =
        add_command(app, "life", "What use has cost the parts of a project, or a logger's file a train", p,
                    stop, tell_life);
    ages->add_option("project", p->project, "Project, *.bathmos");
    ages->add_option("--use", p->use, "A logger's file in place of a project");
    ages->add_option("--train", p->train, "Train whose springs it wore");
    ages->add_option("--wire", p->wire, "Their wire")
        ->check(CLI::IsMember({"chrome_silicon", "chrome_vanadium", "music", "oil_tempered"}));
    ages->add_option("--limit", p->limit_rpm, "Speed beyond which excursions are told, rev/min")
        ->check(between(100, 30000));
    ages->add_option("--today", p->today, "Date that due dates count from; now");
    ages->add_flag("--without-wire", p->without_wire, "Not the wires' life by the model: at once");
    ages->add_option("--summary", p->summary, "JSON to write");

    const auto b = std::make_shared<BetweenOptions>();
    CLI::App* between = add_command(app, "between", "What lies between the last good and the first bad state",
                                    b, stop, tell_between);
    between->add_option("project", b->project, "Project, *.bathmos")->required();
    add_revision_choice(between, b->of);
    between->add_option("--good", b->good, "Number of another revision that was good");
    between->add_option("--bad", b->bad, "Number of another one that was bad");
    between->add_option("--summary", b->summary, "JSON to write");
}

} // namespace bathmos::cli
