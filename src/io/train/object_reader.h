// One JSON object read key by key, with errors that name the key, and unknown keys refused at the end.
#pragma once

#include "core/problem/input_error.h"
#include "io/json/json.h"

#include <string>
#include <vector>

namespace bathmos::io {

class ObjectReader {
  public:
    /// `path` is the object's own key path, "" for the whole file. Throws if `json` is no object.
    ObjectReader(const Json& json, std::string path);

    bool has(const std::string& key);             ///< present and not null; counts as known
    const Json& required(const std::string& key); ///< throws when missing or null
    double number(const std::string& key);        ///< required, finite
    std::string text(const std::string& key);     ///< required
    std::vector<double> numbers(const std::string& key);
    ObjectReader object(const std::string& key);
    std::string path_of(const std::string& key) const;
    /// Throws for the first key that nobody asked for, with the nearest known one.
    void finish() const;

    [[noreturn]] void refuse(const std::string& key, std::string what, std::string mend) const;

  private:
    const Json& json_;
    std::string path_;
    std::vector<std::string> known_;
};

} // namespace bathmos::io
