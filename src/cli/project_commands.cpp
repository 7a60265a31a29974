// The commands of a project as a file: export, import, keep, rescue.
#include "cli/arguments.h"
#include "io/project/project_folder.h"
#include "io/project/rescue.h"
#include "io/rig/rig_file.h"
#include "io/text/encoding.h"
#include "session/project/keeping.h"

#include <filesystem>
#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct ProjectOptions {
    std::string from, to, trace, when;
    Id revision = 0;
    bool reversed = false;
};

void export_project(const ProjectOptions& o, const std::stop_token& stop) {
    const io::Store store = open_project(o.from);
    io::export_project(store, o.to, {terminal_progress("export"), stop});
}

void import_project(const ProjectOptions& o, const std::stop_token& stop) {
    io::import_project(o.from, o.to, {terminal_progress("import"), stop});
}

void keep(const ProjectOptions& o, const std::stop_token& stop) {
    const RigTrace trace = io::read_rig(o.trace, {terminal_progress("read"), stop});
    io::Store store = open_project(o.from);
    session::keep_rig_run(
        store, {io::shown_path(std::filesystem::path(o.trace).filename()), o.revision, o.reversed, o.when},
        io::packed(io::trace_of(trace), stop));
}

void rescue(const ProjectOptions& o, const std::stop_token& stop) {
    const io::RescueReport report = io::rescue(o.from, o.to, stop);
    say(fmt::format("{} records and {} traces kept\n", report.records, report.traces));
    for (const std::string& lost : report.lost)
        say(fmt::format("lost: {}\n", lost));
}

} // namespace

void define_project_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<ProjectOptions>();
    const auto command = [&](const char* name, const char* help, auto run) {
        return add_command(app, name, help, o, stop, run);
    };
    CLI::App* out = command("export", "A project as a folder of JSON and CSV", export_project);
    out->add_option("project", o->from, "Project, *.bathmos")->required();
    out->add_option("folder", o->to, "New or empty folder")->required();

    CLI::App* in = command("import", "A project from such a folder", import_project);
    in->add_option("folder", o->from, "Folder that export has written")->required();
    in->add_option("project", o->to, "Project to make, *.bathmos")->required();

    CLI::App* kept = command("keep", "Keep a rig trace in a project, with its revision", keep);
    kept->add_option("project", o->from, "Project, *.bathmos")->required();
    kept->add_option("trace", o->trace, "Rig trace, CSV or HDF5")->required();
    kept->add_option("--revision", o->revision, "Number of the revision that was spun")->required();
    kept->add_option("--when", o->when, "Date that it was spun, 2026-02-27 or with a time; now");
    kept->add_flag("--reversed", o->reversed, "The sensor's reading falls as the valve opens");

    CLI::App* saved = command("rescue", "What can still be read of a damaged project", rescue);
    saved->add_option("damaged", o->from, "The damaged project; it is left as it is")->required();
    saved->add_option("project", o->to, "Project to make, *.bathmos")->required();
}

} // namespace bathmos::cli
