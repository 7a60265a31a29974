// Where this run of the program keeps the project that has no name yet: a file of its own, so that two
// windows do not overwrite each other's.
#pragma once

#include <QLockFile>
#include <QString>
#include <memory>

namespace bathmos::app {

class RecoverySlot {
  public:
    /// Takes a free slot in the folder: the first that holds edits left behind by a run that ended, else the
    /// first empty one. A slot is free when no living program holds its lock. Path "" when the folder cannot
    /// be used.
    explicit RecoverySlot(const QString& folder);
    QString path() const { return path_; }

  private:
    bool take(const QString& path);
    std::unique_ptr<QLockFile> lock_;
    QString path_;
};

} // namespace bathmos::app
