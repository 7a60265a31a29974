#include "io/pack/pack_files.h"

#include "core/problem/input_error.h"
#include "io/file/new_folder.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>
#include <memory>
#include <zip.h>

namespace bathmos::io {

namespace {

constexpr std::uint64_t kMostPackBytes = 256u << 20;
constexpr std::size_t kMostFiles = 200;

[[noreturn]] void refuse_pack(const std::filesystem::path& path, std::string what, std::string mend) {
    throw InputError({shown_path(path), "", std::move(what), std::move(mend)});
}

struct Discard {
    void operator()(zip_t* zip) const { zip_discard(zip); }
};
using Zip = std::unique_ptr<zip_t, Discard>;

// Days of "2026-02-27" as a zip keeps them: years since 1980, months, days.
zip_uint16_t zip_day(const std::string& date) {
    int year = 1980, month = 1, day = 1;
    if (date.size() >= 10) {
        std::from_chars(date.data(), date.data() + 4, year);
        std::from_chars(date.data() + 5, date.data() + 7, month);
        std::from_chars(date.data() + 8, date.data() + 10, day);
    }
    return static_cast<zip_uint16_t>((std::clamp(year - 1980, 0, 127) << 9) |
                                     (std::clamp(month, 1, 12) << 5) | std::clamp(day, 1, 31));
}

// A zip in memory; it is written to its place by the one who writes all files.
std::string zipped(const std::filesystem::path& path, const std::vector<PackFile>& files,
                   const std::string& date) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* out = zip_source_buffer_create(nullptr, 0, 0, &error);
    Zip zip(out ? zip_open_from_source(out, ZIP_CREATE | ZIP_TRUNCATE, &error) : nullptr);
    if (!zip) {
        zip_source_free(out);
        refuse_pack(path, "no zip can be made", "write a folder");
    }
    zip_source_keep(out); // it outlives the zip, which is closed below
    const std::unique_ptr<zip_source_t, decltype(&zip_source_free)> kept(out, &zip_source_free);
    for (const PackFile& file : files) {
        zip_source_t* one = zip_source_buffer(zip.get(), file.bytes.data(), file.bytes.size(), 0);
        const zip_int64_t at = one ? zip_file_add(zip.get(), file.name.c_str(), one, ZIP_FL_ENC_UTF_8) : -1;
        if (at < 0) {
            zip_source_free(one);
            refuse_pack(path, fmt::format("{} cannot be put into the zip", file.name), "write a folder");
        }
        zip_file_set_dostime(zip.get(), static_cast<zip_uint64_t>(at), 0, zip_day(date), 0);
    }
    if (zip_close(zip.get()) != 0)
        refuse_pack(path, "the zip cannot be finished", "write a folder");
    zip.release(); // closed
    std::string bytes;
    zip_stat_t stat;
    if (zip_source_stat(out, &stat) == 0 && zip_source_open(out) == 0) {
        bytes.resize(stat.size);
        const zip_int64_t read = zip_source_read(out, bytes.data(), bytes.size());
        zip_source_close(out);
        if (read == static_cast<zip_int64_t>(bytes.size()))
            return bytes;
    }
    refuse_pack(path, "the zip cannot be read back", "write a folder");
}

std::vector<PackFile> read_folder(const std::filesystem::path& folder) {
    std::vector<PackFile> out;
    std::uint64_t whole = 0;
    for (const auto& entry : std::filesystem::directory_iterator(folder)) {
        if (!entry.is_regular_file())
            continue;
        if (out.size() == kMostFiles)
            refuse_pack(folder, "holds more files than a pack has", "give the folder of a pack");
        out.push_back({entry.path().filename().string(), read_file(entry.path(), kMostPackBytes - whole)});
        whole += out.back().bytes.size();
    }
    return out;
}

std::vector<PackFile> read_zip(const std::filesystem::path& path) {
    int error = 0;
    const Zip zip(zip_open(path.c_str(), ZIP_RDONLY, &error));
    if (!zip)
        refuse_pack(path, "is no zip that can be read", "give the folder or zip of a pack");
    const zip_int64_t count = zip_get_num_entries(zip.get(), 0);
    if (count < 0 || static_cast<std::size_t>(count) > kMostFiles)
        refuse_pack(path, "holds more files than a pack has", "give the zip of a pack");
    std::vector<PackFile> out;
    std::uint64_t whole = 0;
    for (zip_uint64_t i = 0; i < static_cast<zip_uint64_t>(count); ++i) {
        zip_stat_t stat;
        if (zip_stat_index(zip.get(), i, 0, &stat) != 0 || !(stat.valid & ZIP_STAT_SIZE) ||
            stat.size > kMostPackBytes - whole) // before anything of that size is made
            refuse_pack(path, "holds more than a pack does, 256 MB", "give the zip of a pack");
        PackFile file{stat.name, std::string(stat.size, '\0')};
        zip_file_t* one = zip_fopen_index(zip.get(), i, 0);
        const zip_int64_t read = one ? zip_fread(one, file.bytes.data(), file.bytes.size()) : -1;
        if (one)
            zip_fclose(one);
        if (read != static_cast<zip_int64_t>(file.bytes.size()))
            refuse_pack(path, fmt::format("{} in it is damaged", file.name), "ask for the pack again");
        whole += stat.size;
        out.push_back(std::move(file));
    }
    return out;
}

} // namespace

const PackFile* find_file(const std::vector<PackFile>& files, std::string_view name) {
    const auto at = std::ranges::find(files, name, &PackFile::name);
    return at == files.end() ? nullptr : &*at;
}

void write_pack_folder(const std::filesystem::path& folder, const std::vector<PackFile>& files) {
    NewFolder fresh(folder);
    for (const PackFile& file : files)
        write_file(fresh.path() / file.name, file.bytes);
    fresh.keep();
}

void write_pack_zip(const std::filesystem::path& path, const std::vector<PackFile>& files,
                    const std::string& date) {
    write_file(path, zipped(path, files, date));
}

std::vector<PackFile> read_pack(const std::filesystem::path& path) {
    std::error_code error;
    std::vector<PackFile> out =
        std::filesystem::is_directory(path, error) ? read_folder(path) : read_zip(path);
    std::ranges::sort(out, {}, &PackFile::name);
    return out;
}

} // namespace bathmos::io
