// Lines out of the bytes of a device, as they come.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace bathmos::instrument {

class LineSplitter {
  public:
    /// The longest line that is kept; what is longer is thrown away up to its end.
    static constexpr std::size_t kLongest = 4096;

    /// Whole lines so far, without their ends (CR, LF or both); empty lines are left out.
    std::vector<std::string> add(std::string_view bytes);
    /// How many bytes of too long lines were thrown away.
    std::size_t thrown_away() const { return thrown_away_; }

  private:
    std::string line_;
    bool too_long_ = false;
    std::size_t thrown_away_ = 0;
};

} // namespace bathmos::instrument
