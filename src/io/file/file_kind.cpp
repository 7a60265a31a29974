#include "io/file/file_kind.h"

#include "core/problem/input_error.h"
#include "io/dyno/pull_file.h"
#include "io/file/safe_file.h"
#include "io/json/json.h"
#include "io/lobe/gauge_file.h"
#include "io/rig/rig_file.h"
#include "io/text/delimited.h"

#include <algorithm>
#include <cctype>
#include <string>
#include <utility>

namespace bathmos::io {

namespace {

std::string small(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

FileKind kind_of_json(const std::filesystem::path& path) {
    const Json json = parse_json(read_file(path));
    const std::string format = json.is_object() && json.contains("format") && json.at("format").is_string()
                                   ? json.at("format").get<std::string>()
                                   : std::string();
    constexpr std::pair<std::string_view, FileKind> kFormats[] = {{"bathmos-train", FileKind::Train},
                                                                  {"bathmos-known", FileKind::Known},
                                                                  {"bathmos-sheet", FileKind::Sheet},
                                                                  {"bathmos-campaign", FileKind::Campaign}};
    for (const auto& [name, kind] : kFormats)
        if (format == name)
            return kind;
    return FileKind::Unknown;
}

bool names_hold(const TableShape& shape, std::initializer_list<std::string_view> any) {
    return std::any_of(shape.columns.begin(), shape.columns.end(), [&](const std::string& column) {
        const std::string name = small(column);
        return std::any_of(any.begin(), any.end(),
                           [&](std::string_view part) { return name.find(part) != std::string::npos; });
    });
}

FileKind kind_of_table(const std::filesystem::path& path) {
    const TableShape shape = sniff_table(path, 1);
    if (guess_columns(shape).complete())
        return FileKind::Rig;
    const PullMapping pull = guess_pull_mapping(shape);
    const auto has = [&](PullChannel channel) {
        return pull.column[static_cast<std::size_t>(channel)].has_value();
    };
    if (has(PullChannel::Speed) && (has(PullChannel::Torque) || has(PullChannel::Power)))
        return FileKind::Pull;
    if (names_hold(shape, {"load", "force"}) && names_hold(shape, {"height", "length", "travel", "press"}))
        return FileKind::Sheet;
    if (names_hold(shape, {"angle", "deg", "cam", "crank"}) && shape.columns.size() >= 2)
        return FileKind::Lobe;
    return FileKind::Unknown;
}

} // namespace

FileKind kind_of_file(const std::filesystem::path& path) {
    const std::string name = small(path.filename().string()), ending = small(path.extension().string());
    constexpr std::pair<std::string_view, FileKind> kEndings[] = {
        {".bathmos", FileKind::Project}, {".h5", FileKind::Rig},      {".hdf5", FileKind::Rig},
        {".rig-stream", FileKind::Rig},  {".rig.csv", FileKind::Rig}, {".pull.csv", FileKind::Pull},
        {".png", FileKind::Picture},     {".jpg", FileKind::Picture}, {".jpeg", FileKind::Picture},
        {".pdf", FileKind::Picture}};
    for (const auto& [end, kind] : kEndings)
        if (name.ends_with(end))
            return kind;
    if (ending == ".json")
        return kind_of_json(path);
    return kind_of_table(path);
}

} // namespace bathmos::io
