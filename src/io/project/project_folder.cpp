#include "io/project/project_folder.h"

#include "core/problem/input_error.h"
#include "io/file/safe_file.h"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>

namespace bathmos::io {

namespace fs = std::filesystem;

namespace {

constexpr std::string_view kFormat = "bathmos-project";
constexpr int kVersion = 1;

std::string file_name(Id id, std::string_view ending) {
    return fmt::format("{:04}.{}", id, ending);
}

void make_folder(const fs::path& folder) {
    std::error_code error;
    fs::create_directories(folder, error);
    if (error)
        throw InputError({folder.string(), "", fmt::format("cannot be made: {}", error.message()),
                          "check the name, permissions and the space on the disk"});
}

Json trace_head(const PackedTrace& trace) {
    Json json;
    json["name"] = trace.name;
    json["kind"] = trace.kind;
    if (!trace.valve.empty())
        json["valve"] = trace.valve;
    json["columns"] = Json::array();
    for (const PackedTrace::Column& column : trace.columns)
        json["columns"].push_back({{"name", column.name}, {"single", column.single}});
    return json;
}

// Files of a folder with an ending, by the number that is their name.
std::map<Id, fs::path> numbered_files(const fs::path& folder, const std::string& ending) {
    std::map<Id, fs::path> out;
    if (!fs::is_directory(folder))
        return out;
    for (const fs::directory_entry& file : fs::directory_iterator(folder)) {
        if (file.path().extension() != ending)
            continue;
        const std::string name = file.path().stem().string();
        Id id = 0;
        const auto result = std::from_chars(name.data(), name.data() + name.size(), id);
        if (result.ec != std::errc() || result.ptr != name.data() + name.size() || id < 1)
            throw InputError({file.path().string(), "", "its name is no number",
                              "name the file by its record's number, such as 0012" + ending});
        out[id] = file.path();
    }
    return out;
}

Json parsed(const fs::path& file) {
    try {
        return Json::parse(read_file(file));
    } catch (const Json::exception& error) {
        throw InputError({file.string(), "", fmt::format("is not readable as JSON: {}", error.what()),
                          "mend the file, or export the project again"});
    }
}

void require_head(const fs::path& folder) {
    const fs::path file = folder / "project.json";
    if (!fs::exists(file))
        throw InputError({folder.string(), "project.json", "is not there",
                          "give a folder that bathmos-cli export has written"});
    const Json json = parsed(file);
    ObjectReader reader(json, "");
    try {
        if (reader.text("format") != kFormat)
            reader.refuse("format", "is another one", fmt::format("must be \"{}\"", kFormat));
        if (reader.number("version") != kVersion)
            reader.refuse("version", "is not known", fmt::format("must be {}", kVersion));
        reader.finish();
    } catch (const InputError& error) {
        throw error.in(file.string());
    }
}

PackedTrace read_trace(const fs::path& head) {
    const Json json = parsed(head);
    Trace out;
    try {
        ObjectReader reader(json, "");
        out.name = reader.text("name");
        out.kind = reader.text("kind");
        out.valve = reader.has("valve") ? reader.text("valve") : "";
        for (const Json& column : reader.required("columns")) {
            ObjectReader one(column, "columns");
            TraceColumn to;
            to.name = one.text("name");
            to.single = one.required("single") == true;
            out.columns.push_back(std::move(to));
        }
    } catch (const InputError& error) {
        throw error.in(head.string());
    }
    fs::path table = head;
    table.replace_extension(".csv");
    try {
        read_trace_csv(read_file(table), out);
    } catch (const InputError& error) {
        throw error.in(table.string());
    }
    return packed(out);
}

std::vector<RecordChange> read_records(const fs::path& folder, Project& project) {
    std::vector<RecordChange> out;
    for (std::size_t k = 0; k < kRecordKinds; ++k) {
        const auto kind = static_cast<RecordKind>(k);
        for (const auto& [id, file] : numbered_files(folder / record_name(kind), ".json"))
            try {
                put_record(project, kind, id, read_file(file));
                out.push_back({kind, id, record_text(project, kind, id)});
            } catch (const InputError& error) {
                throw error.in(file.string());
            }
    }
    return out;
}

void fill(Store& store, const fs::path& folder, const std::vector<RecordChange>& records,
          const FolderWatch& watch) {
    Id expected = 0;
    const std::map<Id, fs::path> traces = numbered_files(folder / "trace", ".json");
    std::size_t done = 0;
    for (const auto& [id, head] : traces) {
        throw_if_stopped(watch.stop);
        if (watch.progress)
            watch.progress(static_cast<double>(done++) / static_cast<double>(traces.size()));
        while (++expected < id) // numbers that no trace has
            store.skip_trace_number();
        store.add_trace(read_trace(head));
    }
    store.note(records); // what it begins with is no edit: undo never empties it
}

} // namespace

void export_project(const Store& store, const fs::path& folder, const FolderWatch& watch) {
    make_folder(folder);
    if (!fs::is_empty(folder))
        throw InputError({folder.string(), "", "holds something already", "give a new or empty folder"});
    const Project& project = store.project();
    for (std::size_t k = 0; k < kRecordKinds; ++k) {
        const auto kind = static_cast<RecordKind>(k);
        const std::vector<Id> ids = record_ids(project, kind);
        if (!ids.empty())
            make_folder(folder / record_name(kind));
        for (const Id id : ids)
            write_file(folder / record_name(kind) / file_name(id, "json"),
                       Json::parse(record_text(project, kind, id)).dump(1) + "\n");
    }
    const std::vector<TraceInfo> traces = store.traces();
    for (const TraceInfo& info : traces) {
        throw_if_stopped(watch.stop);
        if (watch.progress)
            watch.progress(static_cast<double>(&info - traces.data()) / static_cast<double>(traces.size()));
        make_folder(folder / "trace");
        const PackedTrace trace = store.trace(info.id);
        write_file(folder / "trace" / file_name(info.id, "json"), trace_head(trace).dump(1) + "\n");
        write_file(folder / "trace" / file_name(info.id, "csv"), trace_csv(unpacked(trace)));
    }
    const Json head = {{"format", kFormat}, {"version", kVersion}};
    write_file(folder / "project.json", head.dump(1) + "\n");
}

void import_project(const fs::path& folder, const fs::path& path, const FolderWatch& watch) {
    require_head(folder);
    Project project;
    const std::vector<RecordChange> records = read_records(folder, project);
    if (const auto problems = check_project(project); !problems.empty())
        throw InputError(problems.front()).in(folder.string());
    if (fs::exists(path))
        throw InputError({path.string(), "", "is there already", "give a name that is not in use"});
    const fs::path fresh = path.string() + ".part";
    std::error_code none;
    const auto clean = [&] {
        remove_side_files(fresh);
        fs::remove(fresh, none);
    };
    clean();
    try {
        Store store = Store::create(fresh);
        fill(store, folder, records, watch);
    } catch (...) {
        clean();
        throw;
    }
    remove_side_files(path); // of a project of that name that was deleted
    fs::rename(fresh, path, none);
    if (none)
        throw InputError({path.string(), "", "cannot be written: " + none.message(), "check the folder"});
}

} // namespace bathmos::io
