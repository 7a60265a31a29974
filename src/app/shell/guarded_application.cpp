#include "app/shell/guarded_application.h"

#include "app/text/words.h"

namespace bathmos::app {

bool GuardedApplication::notify(QObject* receiver, QEvent* event) {
    try {
        return QApplication::notify(receiver, event);
    } catch (const std::bad_alloc&) {
        emit fault(tr("There is not enough memory for this; nothing was changed."));
    } catch (const std::exception& error) {
        emit fault(tr("This could not be done: %1").arg(phrase(error.what())));
    }
    return false;
}

} // namespace bathmos::app
