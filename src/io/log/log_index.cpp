#include "io/log/log_index.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <cctype>
#include <numeric>

namespace bathmos::io {

struct LogIndex::Inside {
    SQLite::Database database{":memory:", SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE};
    std::size_t lines = 0;
};

namespace {

// What a person types as a query of the index: each word in quotes, as a beginning.
std::string query_of(std::string_view words) {
    std::string out, word;
    const auto end_word = [&] {
        if (!word.empty())
            out += (out.empty() ? "\"" : " \"") + word + "\"*";
        word.clear();
    };
    for (const char c : words) {
        const auto byte = static_cast<unsigned char>(c);
        if (std::isalnum(byte) || byte >= 0x80)
            word += c;
        else // as the index cuts them
            end_word();
    }
    end_word();
    return out;
}

} // namespace

LogIndex::LogIndex(const std::vector<std::string>& lines) : in_(std::make_unique<Inside>()) {
    in_->lines = lines.size();
    in_->database.exec(
        "CREATE VIRTUAL TABLE line USING fts5(words, tokenize='unicode61 remove_diacritics 2')");
    SQLite::Transaction transaction(in_->database);
    SQLite::Statement insert(in_->database, "INSERT INTO line(rowid, words) VALUES (?, ?)");
    for (std::size_t i = 0; i < lines.size(); ++i) {
        insert.bind(1, static_cast<std::int64_t>(i) + 1);
        insert.bindNoCopy(2, lines[i]);
        insert.exec();
        insert.reset();
    }
    transaction.commit();
}

LogIndex::~LogIndex() = default;
LogIndex::LogIndex(LogIndex&&) noexcept = default;
LogIndex& LogIndex::operator=(LogIndex&&) noexcept = default;

std::vector<std::size_t> LogIndex::find(std::string_view words) const {
    std::vector<std::size_t> out;
    const std::string query = query_of(words);
    if (query.empty()) {
        out.resize(in_->lines);
        std::iota(out.begin(), out.end(), std::size_t{0});
        return out;
    }
    SQLite::Statement found(in_->database, "SELECT rowid FROM line WHERE line MATCH ? ORDER BY rowid");
    found.bind(1, query);
    while (found.executeStep())
        out.push_back(static_cast<std::size_t>(found.getColumn(0).getInt64()) - 1);
    return out;
}

} // namespace bathmos::io
