#include "io/project/project_folder.h"

#include "core/problem/input_error.h"
#include "io/file/new_folder.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "io/text/line_source.h"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>
#include <unistd.h>

namespace bathmos::io {

namespace fs = std::filesystem;

namespace {

constexpr std::string_view kFormat = "bathmos-project";
constexpr int kVersion = 1;

std::string file_name(Id id, std::string_view ending) {
    return fmt::format("{:04}.{}", id, ending);
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
            throw InputError({shown_path(file.path()), "", "its name is no number",
                              "name the file by its record's number, such as 0012" + ending});
        out[id] = file.path();
    }
    return out;
}

Json parsed(const fs::path& file) {
    try {
        return parse_json(read_file(file));
    } catch (const InputError& error) {
        throw error.in(shown_path(file));
    }
}

void require_head(const fs::path& folder) {
    const fs::path file = folder / "project.json";
    if (!fs::exists(file))
        throw InputError({shown_path(folder), "project.json", "is not there",
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
        throw error.in(shown_path(file));
    }
}

PackedTrace read_trace(const fs::path& head, const std::stop_token& stop) {
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
        throw error.in(shown_path(head));
    }
    fs::path table = head;
    table.replace_extension(".csv");
    try {
        TraceCsvReader reader(out);
        LineSource lines(table, Encoding::Utf8);
        while (lines.read_piece([&](std::string_view line) { reader.take(line); }))
            throw_if_stopped(stop);
        reader.finish();
    } catch (const InputError& error) {
        throw error.in(shown_path(table));
    }
    return packed(out, stop);
}

std::vector<RecordChange> read_records(const fs::path& folder, Project& project,
                                       const std::stop_token& stop) {
    std::vector<RecordChange> out;
    for (std::size_t k = 0; k < kRecordKinds; ++k) {
        const auto kind = static_cast<RecordKind>(k);
        for (const auto& [id, file] : numbered_files(folder / record_name(kind), ".json"))
            try {
                throw_if_stopped(stop);
                put_record(project, kind, id, json_text(parse_json(read_file(file))));
                out.push_back({kind, id, record_text(project, kind, id)});
            } catch (const InputError& error) {
                throw error.in(shown_path(file));
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
        store.add_trace(read_trace(head, watch.stop));
    }
    std::error_code none;
    if (fs::is_directory(folder / "file", none))
        for (const auto& file : fs::directory_iterator(folder / "file")) {
            throw_if_stopped(watch.stop);
            const std::string hash = store.add_file(read_file(file.path(), kMostKeptBytes));
            if (hash != file.path().filename())
                throw InputError({shown_path(file.path()), "", "is not what it was when it was exported",
                                  "export again, or take the file out"});
        }
    store.note(records); // what it begins with is no edit: undo never empties it
}

} // namespace

namespace {

void write_folder(const Store& store, const fs::path& folder, const FolderWatch& watch) {
    const Project& project = store.project();
    for (std::size_t k = 0; k < kRecordKinds; ++k) {
        const auto kind = static_cast<RecordKind>(k);
        const std::vector<Id> ids = record_ids(project, kind);
        if (!ids.empty())
            make_folder(folder / record_name(kind));
        for (const Id id : ids) {
            throw_if_stopped(watch.stop);
            write_file(folder / record_name(kind) / file_name(id, "json"),
                       json_text(parse_own_json(record_text(project, kind, id)), 1) + "\n");
        }
    }
    const std::vector<TraceInfo> traces = store.traces();
    for (const TraceInfo& info : traces) {
        throw_if_stopped(watch.stop);
        if (watch.progress)
            watch.progress(static_cast<double>(&info - traces.data()) / static_cast<double>(traces.size()));
        make_folder(folder / "trace");
        const PackedTrace trace = store.trace(info.id);
        write_file(folder / "trace" / file_name(info.id, "json"), json_text(trace_head(trace), 1) + "\n");
        NewFile table(folder / "trace" / file_name(info.id, "csv"));
        write_trace_csv(
            unpacked(trace, watch.stop), [&](std::string_view piece) { table.write(piece); }, watch.stop);
        table.keep();
    }
    for (const KeptFile& file : store.files()) {
        make_folder(folder / "file");
        write_file(folder / "file" / file.hash, store.file(file.hash));
    }
    const Json head = {{"format", kFormat}, {"version", kVersion}};
    write_file(folder / "project.json", json_text(head, 1) + "\n");
}

} // namespace

void export_project(const Store& store, const fs::path& folder, const FolderWatch& watch) {
    NewFolder fresh(folder);
    write_folder(store, fresh.path(), watch);
    fresh.keep();
}

void import_project(const fs::path& folder, const fs::path& path, const FolderWatch& watch) {
    require_head(folder);
    Project project;
    const std::vector<RecordChange> records = read_records(folder, project, watch.stop);
    if (const auto problems = check_project(project); !problems.empty())
        throw InputError(problems.front()).in(shown_path(folder));
    if (fs::exists(path))
        throw InputError({shown_path(path), "", "is there already", "give a name that is not in use"});
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
        throw InputError({shown_path(path), "", "cannot be written: " + none.message(), "check the folder"});
}

} // namespace bathmos::io
