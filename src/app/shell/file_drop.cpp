#include "app/shell/file_drop.h"

#include <QApplication>
#include <QDropEvent>
#include <QMimeData>
#include <QTimer>
#include <QUrl>
#include <QWidget>

namespace bathmos::app {

FileDrop::FileDrop(QWidget* window, Take take) : QObject(window), window_(window), take_(std::move(take)) {
    window_->setAcceptDrops(true);
    qApp->installEventFilter(this); // fields of text would else take a file's name for text
}

QStringList FileDrop::files_of(const QMimeData* data) {
    QStringList out;
    for (const QUrl& url : data->urls())
        if (url.isLocalFile())
            out << url.toLocalFile();
    return out;
}

bool FileDrop::eventFilter(QObject* watched, QEvent* event) {
    const auto type = event->type();
    if (type != QEvent::DragEnter && type != QEvent::DragMove && type != QEvent::Drop)
        return false;
    auto* widget = qobject_cast<QWidget*>(watched);
    auto* drop = static_cast<QDropEvent*>(event);
    if (!widget || widget->window() != window_)
        return false;
    const QStringList files = files_of(drop->mimeData());
    if (files.isEmpty())
        return false;
    drop->setDropAction(Qt::CopyAction);
    drop->accept();
    if (type == QEvent::Drop) // questions may follow: not while the other program waits for the drop's end
        QTimer::singleShot(0, this, [this, files] { take_(files); });
    return true;
}

} // namespace bathmos::app
