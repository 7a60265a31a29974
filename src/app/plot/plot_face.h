// A plot to those who do not see it: its reading at the cursor, in words.
#pragma once

class QObject;
class QString;
class QAccessibleInterface;

namespace bathmos::app {

/// From now on plots have such a face; asked more than once, it is done once.
void give_plots_a_face();

} // namespace bathmos::app
