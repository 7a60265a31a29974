#include "io/project/write_lock.h"

#include "io/file/safe_file.h"

#include <array>
#include <cerrno>
#include <charconv>
#include <csignal>
#include <cstdlib>
#include <fcntl.h>
#include <fmt/format.h>
#include <pwd.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace bathmos::io {

namespace {

// What the words end with for a program of this machine, before its number.
std::string on_this_machine() {
    std::array<char, 256> host{};
    gethostname(host.data(), host.size() - 1);
    return fmt::format(" on {}, process ", host.data());
}

std::string self_in_words() {
    const passwd* user = getpwuid(getuid());
    return fmt::format("{}{}{}", user ? user->pw_name : "someone", on_this_machine(), getpid());
}

// Whether the words tell of a program of this machine that runs no more.
bool has_ended(const std::string& words) {
    const std::string here = on_this_machine();
    const std::size_t at = words.find(here);
    if (at == std::string::npos)
        return false;
    pid_t process = 0;
    const char* end = words.data() + words.size();
    const auto [rest, failed] = std::from_chars(words.data() + at + here.size(), end, process);
    return failed == std::errc() && rest == end && process > 0 && kill(process, 0) != 0 && errno == ESRCH;
}

std::string read_all(int descriptor) {
    std::array<char, 512> text{};
    const ssize_t size = pread(descriptor, text.data(), text.size(), 0);
    return size > 0 ? std::string(text.data(), static_cast<std::size_t>(size)) : std::string("someone");
}

// Far beyond where the database library locks, and beyond the end of any file.
constexpr off_t kLockedByte = off_t(1) << 61;

bool is_the_file(int descriptor, const std::string& path) {
    struct stat open_one {
    }, named{};
    return fstat(descriptor, &open_one) == 0 && stat(path.c_str(), &named) == 0 &&
           open_one.st_dev == named.st_dev && open_one.st_ino == named.st_ino;
}

} // namespace

WriteLock::WriteLock(const std::filesystem::path& project, FolderOf folder)
    : path_(behind_links(project).string() + ".lock"), folder_(folder) {
    if (left_to_us() && hold_lock_file())
        lock_file_itself(project);
}

// Where locks of other machines are not seen, who is first to make the file beside the project has it, until
// the file is gone or tells of a program of this machine that has ended.
bool WriteLock::left_to_us() {
    if (folder_ == FolderOf::ThisMachine)
        return true;
    const int made = ::open(path_.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (made >= 0) {
        close(made);
        return true;
    }
    const int found = ::open(path_.c_str(), O_RDONLY | O_CLOEXEC);
    if (found < 0)
        return false;
    const std::string words = read_all(found);
    close(found);
    if (has_ended(words))
        return true;
    holder_ = fmt::format("{} (where that program runs no more: delete {})", words,
                          std::filesystem::path(path_).filename().string());
    return false;
}

// The file beside the project: says who has it. Its name may be taken away by the one that lets go of it,
// between our opening and locking it: then it locks nothing, and we try again.
bool WriteLock::hold_lock_file() {
    for (int tries = 0; tries < 100; ++tries) {
        int descriptor = ::open(path_.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
        const bool may_write = descriptor >= 0;
        if (!may_write) // another user's, left behind by a program that was killed
            descriptor = ::open(path_.c_str(), O_RDONLY | O_CLOEXEC);
        if (descriptor < 0)
            return false;
        if (flock(descriptor, LOCK_EX | LOCK_NB) != 0) {
            holder_ = read_all(descriptor);
            close(descriptor);
            return false;
        }
        if (!is_the_file(descriptor, path_)) {
            close(descriptor);
            continue;
        }
        descriptor_ = descriptor;
        if (!may_write)
            return true;
        const std::string words = self_in_words();
        if (ftruncate(descriptor, 0) != 0 || pwrite(descriptor, words.data(), words.size(), 0) < 0)
            holder_ = "someone"; // a full disk: the lock itself stands all the same
        return true;
    }
    return false;
}

// A hard link, or a folder shared over the network by another name, leads to the same file past the lock
// beside it: the file itself is locked, too. Its descriptor stays open as long as the lock, for closing it
// would let go of the locks that the database library holds on the file in this process.
void WriteLock::lock_file_itself(const std::filesystem::path& project) {
    if (file_ >= 0)
        return;
    file_ = ::open(project.c_str(), O_RDWR | O_CLOEXEC);
    if (file_ < 0)
        return; // not there yet, or not to be written
    struct flock whole {};
    whole.l_type = F_WRLCK;
    whole.l_whence = SEEK_SET;
    whole.l_start = kLockedByte;
    whole.l_len = 1;
    if (fcntl(file_, F_OFD_SETLK, &whole) == 0 || (errno != EAGAIN && errno != EACCES))
        return; // a file system without such locks: the lock beside it must do
    other_name_ = true;
    unlink(path_.c_str());
    close(descriptor_);
    descriptor_ = -1;
}

WriteLock::WriteLock(WriteLock&& other) noexcept
    : path_(std::move(other.path_)), descriptor_(std::exchange(other.descriptor_, -1)),
      file_(std::exchange(other.file_, -1)), folder_(other.folder_), other_name_(other.other_name_),
      holder_(std::move(other.holder_)) {}

WriteLock& WriteLock::operator=(WriteLock&& other) noexcept {
    if (this != &other) {
        let_go();
        path_ = std::move(other.path_);
        descriptor_ = std::exchange(other.descriptor_, -1);
        file_ = std::exchange(other.file_, -1);
        folder_ = other.folder_;
        other_name_ = other.other_name_;
        holder_ = std::move(other.holder_);
    }
    return *this;
}

WriteLock::~WriteLock() {
    let_go();
}

void WriteLock::let_go() {
    if (descriptor_ >= 0) {
        unlink(path_.c_str()); // while still held, so that nobody else's goes
        close(descriptor_);
    }
    if (file_ >= 0)
        close(file_);
    descriptor_ = file_ = -1;
}

} // namespace bathmos::io
