// A mark that stands on disk while a window has a project open; what is left of it tells the next start that
// a run ended by itself.
#pragma once

#include <QLockFile>
#include <QString>
#include <memory>

namespace bathmos::app {

class OpenMark {
  public:
    /// Takes a mark in the folder that no living program holds. Does nothing where the folder cannot be used.
    explicit OpenMark(const QString& folder);
    ~OpenMark(); ///< an orderly end: nothing is left
    OpenMark(const OpenMark&) = delete;
    OpenMark& operator=(const OpenMark&) = delete;

    /// The project that a run had open as it ended by itself; "" where none did.
    const QString& left_open() const { return left_open_; }
    /// What is open now; "" for nothing with a name.
    void hold(const QString& project);

  private:
    std::unique_ptr<QLockFile> lock_;
    QString path_, left_open_;
};

} // namespace bathmos::app
