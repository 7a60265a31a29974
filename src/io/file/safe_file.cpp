#include "io/file/safe_file.h"

#include "core/problem/input_error.h"
#include "io/text/encoding.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace bathmos::io {

namespace {

[[noreturn]] void refuse_file(const std::filesystem::path& path, std::string_view doing) {
    throw InputError({shown_path(path), "", fmt::format("cannot be {}: {}", doing, std::strerror(errno)),
                      "check the folder, its permissions and the space on the disk"});
}

} // namespace

std::filesystem::path behind_links(const std::filesystem::path& path) {
    std::error_code none;
    const std::filesystem::path target = std::filesystem::weakly_canonical(path, none);
    return target.empty() ? path : target;
}

NewFile::NewFile(const std::filesystem::path& path)
    : target_(behind_links(path)), name_(target_.string() + ".part-XXXXXX") {
    descriptor_ = mkstemp(name_.data());
    if (descriptor_ < 0)
        refuse_file(target_, "written");
}

NewFile::~NewFile() {
    if (descriptor_ >= 0)
        close(descriptor_);
    if (!kept_)
        unlink(name_.c_str());
}

void NewFile::write(std::string_view content) {
    while (!content.empty()) {
        const ssize_t written = ::write(descriptor_, content.data(), content.size());
        if (written < 0 && errno == EINTR)
            continue;
        if (written < 0)
            refuse_file(target_, "written");
        content.remove_prefix(static_cast<std::size_t>(written));
    }
}

void NewFile::keep() {
    struct stat old {};
    const mode_t mask = umask(0);
    umask(mask);
    fchmod(descriptor_, stat(target_.c_str(), &old) == 0 ? old.st_mode & 07777 : 0666 & ~mask);
    if (fsync(descriptor_) != 0 || rename(name_.c_str(), target_.c_str()) != 0)
        refuse_file(target_, "written");
    kept_ = true;
}

void write_file(const std::filesystem::path& path, std::string_view content) {
    std::error_code none;
    const bool special =
        path.string().starts_with("/dev/") ||
        (std::filesystem::exists(path, none) && !std::filesystem::is_regular_file(path, none));
    if (special) { // a pipe or /dev/stdout, wherever it leads, cannot be renamed over
        std::ofstream device(path, std::ios::binary);
        device.write(content.data(), static_cast<std::streamsize>(content.size()));
        if (!device.flush())
            refuse_file(path, "written");
        return;
    }
    NewFile file(path);
    file.write(content);
    file.keep();
}

std::string read_file(const std::filesystem::path& path, std::uint64_t most_bytes) {
    std::error_code none;
    if (std::filesystem::is_directory(path, none)) {
        errno = EISDIR;
        refuse_file(path, "read");
    }
    std::ifstream file(path, std::ios::binary);
    if (!file)
        refuse_file(path, "read");
    std::string content;
    if (const auto size = std::filesystem::file_size(path, none); !none && size <= most_bytes)
        content.reserve(size);
    char buffer[1 << 16];
    while (file.read(buffer, sizeof buffer) || file.gcount() > 0) {
        content.append(buffer, static_cast<std::size_t>(file.gcount()));
        if (content.size() > most_bytes)
            throw InputError(
                {shown_path(path), "",
                 fmt::format("is larger than the {} MB that such a file may have", most_bytes >> 20),
                 "is it the file that you mean?"});
    }
    if (file.bad())
        refuse_file(path, "read");
    return content;
}

bool same_file(const std::filesystem::path& a, const std::filesystem::path& b) {
    std::error_code none;
    if (std::filesystem::exists(a, none) && std::filesystem::exists(b, none))
        return std::filesystem::equivalent(a, b, none) && !none;
    return behind_links(a) == behind_links(b);
}

} // namespace bathmos::io
