#include "io/train/train_file.h"

#include "core/train/train_check.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "io/train/train_json.h"

namespace bathmos::io {

Train parse_train(std::string_view text, const std::string& source) {
    try {
        if (text.find_first_not_of(" \t\r\n") == std::string_view::npos)
            throw InputError({"", "", "the file is empty", "open a train file (*.train.json)"});
        Train train = train_from_json(parse_json(text));
        require_valid(train);
        return train;
    } catch (const InputError& error) {
        throw error.in(source);
    } catch (const Json::exception&) {
        throw InputError({source, "", "the file does not have the shape of a train",
                          "see the train format in docs/format.md"});
    }
}

Train read_train(const std::filesystem::path& path) {
    return parse_train(read_file(path, kMostTrainBytes), shown_path(path));
}

std::string train_text(const Train& train) {
    return json_text(train_json(train), 1) + "\n";
}

void write_train(const std::filesystem::path& path, const Train& train) {
    write_file(path, train_text(train));
}

} // namespace bathmos::io
