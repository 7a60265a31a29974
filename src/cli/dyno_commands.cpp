// The commands about the dyno and the verdict: pull, diagnose, keep-pull, and the stand-in dyno.
#include "cli/revision_choice.h"
#include "core/problem/input_error.h"
#include "core/verdict/changes.h"
#include "io/dyno/pull_file.h"
#include "io/dyno/pull_json.h"
#include "io/file/safe_file.h"
#include "io/project/store.h"
#include "io/text/encoding.h"
#include "io/train/train_file.h"
#include "io/verdict/verdict_json.h"
#include "session/cases/change_study.h"
#include "session/project/keeping.h"
#include "standin/dyno/dyno.h"

#include <filesystem>
#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct DynoOptions {
    std::string pull, against, summary, out; // of pull
    bool correct = false;
    std::string project; // of diagnose
    RevisionChoice of;
    bool json = false, changes = false, quick = false;
    std::string changed, fuel, notes, when; // of keep-pull
    std::optional<double> boost_kPa;
    std::string true_train; // of stand-in-pull
    std::vector<std::string> faults;
    double torque_Nm = 235, first_rpm = 4000, last_rpm = 8650, scatter = 0.005;
    unsigned seed = 1;
    std::size_t rows = 235;
    std::vector<std::string> not_logged;
};

std::vector<PullReport> reports_of(const std::string& path, bool correct, const std::stop_token& stop) {
    std::vector<PullReport> out;
    try {
        for (const Pull& pull : io::read_pulls(path, stop))
            out.push_back(report_on(pull, correct, stop));
    } catch (const InputError& error) {
        throw error.problem().source.empty() ? error.in(path) : error;
    }
    return out;
}

std::vector<const PullAnalysis*> analyses_of(const std::vector<PullReport>& reports) {
    std::vector<const PullAnalysis*> out;
    for (const PullReport& r : reports)
        out.push_back(&r.analysis);
    return out;
}

std::string curve_csv(const std::vector<PullReport>& reports) {
    std::string out = "pull,rpm,power_kW,trend_kW,sd_kW\n";
    for (const PullReport& r : reports)
        for (std::size_t i = 0; i < r.analysis.curve.size(); ++i)
            out += fmt::format("{},{:.1f},{:.3f},{:.3f},{:.3f}\n", r.name, r.analysis.curve.speed_rpm[i],
                               r.analysis.curve.power_W[i] / 1e3, r.analysis.trend_W[i] / 1e3,
                               r.analysis.curve.sd_W[i] / 1e3);
    return out;
}

void pull_command(const DynoOptions& o, const std::stop_token& stop) {
    require_apart({{"pull", o.pull}, {"--against", o.against}}, {{"--out", o.out}, {"--summary", o.summary}});
    const std::vector<PullReport> reports = reports_of(o.pull, o.correct, stop);
    std::optional<StateDifference> change;
    std::optional<StateBreak> against;
    if (!o.against.empty()) {
        const std::vector<PullReport> before = reports_of(o.against, o.correct, stop);
        try {
            change = difference(state_curve(analyses_of(before)), state_curve(analyses_of(reports)));
            against = break_against(analyses_of(before), analyses_of(reports));
        } catch (const InputError& error) {
            throw error.in(o.against);
        }
    }
    for (const PullReport& report : reports)
        for (const std::string& reading : report.pull.cannot_be)
            note(report.name + ": taken as lost: " + reading);
    if (!o.out.empty())
        io::write_file(o.out, curve_csv(reports));
    io::write_file(o.summary, io::pull_json(reports, change, against));
}

std::string plain_text(const Verdict& v) {
    std::string out = fmt::format("{}\n{}\n", v.question, v.answer);
    if (!v.valve_answer.empty())
        out += v.valve_answer + "\n";
    out += "\n";
    for (std::size_t i = 0; i < std::min<std::size_t>(4, v.weighing.causes.size()); ++i) {
        const WeighedCause& c = v.weighing.causes[i];
        out += fmt::format("{:5.1f} %  {}\n", 100 * c.probability, info(c.cause).label);
        for (std::size_t k = 0; k < std::min<std::size_t>(4, c.arguments.size()); ++k)
            out += fmt::format("          {} {}\n", c.arguments[k].weight > 0 ? "+" : "-",
                               v.evidence[c.arguments[k].evidence].text.in_words());
    }
    if (!v.next.empty())
        out += fmt::format("\nNext: {} ({:g} h). {}\n", v.next.front().trial->label,
                           v.next.front().trial->hours, v.next.front().trial->how);
    for (const std::string& missing : v.missing)
        out += fmt::format("missing: {}\n", missing);
    return out;
}

