// Who may write a project: the one that holds the lock beside it. The system lets go of it when a program
// ends, however it ends.
#pragma once

#include <filesystem>
#include <string>

namespace bathmos::io {

class WriteLock {
  public:
    WriteLock() = default;
    /// Tries to take it.
    explicit WriteLock(const std::filesystem::path& project);
    WriteLock(WriteLock&& other) noexcept;
    WriteLock& operator=(WriteLock&& other) noexcept;
    ~WriteLock();

    bool held() const { return descriptor_ >= 0; }
    /// Who has it instead, in words; "" when the file beside the project could not be made.
    const std::string& holder() const { return holder_; }

  private:
    void let_go();
    std::filesystem::path path_;
    int descriptor_ = -1;
    std::string holder_;
};

} // namespace bathmos::io
