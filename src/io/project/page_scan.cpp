#include "io/project/page_scan.h"

#include "core/tasks/tasks.h"
#include "io/file/safe_file.h"

#include <algorithm>
#include <filesystem>
#include <map>
#include <optional>
#include <set>
#include <string_view>

namespace bathmos::io {

namespace {

constexpr std::uint64_t kMostBytes = std::uint64_t(4) << 30;
constexpr std::uint8_t kInterior = 5, kLeaf = 13;       // of tables with numbered rows
constexpr std::uint8_t kOwnInterior = 2, kOwnLeaf = 10; // of those that are sorted by their own columns
constexpr std::size_t kMostColumns = 32;

std::uint64_t big_endian(std::string_view bytes, std::size_t at, std::size_t size) {
    std::uint64_t out = 0;
    for (std::size_t i = 0; i < size; ++i)
        out = out << 8 | static_cast<std::uint8_t>(bytes[at + i]);
    return out;
}

// A number of one to nine bytes; moves `at` behind it. Empty at the end of the bytes.
std::optional<std::uint64_t> variable(std::string_view bytes, std::size_t& at) {
    std::uint64_t out = 0;
    for (int i = 0; i < 9; ++i) {
        if (at >= bytes.size())
            return std::nullopt;
        const auto byte = static_cast<std::uint8_t>(bytes[at++]);
        if (i == 8)
            return out << 8 | byte;
        out = out << 7 | (byte & 0x7F);
        if ((byte & 0x80) == 0)
            return out;
    }
    return out;
}

// The pages of a file, those of its log in place of older ones.
class Pages {
  public:
    Pages(std::string file, std::string log) : file_(std::move(file)), log_(std::move(log)) {
        if (file_.size() >= 100)
            size_ = big_endian(file_, 16, 2) == 1 ? 65536 : big_endian(file_, 16, 2);
        const bool known = size_ >= 512 && size_ <= 65536 && (size_ & (size_ - 1)) == 0;
        if (!known)
            size_ = 4096; // what this program's files have
        usable_ =
            size_ -
            (known && static_cast<std::uint8_t>(file_[20]) < 64 ? static_cast<std::uint8_t>(file_[20]) : 0);
        if (!known || file_[18] == 2) // else it never had a log of its own
            read_log();
        find_free();
    }
    bool is_free(std::uint32_t number) const { return free_.contains(number); }

    std::uint32_t count() const {
        const auto in_file = static_cast<std::uint32_t>(file_.size() / size_);
        return newer_.empty() ? in_file : std::max(in_file, newer_.rbegin()->first);
    }
    /// From 1; empty where there is none.
    std::string_view page(std::uint32_t number) const {
        if (const auto at = newer_.find(number); at != newer_.end())
            return at->second;
        const std::uint64_t from = std::uint64_t(number - 1) * size_;
        return number >= 1 && from + size_ <= file_.size() ? std::string_view(file_).substr(from, size_)
                                                           : std::string_view();
    }
    std::size_t usable() const { return usable_; }

  private:
    // Frames that carry the log's own salt; those of an older round do not.
    void read_log() {
        constexpr std::size_t head = 32, frame_head = 24;
        if (log_.size() < head || big_endian(log_, 8, 4) != size_)
            return;
        const std::string_view salt = std::string_view(log_).substr(16, 8);
        for (std::size_t at = head; at + frame_head + size_ <= log_.size(); at += frame_head + size_) {
            if (std::string_view(log_).substr(at + 8, 8) != salt)
                break;
            newer_[static_cast<std::uint32_t>(big_endian(log_, at, 4))] =
                std::string_view(log_).substr(at + frame_head, size_);
        }
    }

    // Pages that hold nothing any more, whatever stands on them.
    void find_free() {
        const std::string_view first = page(1);
        if (first.size() < 100)
            return;
        for (auto trunk = static_cast<std::uint32_t>(big_endian(first, 32, 4));
             trunk != 0 && free_.insert(trunk).second;) {
            const std::string_view list = page(trunk);
            if (list.empty())
                return;
            const std::size_t leaves = std::min<std::size_t>(big_endian(list, 4, 4), size_ / 4 - 2);
            for (std::size_t i = 0; i < leaves; ++i)
                free_.insert(static_cast<std::uint32_t>(big_endian(list, 8 + 4 * i, 4)));
            trunk = static_cast<std::uint32_t>(big_endian(list, 0, 4));
        }
    }

