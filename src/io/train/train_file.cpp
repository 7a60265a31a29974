#include "io/train/train_file.h"

#include "core/train/train_check.h"
#include "io/file/safe_file.h"
#include "io/train/train_json.h"

#include <algorithm>
#include <fmt/format.h>

namespace bathmos::io {

Train parse_train(std::string_view text, const std::string& source) {
    if (text.starts_with("\xEF\xBB\xBF"))
        text.remove_prefix(3);
    try {
        if (text.find_first_not_of(" \t\r\n") == std::string_view::npos)
            throw InputError({"", "", "the file is empty", "open a train file (*.train.json)"});
        Train train = train_from_json(Json::parse(text));
        require_valid(train);
        return train;
    } catch (const Json::parse_error& error) {
        const auto before = text.substr(0, std::min(text.size(), error.byte));
        const auto line = 1 + std::count(before.begin(), before.end(), '\n');
        const auto last_break = before.rfind('\n');
        const auto column =
            last_break == std::string_view::npos ? before.size() : before.size() - last_break - 1;
        throw InputError(
            {source, fmt::format("line {}, column {}", line, column), "the text is not JSON here",
             "a train file is JSON; check for a missing comma, quote or bracket, or a file cut short"});
    } catch (const InputError& error) {
        throw error.in(source);
    } catch (const Json::exception&) {
        throw InputError({source, "", "the file does not have the shape of a train",
                          "see the train format in docs/format.md"});
    }
}

Train read_train(const std::filesystem::path& path) {
    return parse_train(read_file(path), path.string());
}

std::string train_text(const Train& train) {
    return train_json(train).dump(1) + "\n";
}

void write_train(const std::filesystem::path& path, const Train& train) {
    write_file(path, train_text(train));
}

} // namespace bathmos::io
