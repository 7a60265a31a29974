#include "io/json/json.h"

#include "core/problem/input_error.h"
#include "io/text/encoding.h"

#include <algorithm>
#include <fmt/format.h>
#include <set>
#include <vector>

namespace bathmos::io {

namespace {

std::string place_of(std::string_view text, std::size_t byte) {
    const std::string_view before = text.substr(0, std::min(text.size(), byte));
    const auto last_break = before.rfind('\n');
    const auto column = last_break == std::string_view::npos ? before.size() : before.size() - last_break - 1;
    return fmt::format("line {}, column {}", 1 + std::count(before.begin(), before.end(), '\n'), column);
}

// The library reads and frees deep nesting by calling itself; a file must not choose how often.
void require_shallow(std::string_view text) {
    std::size_t depth = 0;
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quoted) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                quoted = false;
        } else if (c == '"') {
            quoted = true;
        } else if (c == '[' || c == '{') {
            if (++depth > kDeepestJson)
                throw InputError({"", place_of(text, i + 1),
                                  fmt::format("brackets stand more than {} deep", kDeepestJson),
                                  "no file of this program is so; was it made by something else?"});
        } else if ((c == ']' || c == '}') && depth > 0) {
            --depth;
        }
    }
}

// Keys of the objects that are open, to find one that stands twice.
class KeysOnce {
  public:
    bool operator()(int, Json::parse_event_t event, Json& parsed) {
        if (event == Json::parse_event_t::object_start)
            open_.emplace_back();
        else if (event == Json::parse_event_t::object_end)
            open_.pop_back();
        else if (event == Json::parse_event_t::key && !open_.back().insert(parsed.get<std::string>()).second)
            throw InputError({"", parsed.get<std::string>(), "stands twice in one object",
                              "leave one of the two: it cannot be told which is meant"});
        return true;
    }

  private:
    std::vector<std::set<std::string>> open_;
};

} // namespace

Json parse_json(std::string_view bytes) {
    const std::string text = to_utf8(bytes);
    require_shallow(text);
    try {
        return Json::parse(
            text, [keys = std::make_shared<KeysOnce>()](int depth, Json::parse_event_t event, Json& parsed) {
                return (*keys)(depth, event, parsed);
            });
    } catch (const Json::parse_error& error) {
        throw InputError({"", place_of(text, error.byte), "the text is not JSON here",
                          "check for a missing comma, quote or bracket, or a file cut short"});
    } catch (const Json::out_of_range&) {
        throw InputError({"", "", "a number in it is larger than a number can be",
                          "give numbers between -1e308 and 1e308"});
    }
}

Json parse_own_json(std::string_view text) {
    require_shallow(text);
    return Json::parse(text);
}

std::string json_text(const Json& json, int indent) {
    return json.dump(indent, ' ', false, Json::error_handler_t::replace);
}

} // namespace bathmos::io