    std::string file_, log_;
    std::set<std::uint32_t> free_;
    std::size_t size_ = 4096, usable_ = 4096;
    std::map<std::uint32_t, std::string_view> newer_;
};

struct Head {
    std::uint8_t kind = 0;
    std::size_t cells = 0, pointers = 0; ///< where the list of cells begins
};
Head head_of(std::string_view page, std::uint32_t number) {
    const std::size_t at = number == 1 ? 100 : 0;
    Head out;
    if (page.size() < at + 12)
        return out;
    out.kind = static_cast<std::uint8_t>(page[at]);
    out.cells = big_endian(page, at + 3, 2);
    out.pointers = at + (out.kind == kInterior || out.kind == kOwnInterior ? 12 : 8);
    if (out.pointers + 2 * out.cells > page.size())
        out.cells = 0;
    return out;
}

// The whole content of a cell, which may go on on further pages.
std::optional<std::string> payload_of(const Pages& pages, std::string_view page, std::size_t at,
                                      std::uint64_t size) {
    const std::size_t usable = pages.usable();
    if (size <= usable - 35) {
        if (at + size > page.size())
            return std::nullopt;
        return std::string(page.substr(at, size));
    }
    if (size > std::uint64_t(pages.count()) * usable)
        return std::nullopt;
    const std::size_t least = (usable - 12) * 32 / 255 - 23;
    const std::size_t fits = least + (size - least) % (usable - 4);
    const std::size_t here = fits <= usable - 35 ? fits : least;
    if (at + here + 4 > page.size())
        return std::nullopt;
    std::string out(page.substr(at, here));
    auto next = static_cast<std::uint32_t>(big_endian(page, at + here, 4));
    while (out.size() < size) {
        const std::string_view more = pages.page(next);
        if (next == 0 || more.empty())
            return std::nullopt;
        out.append(more.substr(4, std::min<std::size_t>(usable - 4, size - out.size())));
        next = static_cast<std::uint32_t>(big_endian(more, 0, 4));
    }
    return out;
}

// A record's values by column, into a row.
bool read_columns(std::string_view record, ScannedRow& row) {
    std::size_t at = 0;
    const auto head = variable(record, at);
    if (!head || *head > record.size())
        return false;
    std::size_t body = *head;
    while (at < *head) {
        const auto kind = variable(record, at);
        if (!kind || row.texts.size() >= kMostColumns)
            return false;
        constexpr std::size_t sizes[] = {0, 1, 2, 3, 4, 6, 8, 8, 0, 0, 0, 0};
        const std::uint64_t size = *kind < 12 ? sizes[*kind] : (*kind - 12) / 2;
        if (size > record.size() - body)
            return false;
        const bool whole = *kind >= 1 && *kind <= 6;
        row.texts.emplace_back(*kind < 12 ? std::string_view() : record.substr(body, size));
        row.numbers.push_back(whole        ? static_cast<std::int64_t>(big_endian(record, body, size))
                              : *kind == 9 ? 1
                                           : 0);
        body += size;
    }
    return true;
}

void read_leaf(const Pages& pages, std::uint32_t number, std::uint32_t root, std::vector<ScannedRow>& out) {
    const std::string_view page = pages.page(number);
    const Head head = head_of(page, number);
    for (std::size_t i = 0; i < head.cells; ++i) {
        std::size_t at = big_endian(page, head.pointers + 2 * i, 2);
        const auto size = variable(page, at);
        const auto id = !size                ? std::nullopt
                        : head.kind == kLeaf ? variable(page, at)
                                             : std::optional<std::uint64_t>(0);
        const auto payload = id ? payload_of(pages, page, at, *size) : std::nullopt;
        ScannedRow row{root, static_cast<std::int64_t>(id.value_or(0)), {}, {}};
        if (payload && read_columns(*payload, row))
            out.push_back(std::move(row));
    }
}

// Marks every page that hangs under a root.
void mark(const Pages& pages, std::uint32_t root, std::vector<std::uint32_t>& root_of) {
    std::vector<std::uint32_t> open = {root};
    while (!open.empty()) {
        const std::uint32_t number = open.back();
        open.pop_back();
        if (number == 0 || number >= root_of.size() || root_of[number] != 0)
            continue;
        root_of[number] = root;
        const std::string_view page = pages.page(number);
        const Head head = head_of(page, number);
        if (head.kind != kInterior && head.kind != kOwnInterior)
            continue;
        for (std::size_t i = 0; i < head.cells; ++i)
            if (const std::size_t at = big_endian(page, head.pointers + 2 * i, 2); at + 4 <= page.size())
                open.push_back(static_cast<std::uint32_t>(big_endian(page, at, 4)));
        open.push_back(static_cast<std::uint32_t>(big_endian(page, head.pointers - 4, 4)));
    }
}

} // namespace

std::vector<ScannedRow> scan_pages(const std::filesystem::path& path, const std::vector<std::uint32_t>& roots,
                                   const std::stop_token& stop) {
    const std::filesystem::path log = path.string() + "-wal";
    std::error_code none;
    const Pages pages(read_file(path, kMostBytes),
                      std::filesystem::exists(log, none) ? read_file(log, kMostBytes) : std::string());
    std::vector<std::uint32_t> root_of(pages.count() + std::size_t(1), 0);
    for (const std::uint32_t root : roots)
        mark(pages, root, root_of);
    std::vector<ScannedRow> out;
    for (std::uint32_t number = 1; number <= pages.count(); ++number) {
        throw_if_stopped(stop);
        const std::uint8_t kind = head_of(pages.page(number), number).kind;
        if ((kind == kLeaf || kind == kOwnLeaf) && !pages.is_free(number))
            read_leaf(pages, number, root_of[number], out);
    }
    return out;
}

} // namespace bathmos::io
