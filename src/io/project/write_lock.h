// Who may write a project: the one that holds the lock beside it and the lock of the file itself, by whatever
// name it came there. The system lets go of both when a program ends, however it ends. Where other machines
// write too, their locks are not seen: there the file beside the project itself is the lock, by what it says.
#pragma once

#include "io/file/shared_folder.h"

#include <filesystem>
#include <string>

namespace bathmos::io {

class WriteLock {
  public:
    WriteLock() = default;
    /// Tries to take it. `folder`: whether locks of all that may write there are seen.
    WriteLock(const std::filesystem::path& project, FolderOf folder);
    WriteLock(WriteLock&& other) noexcept;
    WriteLock& operator=(WriteLock&& other) noexcept;
    ~WriteLock();

    /// Locks the file itself once it is there; the constructor does so where it is there already.
    void lock_file_itself(const std::filesystem::path& project);

    bool held() const { return descriptor_ >= 0; }
    /// Somebody has the file open under another of its names (a hard link): its log stands beside that name,
    /// so not even reading it here would show what was kept.
    bool open_under_another_name() const { return other_name_; }
    /// Who has it instead, in words; "" when the file beside the project could not be made.
    const std::string& holder() const { return holder_; }

  private:
    bool left_to_us();
    bool hold_lock_file();
    void let_go();
    std::string path_;
    int descriptor_ = -1, file_ = -1;
    FolderOf folder_ = FolderOf::ThisMachine;
    bool other_name_ = false;
    std::string holder_;
};

} // namespace bathmos::io
