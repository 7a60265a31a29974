// The fonts that come with the programs, for screen and paper.
#pragma once

namespace bathmos::print {

/// Makes "Inter" and "JetBrains Mono" known; once there is an application. False where one cannot be read.
bool load_fonts();

} // namespace bathmos::print
