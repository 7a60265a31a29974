// A folder that is either written whole or not at all.
#pragma once

#include <filesystem>

namespace bathmos::io {

/// A folder in the making: beside its name, which it takes when it is whole. What is left before that goes.
class NewFolder {
  public:
    /// Throws InputError (source = path) where something is there already (an empty folder is nothing), or
    /// the place refuses.
    explicit NewFolder(const std::filesystem::path& path);
    ~NewFolder();
    NewFolder(const NewFolder&) = delete;
    NewFolder& operator=(const NewFolder&) = delete;

    /// Where its files go meanwhile.
    const std::filesystem::path& path() const { return fresh_; }
    /// Throws InputError.
    void keep();

  private:
    std::filesystem::path asked_, whole_, fresh_;
    bool kept_ = false;
};

/// Makes a folder, and those above it. Throws InputError.
void make_folder(const std::filesystem::path& folder);

} // namespace bathmos::io
