#include "io/file/new_folder.h"

#include "core/problem/input_error.h"
#include "io/text/encoding.h"

#include <fmt/format.h>
#include <unistd.h>

namespace bathmos::io {

namespace fs = std::filesystem;

void make_folder(const fs::path& folder) {
    std::error_code error;
    fs::create_directories(folder, error);
    if (error)
        throw InputError({shown_path(folder), "", fmt::format("cannot be made: {}", error.message()),
                          "check the name, permissions and the space on the disk"});
}

NewFolder::NewFolder(const fs::path& path) : asked_(path), whole_(path) {
    std::error_code error;
    if (fs::exists(path, error) && !(fs::is_directory(path, error) && fs::is_empty(path, error)))
        throw InputError({shown_path(path), "", "holds something already", "give a new or empty folder"});
    if (!whole_.has_filename())
        whole_ = whole_.parent_path(); // "folder/"
    fresh_ = whole_.string() + fmt::format(".part-{}", getpid());
    make_folder(fresh_);
}

NewFolder::~NewFolder() {
    std::error_code none;
    if (!kept_)
        fs::remove_all(fresh_, none);
}

void NewFolder::keep() {
    std::error_code error;
    fs::rename(fresh_, whole_, error);
    if (error)
        throw InputError({shown_path(asked_), "", fmt::format("cannot be made: {}", error.message()),
                          "check the name, permissions and the space on the disk"});
    kept_ = true;
}

} // namespace bathmos::io
