#include "core/tasks/tasks.h"
#include "io/text/delimited.h"
#include "io/text/fields.h"
#include "io/text/line_source.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::io {

using fields::Parsed, fields::parse, fields::split, fields::trimmed, fields::refuse_table;

namespace {

// Takes a table's lines one by one and gives the numbers of the wanted columns.
class RowReader {
  public:
    using Sink = std::function<void(const std::vector<double>&, std::size_t)>;
    RowReader(const std::filesystem::path& path, const TableShape& shape,
              const std::vector<std::size_t>& wanted, const Sink& row)
        : path_(path), shape_(shape), row_(row), values_(wanted.size()),
          slot_(1 + *std::max_element(wanted.begin(), wanted.end()), wanted.size()) {
        for (std::size_t i = 0; i < wanted.size(); ++i)
            slot_[wanted[i]] = i;
    }

    void take(std::string_view line) {
        ++line_;
        if (line.ends_with('\r'))
            line.remove_suffix(1);
        if (line_ <= shape_.header_lines || trimmed(line).empty() || line.front() == '#')
            return;
        std::size_t seen = 0;
        split(line, shape_.delimiter, [&](std::size_t index, std::string_view field) {
            if (index >= shape_.columns.size() && !field.empty())
                too_many(line);
            if (index >= slot_.size() || slot_[index] == values_.size())
                return;
            ++seen;
            read(index, field);
        });
        if (seen < values_.size())
            refuse_table(path_, fmt::format("line {}", line_), "has too few columns",
                         "the line was probably cut short; end the file before it");
        row_(values_, line_);
    }

  private:
    void read(std::size_t index, std::string_view field) {
        const Parsed parsed = parse(field, shape_.decimal_comma, values_[slot_[index]]);
        if (parsed == Parsed::Text || parsed == Parsed::Infinite)
            refuse_table(path_, place(index),
                         fmt::format("\"{}\" is not a {}number", shown(field),
                                     parsed == Parsed::Text ? "" : "finite "),
                         "give a plain number, or leave the field empty for a lost reading");
        if (shape_.decimal_comma)
            watch_decimals(index, field);
    }
    // "7,000" and "1.25" in one file: one of them is no decimal mark.
    void watch_decimals(std::size_t index, std::string_view field) {
        points_ = points_ || field.find('.') != std::string_view::npos;
        commas_ = commas_ || field.find(',') != std::string_view::npos;
        if (points_ && commas_)
            refuse_table(path_, place(index),
                         fmt::format("\"{}\": the file writes numbers both with a comma and with a point",
                                     shown(field)),
                         "export it with one decimal mark, and without marks between thousands");
    }
    [[noreturn]] void too_many(std::string_view line) const {
        std::size_t fields = 0;
        split(line, shape_.delimiter, [&](std::size_t, std::string_view) { ++fields; });
        refuse_table(path_, fmt::format("line {}", line_),
                     fmt::format("has {} fields, the table has {} columns", fields, shape_.columns.size()),
                     shape_.delimiter == ',' ? fields::kTwoCommas
                                             : "correct the line, or the names above the table");
    }
    std::string place(std::size_t index) const {
        return fmt::format("line {}, column {} ({})", line_, index + 1, shape_.columns[index]);
    }
    static std::string shown(std::string_view field) {
        return printable(to_utf8(field.substr(0, 30), Encoding::Utf8));
    }

    const std::filesystem::path& path_;
    const TableShape& shape_;
    const Sink& row_;
    std::vector<double> values_;
    std::vector<std::size_t> slot_;
    std::size_t line_ = 0;
    bool points_ = false, commas_ = false;
};

} // namespace

void stream_columns(const std::filesystem::path& path, const TableShape& shape,
                    const std::vector<std::size_t>& wanted,
                    const std::function<void(const std::vector<double>&, std::size_t)>& row,
                    const std::function<void(double)>& progress, const std::stop_token& stop) {
    LineSource lines(path, shape.encoding);
    RowReader reader(path, shape, wanted, row);
    while (lines.read_piece([&](std::string_view line) { reader.take(line); })) {
        throw_if_stopped(stop);
        if (progress)
            progress(lines.share());
    }
}

} // namespace bathmos::io
