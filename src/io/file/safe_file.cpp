#include "io/file/safe_file.h"

#include "core/problem/input_error.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace bathmos::io {

namespace {

[[noreturn]] void refuse(const std::filesystem::path& path, std::string_view doing) {
    throw InputError({path.string(), "", fmt::format("cannot be {}: {}", doing, std::strerror(errno)),
                      "check the folder, its permissions and the space on the disk"});
}

// A file descriptor and the temporary name it writes to; the name goes unless it was renamed.
class Temporary {
  public:
    explicit Temporary(const std::filesystem::path& target)
        : target_(target), name_(target.string() + ".part-XXXXXX") {
        descriptor_ = mkstemp(name_.data());
        if (descriptor_ < 0)
            refuse(target_, "written");
    }
    ~Temporary() {
        if (descriptor_ >= 0)
            close(descriptor_);
        if (!kept_)
            unlink(name_.c_str());
    }
    Temporary(const Temporary&) = delete;
    Temporary& operator=(const Temporary&) = delete;

    void write(std::string_view content) {
        while (!content.empty()) {
            const ssize_t written = ::write(descriptor_, content.data(), content.size());
            if (written < 0 && errno == EINTR)
                continue;
            if (written < 0)
                refuse(target_, "written");
            content.remove_prefix(static_cast<std::size_t>(written));
        }
    }

    void keep() {
        struct stat old {};
        const mode_t mask = umask(0);
        umask(mask);
        fchmod(descriptor_, stat(target_.c_str(), &old) == 0 ? old.st_mode & 07777 : 0666 & ~mask);
        if (fsync(descriptor_) != 0 || rename(name_.c_str(), target_.c_str()) != 0)
            refuse(target_, "written");
        kept_ = true;
    }

  private:
    std::filesystem::path target_;
    std::string name_;
    int descriptor_ = -1;
    bool kept_ = false;
};

} // namespace

void write_file(const std::filesystem::path& path, std::string_view content) {
    std::error_code none;
    const bool special =
        path.string().starts_with("/dev/") ||
        (std::filesystem::exists(path, none) && !std::filesystem::is_regular_file(path, none));
    if (special) { // a pipe or /dev/stdout, wherever it leads, cannot be renamed over
        std::ofstream device(path, std::ios::binary);
        device.write(content.data(), static_cast<std::streamsize>(content.size()));
        if (!device.flush())
            refuse(path, "written");
        return;
    }
    const std::filesystem::path target = std::filesystem::weakly_canonical(path, none);
    const std::filesystem::path& where = target.empty() ? path : target;
    Temporary temporary(where);
    temporary.write(content);
    temporary.keep();
}

std::string read_file(const std::filesystem::path& path) {
    std::error_code none;
    if (std::filesystem::is_directory(path, none)) {
        errno = EISDIR;
        refuse(path, "read");
    }
    std::ifstream file(path, std::ios::binary);
    if (!file)
        refuse(path, "read");
    std::string content;
    if (const auto size = std::filesystem::file_size(path, none); !none)
        content.reserve(size);
    char buffer[1 << 16];
    while (file.read(buffer, sizeof buffer) || file.gcount() > 0)
        content.append(buffer, static_cast<std::size_t>(file.gcount()));
    return content;
}

} // namespace bathmos::io