void diagnose_command(const DynoOptions& o, const std::stop_token& stop) {
    const io::Store store = open_project(o.project);
    const Id revision = revision_of(store.project(), o.project, o.of);
    session::CaseInput input =
        session::gather_case(store.project(), revision, [&](Id id) { return store.trace(id); });
    input.calibrate = !o.quick;
    session::Results results;
    const CaseFile file = session::open_case(input, results, terminal_progress("diagnose"), stop);
    const Verdict verdict = judge(file);
    ChangeStudy study;
    if (o.changes)
        study = session::study_changes(input, file, verdict, session::changes_of_case(input),
                                       {{}, {}, terminal_progress("changes"), stop});
    if (o.json)
        fmt::print("{}", io::verdict_json(file, verdict, o.changes ? &study : nullptr));
    else
        say(plain_text(verdict));
}

void keep_command(const DynoOptions& o, const std::stop_token& stop) {
    const std::vector<Pull> pulls = io::read_pulls(o.pull, stop);
    io::Store store = open_project(o.project);
    std::vector<session::NotedPull> noted;
    for (const Pull& pull : pulls)
        noted.push_back(
            session::noted(pull, {o.of.revision, o.notes, o.changed, o.fuel, o.boost_kPa, o.when}));
    session::note_use(noted, o.pull, stop);
    session::keep_pulls(store, io::shown_path(std::filesystem::path(o.pull).filename()), noted);
}

[[noreturn]] void bad_fault(const std::string& text) {
    std::string keys;
    for (std::size_t i = 0; i < kConfounders; ++i)
        keys += (keys.empty() ? "" : ", ") + std::string(info(static_cast<Confounder>(i)).key);
    throw InputError({"", "--fault", fmt::format("\"{}\" is no fault", text),
                      "give KEY@RPM or KEY@RPM@STRENGTH, such as belt_slip@6200@1; keys: " + keys});
}

standin::Fault parse_fault(const std::string& text) {
    const std::vector<std::string> parts = CLI::detail::split(text, '@');
    if (parts.size() < 2 || parts.size() > 3)
        bad_fault(text);
    standin::Fault out{Confounder::Count};
    for (std::size_t i = 0; i < kConfounders; ++i)
        if (info(static_cast<Confounder>(i)).key == parts[0])
            out.kind = static_cast<Confounder>(i);
    try {
        out.onset_rpm = plain_number(parts[1], "--fault");
        out.strength = parts.size() == 3 ? plain_number(parts[2], "--fault") : 1;
    } catch (const CLI::ValidationError&) {
        bad_fault(text);
    }
    if (out.kind == Confounder::Count || !(out.onset_rpm > 0) || !(out.strength > 0))
        bad_fault(text);
    return out;
}

// A pull that the stand-in makes of an engine with this true train.
void stand_in_command(const DynoOptions& o, const std::stop_token& stop) {
    if (!(o.first_rpm >= 500 && o.last_rpm >= o.first_rpm + 500 && o.last_rpm <= 20000) || o.rows < 15 ||
        o.rows > 100000 || !(o.torque_Nm > 1 && o.torque_Nm < 5000))
        throw InputError({"", "--first, --last, --rows, --torque", "these make no pull",
                          "at least 500 rev/min and 15 rows, torque in N m"});
    require_apart({{"train", o.true_train}}, {{"--out", o.out}});
    const Train train = io::read_train(o.true_train);
    standin::PullSetup setup;
    setup.engine.torque_peak_Nm = o.torque_Nm;
    setup.engine.torque_peak_rpm = o.first_rpm + 0.4 * (o.last_rpm - o.first_rpm);
    setup.engine.charged = o.boost_kPa.value_or(0) > 0;
    setup.engine.boost_Pa = o.boost_kPa.value_or(0) * 1e3;
    setup.first_rpm = o.first_rpm;
    setup.last_rpm = o.last_rpm;
    setup.rows = o.rows;
    setup.seed = o.seed;
    setup.scatter = o.scatter;
    SweepWatch watch;
    watch.stop = stop;
    setup.loss = standin::motion_loss(
        rows_of(sweep(train, {200 * std::floor(o.first_rpm / 200), 200 * std::ceil(o.last_rpm / 200), 200},
                      usual_limits(), watch)
                    .motions));
    for (const std::string& fault : o.faults)
        setup.faults.push_back(parse_fault(fault));
    setup.logged = standin::all_channels(setup.engine);
    for (const std::string& name : o.not_logged) {
        const auto channel = find_pull_channel(name);
        if (!channel)
            throw InputError({"", "--not-logged", fmt::format("\"{}\" is no channel", name),
                              "give a column of the pull file, such as blower_rpm"});
        setup.logged.erase(*channel);
    }
    io::write_file(o.out, io::pull_csv(standin::run_pull(setup)));
}

} // namespace

