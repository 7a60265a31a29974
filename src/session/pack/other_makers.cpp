#include "session/pack/other_makers.h"

#include "io/json/json.h"
#include "io/paper/paper_html.h"

#include <algorithm>
#include <cctype>

namespace bathmos::session {

namespace {

constexpr std::size_t kShortest = 3; // a shorter name stands in every table

std::string lower(std::string_view text) {
    std::string out(text);
    std::ranges::transform(out, out.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return out;
}

bool in_word(std::string_view text, std::size_t at) {
    return at < text.size() && (std::isalnum(static_cast<unsigned char>(text[at])) != 0);
}

// Where a name stands as words of its own; npos where it does not. Both in small letters.
std::size_t place_of(std::string_view text, std::string_view name, std::size_t from) {
    for (std::size_t at = text.find(name, from); at != std::string_view::npos; at = text.find(name, at + 1))
        if ((at == 0 || !in_word(text, at - 1)) && !in_word(text, at + name.size()))
            return at;
    return std::string_view::npos;
}

// As it stands between the quotes of a string.
std::string in_json(const std::string& name) {
    const std::string quoted = io::json_text(io::Json(name));
    return quoted.substr(1, quoted.size() - 2);
}

bool only_a_number(std::string_view name) { // "12" would mask figures; a serial has more to it
    return std::ranges::all_of(name, [](unsigned char c) { return std::isdigit(c) || c == '.'; });
}

} // namespace

OtherMakers::OtherMakers(const Project& project, const std::set<PartKind>& own, std::string instead)
    : instead_(std::move(instead)) {
    std::set<std::string> open, secret;
    for (const PartKindInfo& kind : part_kinds()) {
        open.insert(lower(kind.label));
        open.insert(lower(kind.key));
    }
    const auto take = [&](PartKind kind, const std::string& name, const std::string& serial) {
        for (const std::string& one : {name, serial})
            (own.contains(kind) ? open : secret).insert(lower(one));
    };
    for (const auto& [id, part] : project.parts)
        take(part.kind, part.name, part.serial);
    for (const auto& [id, revision] : project.revisions)
        for (const auto& [kind, part] : revision.assembly.parts)
            take(kind, part.name, part.serial);
    for (const std::string& name : secret)
        if (name.size() >= kShortest && !open.contains(name) && !only_a_number(name))
            names_.push_back(name);
    std::ranges::stable_sort(names_, std::ranges::greater(), &std::string::size);
}

std::string OtherMakers::masked(std::string text, std::set<std::string>& masked) const {
    for (const std::string& name : names_) {
        std::string small = lower(text);
        for (std::size_t at = place_of(small, name, 0); at != std::string::npos;
             at = place_of(small, name, at + instead_.size())) {
            masked.insert(text.substr(at, name.size()));
            text.replace(at, name.size(), instead_);
            small = lower(text);
        }
    }
    return text;
}

std::vector<std::string> OtherMakers::found_in(std::string_view text) const {
    std::vector<std::string> out;
    const std::string small = lower(text);
    const auto stands = [&](const std::string& name) {
        return place_of(small, name, 0) != std::string::npos;
    };
    for (const std::string& name : names_)
        if (stands(name) || stands(io::html_text(name)) || stands(in_json(name)))
            out.push_back(name);
    return out;
}

} // namespace bathmos::session
