// Words of a log found at once, whichever of its lines they stand in.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::io {

/// An index in memory over lines of text (SQLite's full text search, FTS5).
class LogIndex {
  public:
    explicit LogIndex(const std::vector<std::string>& lines);
    ~LogIndex();
    LogIndex(LogIndex&&) noexcept;
    LogIndex& operator=(LogIndex&&) noexcept;

    /// Places of the lines that hold all these words or words that begin so, case and accents aside, in the
    /// order of the lines. All lines for no word at all.
    std::vector<std::size_t> find(std::string_view words) const;

  private:
    struct Inside;
    std::unique_ptr<Inside> in_;
};

} // namespace bathmos::io
