// The project file *.bathmos: records, every edit with undo and redo, and raw traces (docs/format.md).
//
// One SQLite 3 file, write-ahead logged. Every commit is on disk when it returns; a kill at any moment leaves
// a file that opens with all that was committed. One program writes at a time; others read.
#pragma once

#include "core/problem/input_error.h"
#include "io/project/record_json.h"
#include "io/project/trace.h"

#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io {

inline constexpr std::string_view kProjectEnding = ".bathmos";
/// Copies that are kept beside a project, newest first.
inline constexpr int kBackups = 3;
/// Traces and files up to this size altogether go into backups; larger ones stay in the project file alone,
/// as they never change.
inline constexpr std::int64_t kBackupTraces_bytes = 64 << 20;

/// The file is no longer the one that was opened: gone, replaced, or written by another program. Nothing was
/// kept; what is open can be saved as a copy.
class FileChanged : public InputError {
  public:
    using InputError::InputError;
};

/// One record as it shall be; text "" takes it out.
struct RecordChange {
    RecordKind kind = RecordKind::Engine;
    Id id = 0;
    std::string text;
};

struct TraceInfo {
    Id id = 0;
    std::string name, kind, valve;
    std::int64_t numbers = 0;
};

/// A file that somebody put beside a record: a photo, a drawing.
struct KeptFile {
    std::string hash;
    std::int64_t bytes = 0;
};
/// The largest that is taken.
inline constexpr std::uint64_t kMostKeptBytes = 32u << 20;

class Store {
  public:
    /// A new, empty project; path "" keeps it in memory. Throws InputError when the file is there already or
    /// cannot be made.
    static Store create(const std::filesystem::path& path);
    /// Opens a project, brings an older file up to date, and keeps a copy of it beside it. Read-only where
    /// another program has it open or folder or file cannot be written. Throws InputError for a file that is
    /// damaged, no project, or of a newer version.
    static Store open(const std::filesystem::path& path);
    Store(Store&&) noexcept;
    Store& operator=(Store&&) noexcept;
    ~Store();

    const std::filesystem::path& path() const;
    /// Why nothing can be written: "open in another window: name, process 12"; "" when it can.
    const std::string& read_only_why() const;
    /// What the user should know of how it was opened: no copy could be put beside it, a log of another file
    /// was moved aside. Empty when all is well.
    std::vector<std::string> notes() const;
    const Project& project() const;

    /// A number for a new record; never one that was used before.
    Id new_id(RecordKind kind);
    /// The number that new_id would give, without taking it; a commit of it takes it.
    Id next_id(RecordKind kind) const;

    /// One edit, one transaction, one write of each text. Edits in a row with the same key that is not ""
    /// become one. Throws InputError for a text that cannot be read again and where writing fails; nothing is
    /// changed then.
    void commit(const std::string& what, const std::string& key, const std::vector<RecordChange>& changes);
    /// The same with what was read back from the texts already: `read` holds just the records of `changes`.
    void commit(const std::string& what, const std::string& key, const std::vector<RecordChange>& changes,
                Project read);
    /// The same for what is no edit of the user's (predictions): not undone.
    void note(const std::vector<RecordChange>& changes);
    /// The next edit starts a new step whatever its key.
    void end_step();

    std::string undo_text() const; ///< "" when there is nothing
    std::string redo_text() const;
    /// What was put back; empty when there was nothing to undo. Throws InputError.
    std::vector<RecordChange> undo();
    std::vector<RecordChange> redo();
    /// Grows with every commit, undo and redo.
    std::int64_t edits() const;

    /// Traces are added and read, never changed. Throw InputError.
    Id add_trace(const PackedTrace& trace);
    PackedTrace trace(Id id) const;
    void skip_trace_number(); ///< so that an imported trace keeps the number it had
    std::vector<TraceInfo> traces() const;

    /// Files by the hash of their content: added and read, never changed, each once whatever it is called.
    /// Throw InputError.
    std::string add_file(std::string_view bytes);
    std::string file(const std::string& hash) const;
    std::vector<KeptFile> files() const; ///< in the order of their hashes

    /// The whole project into another file, which is replaced if it is there and nobody has it open. Throws
    /// InputError.
    void save_copy(const std::filesystem::path& path) const;

    /// For tests of a full disk: the file may grow by this many pages only.
    void limit_pages(int more);

  private:
    struct Inside;
    explicit Store(std::unique_ptr<Inside> inside);
    std::unique_ptr<Inside> in_;
};

/// Takes away what a project that is gone may have left beside its name; a log of another file would else be
/// taken for the new one's.
void remove_side_files(const std::filesystem::path& path);

/// Whether a file is a project, by its first bytes, or by its name if it cannot be read.
bool looks_like_project(const std::filesystem::path& path);

/// The copies beside a project that are there, newest first.
std::vector<std::filesystem::path> backups_of(const std::filesystem::path& path);

/// Now, UTC, "2026-11-25T09:30:00Z".
std::string now_text();

} // namespace bathmos::io