void define_dyno_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<DynoOptions>();
    const auto command = [&](const char* name, const char* help, auto run) {
        return add_command(app, name, help, o, stop, run);
    };
    CLI::App* pull =
        command("pull", "What a dyno pull says: peaks, break, roughness, what else moved", pull_command);
    pull->add_option("pull", o->pull, "Pull, delimited text; several pulls in a file are told apart")
        ->required();
    pull->add_option("--against", o->against,
                     "Pull or pulls of the state before: the difference with its band");
    pull->add_flag("--correct", o->correct, "Correct by SAE J1349 instead of taking it as recorded");
    pull->add_option("--out", o->out, "CSV of readings and trend to write");
    pull->add_option("--summary", o->summary, "JSON to write")->required();

    CLI::App* diagnose =
        command("diagnose", "Why a build stops where it does, and what to test next", diagnose_command);
    diagnose->add_option("project", o->project, "Project, *.bathmos")->required();
    add_revision_choice(diagnose, o->of);
    diagnose->add_flag("--quick", o->quick, "Without calibrating a rig run that no calibration is kept of");
    diagnose->add_flag("--json", o->json, "JSON on standard output");
    diagnose->add_flag("--changes", o->changes, "Also what would help: takes a minute or more");

    CLI::App* keep =
        command("keep-pull", "Keep the pulls of a file in a project, with their revision", keep_command);
    keep->add_option("project", o->project, "Project, *.bathmos")->required();
    keep->add_option("pull", o->pull, "Pull, delimited text")->required();
    keep->add_option("--revision", o->of.revision, "Number of the revision that was pulled")->required();
    keep->add_option("--changed", o->changed, "What else was changed, such as \"smaller blower pulley\"");
    keep->add_option("--when", o->when, "Date that it was pulled, 2026-02-27 or with a time; now");
    keep->add_option("--fuel", o->fuel, "Fuel");
    keep->add_option("--boost-kPa", o->boost_kPa, "Boost as set, above ambient")
        ->check(between(-100, 2000, "kPa"));
    keep->add_option("--notes", o->notes, "Notes");

    CLI::App* make = command("stand-in-pull", "A pull of the stand-in dyno: an engine with this true train",
                             stand_in_command);
    make->add_option("train", o->true_train, "Train file of the train as it truly is")->required();
    make->add_option("--out", o->out, "Pull to write")->required();
    make->add_option("--fault", o->faults, "KEY@RPM[@STRENGTH], such as belt_slip@6200; may be repeated");
    make->add_option("--not-logged", o->not_logged, "Channel that is not logged; may be repeated");
    make->add_option("--boost-kPa", o->boost_kPa, "Boost of a charged engine, above ambient")
        ->check(between(0, 2000, "kPa"));
    make->add_option("--torque", o->torque_Nm, "Peak torque without boost, N m")
        ->check(between(1, 5000, "N m"));
    make->add_option("--first", o->first_rpm, "First speed, rev/min")->check(between(500, 20000, "rev/min"));
    make->add_option("--last", o->last_rpm, "Last speed")->check(between(500, 20000, "rev/min"));
    make->add_option("--rows", o->rows, "Readings, 15 to 100000");
    make->add_option("--scatter", o->scatter, "From pull to pull, share of the power")
        ->check(between(0, 0.5));
    make->add_option("--seed", o->seed, "Another pull for another seed; the same for the same");
}

} // namespace bathmos::cli
