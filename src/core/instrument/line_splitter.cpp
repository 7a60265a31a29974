#include "core/instrument/line_splitter.h"

namespace bathmos::instrument {

std::vector<std::string> LineSplitter::add(std::string_view bytes) {
    std::vector<std::string> out;
    for (const char c : bytes) {
        if (c == '\r' || c == '\n') {
            if (!line_.empty() && !too_long_)
                out.push_back(std::move(line_));
            line_.clear();
            too_long_ = false;
        } else if (too_long_) {
            ++thrown_away_;
        } else if (line_.size() == kLongest) {
            thrown_away_ += line_.size() + 1;
            line_.clear();
            too_long_ = true;
        } else {
            line_ += c;
        }
    }
    return out;
}

} // namespace bathmos::instrument
