#include "io/project/write_lock.h"

#include <array>
#include <cstdlib>
#include <fcntl.h>
#include <fmt/format.h>
#include <pwd.h>
#include <sys/file.h>
#include <unistd.h>
#include <utility>

namespace bathmos::io {

namespace {

std::string self_in_words() {
    std::array<char, 256> host{};
    gethostname(host.data(), host.size() - 1);
    const passwd* user = getpwuid(getuid());
    return fmt::format("{} on {}, process {}", user ? user->pw_name : "someone", host.data(), getpid());
}

std::string read_all(int descriptor) {
    std::array<char, 512> text{};
    const ssize_t size = pread(descriptor, text.data(), text.size(), 0);
    return size > 0 ? std::string(text.data(), static_cast<std::size_t>(size)) : std::string("someone");
}

} // namespace

WriteLock::WriteLock(const std::filesystem::path& project) : path_(project.string() + ".lock") {
    const int descriptor = ::open(path_.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (descriptor < 0)
        return;
    if (flock(descriptor, LOCK_EX | LOCK_NB) != 0) {
        holder_ = read_all(descriptor);
        close(descriptor);
        return;
    }
    descriptor_ = descriptor;
    const std::string words = self_in_words();
    if (ftruncate(descriptor, 0) != 0 || pwrite(descriptor, words.data(), words.size(), 0) < 0)
        holder_ = "someone"; // a full disk: the lock itself stands all the same
}

WriteLock::WriteLock(WriteLock&& other) noexcept
    : path_(std::move(other.path_)), descriptor_(std::exchange(other.descriptor_, -1)),
      holder_(std::move(other.holder_)) {}

WriteLock& WriteLock::operator=(WriteLock&& other) noexcept {
    if (this != &other) {
        let_go();
        path_ = std::move(other.path_);
        descriptor_ = std::exchange(other.descriptor_, -1);
        holder_ = std::move(other.holder_);
    }
    return *this;
}

WriteLock::~WriteLock() {
    let_go();
}

void WriteLock::let_go() {
    if (descriptor_ < 0)
        return;
    unlink(path_.c_str()); // while still held, so that nobody else's goes
    close(descriptor_);
    descriptor_ = -1;
}

} // namespace bathmos::io
