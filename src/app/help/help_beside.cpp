#include "app/help/help_beside.h"

#include <QEvent>
#include <algorithm>

namespace bathmos::app {

HelpBeside::HelpBeside(QWidget* stations, QWidget* help) : stations_(stations), help_(help) {
    stations->setParent(this);
    help->setParent(this);
    help->installEventFilter(this);
    setMinimumHeight(stations->minimumHeight());
}

void HelpBeside::place() {
    const int aside = help_->isHidden() ? 0 : help_->width();
    const bool beside = width() - aside >= stations_->minimumSizeHint().width();
    stations_->setGeometry(0, 0, beside ? width() - aside : width(), height());
    help_->setGeometry(width() - help_->width(), 0, help_->width(), height());
    help_->raise();
}

bool HelpBeside::event(QEvent* event) {
    if (event->type() == QEvent::Resize || event->type() == QEvent::LayoutRequest) {
        if (event->type() == QEvent::LayoutRequest)
            updateGeometry(); // what a station needs may have changed
        place();
    }
    return QWidget::event(event);
}

bool HelpBeside::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Show || event->type() == QEvent::Hide)
        place();
    return QWidget::eventFilter(watched, event);
}

} // namespace bathmos::app
