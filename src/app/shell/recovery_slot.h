// Where this run of the program keeps the project that has no name yet: a file of its own, so that two
// windows do not overwrite each other's.
#pragma once

#include <QLockFile>
#include <QString>
#include <memory>

namespace bathmos::app {

class RecoverySlot {
  public:
    /// Which free slot is taken first: one that holds edits left behind by a run that ended, which then go on
    /// here; or an empty one, where something else is to be opened.
    enum class First { LeftBehind, Empty };
    /// Takes a free slot in the folder. A slot is free when no living program holds its lock. Path "" when
    /// the folder cannot be used.
    explicit RecoverySlot(const QString& folder, First first = First::LeftBehind);
    QString path() const { return path_; }
    /// Whether another slot holds edits that no living program has.
    bool others_left_behind() const;

  private:
    static std::unique_ptr<QLockFile> lock_of(const QString& path); ///< null where somebody has it
    bool take(const QString& path);
    std::unique_ptr<QLockFile> lock_;
    QString folder_, path_;
};

} // namespace bathmos::app
