#include "io/train/object_reader.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos::io {

namespace {

// Edits (insert, remove, replace) between two words.
std::size_t distance(const std::string& a, const std::string& b) {
    std::vector<std::size_t> row(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j)
        row[j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::size_t corner = row[0]++;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t replaced = corner + (a[i - 1] != b[j - 1]);
            corner = row[j];
            row[j] = std::min({row[j] + 1, row[j - 1] + 1, replaced});
        }
    }
    return row[b.size()];
}

std::string shown(const Json& value) {
    std::string text = json_text(value);
    return text.size() > 40 ? text.substr(0, 37) + "..." : text;
}

double finite_number(const Json& value, const std::string& path) {
    if (!value.is_number() || !std::isfinite(value.get<double>()))
        throw InputError({"", path, "is " + shown(value), "must be a number"});
    return value.get<double>();
}

} // namespace

ObjectReader::ObjectReader(const Json& json, std::string path) : json_(json), path_(std::move(path)) {
    if (!json.is_object())
        throw InputError(
            {"", path_.empty() ? "the file" : path_, "is " + shown(json), "must be an object { }"});
}

std::string ObjectReader::path_of(const std::string& key) const {
    return path_.empty() ? key : path_ + "." + key;
}

void ObjectReader::refuse(const std::string& key, std::string what, std::string mend) const {
    throw InputError({"", path_of(key), std::move(what), std::move(mend)});
}

bool ObjectReader::has(const std::string& key) {
    known_.push_back(key);
    const auto found = json_.find(key);
    return found != json_.end() && !found->is_null();
}

const Json& ObjectReader::required(const std::string& key) {
    if (!has(key))
        refuse(key, "is missing",
               "it cannot be left out; docs/format.md has what each file and record needs");
    return json_.at(key);
}

double ObjectReader::number(const std::string& key) {
    return finite_number(required(key), path_of(key));
}

std::string ObjectReader::text(const std::string& key) {
    const Json& value = required(key);
    if (!value.is_string())
        refuse(key, "is " + shown(value), "must be a text in quotes");
    return value.get<std::string>();
}

std::vector<double> ObjectReader::numbers(const std::string& key) {
    const Json& list = required(key);
    if (!list.is_array())
        refuse(key, "is " + shown(list), "must be a list of numbers [ ]");
    std::vector<double> out;
    for (std::size_t i = 0; i < list.size(); ++i)
        out.push_back(finite_number(list[i], fmt::format("{}[{}]", path_of(key), i)));
    return out;
}

ObjectReader ObjectReader::object(const std::string& key) {
    return ObjectReader(required(key), path_of(key));
}

void ObjectReader::finish() const {
    for (const auto& item : json_.items()) {
        const std::string& key = item.key();
        if (std::find(known_.begin(), known_.end(), key) != known_.end())
            continue;
        const auto nearest =
            std::min_element(known_.begin(), known_.end(), [&](const auto& a, const auto& b) {
                return distance(key, a) < distance(key, b);
            });
        const bool near = nearest != known_.end() && distance(key, *nearest) <= 1 + key.size() / 3;
        refuse(key, "is not a key of this format",
               near ? fmt::format("did you mean \"{}\"?", *nearest)
                    : "remove it, or check its place in the file");
    }
}

} // namespace bathmos::io
