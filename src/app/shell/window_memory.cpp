#include "app/shell/window_memory.h"

#include "app/widgets/remembered.h"

#include <QFileInfo>
#include <QHeaderView>
#include <QMainWindow>
#include <QScreen>
#include <QSplitter>
#include <QTabWidget>

namespace bathmos::app {

namespace {

constexpr int kFrame_px = 40; // room for a title bar and borders

// Splitters have no names; they are told apart by their order, as long as there are as many.
QString splitter_key(int place, qsizetype count) {
    return QStringLiteral("window/splitter_%1_of_%2").arg(place).arg(count);
}

QString tab_key(const QTabWidget& tabs) {
    return QStringLiteral("window/tab_") + tabs.objectName();
}

// Tables and trees whose columns a person can drag, by their names and how many columns they have.
QMap<QString, QHeaderView*> dragged_headers(const QMainWindow& window) {
    QMap<QString, QHeaderView*> out;
    for (QHeaderView* header : window.findChildren<QHeaderView*>()) {
        const QString name = header->parentWidget() ? header->parentWidget()->objectName() : QString();
        if (!name.isEmpty() && header->orientation() == Qt::Horizontal && header->count() > 1 &&
            header->sectionResizeMode(0) == QHeaderView::Interactive)
            out.insert(QStringLiteral("window/columns_%1_of_%2").arg(name).arg(header->count()), header);
    }
    return out;
}

void fit_to_screen(QMainWindow& window) {
    if (const QScreen* screen = window.screen()) {
        const QRect room = screen->availableGeometry();
        window.resize(window.size().boundedTo(room.size() - QSize(0, kFrame_px)));
        window.move(room.topLeft());
    }
}

} // namespace

QString restore_window(QMainWindow& window) {
    const QSettings settings = remembered();
    if (!window.restoreGeometry(settings.value(QStringLiteral("window/geometry")).toByteArray()))
        fit_to_screen(window);
    for (QTabWidget* tabs : window.findChildren<QTabWidget*>())
        if (const int shown = settings.value(tab_key(*tabs), -1).toInt();
            !tabs->objectName().isEmpty() && shown >= 0 && shown < tabs->count())
            tabs->setCurrentIndex(shown);
    const auto splitters = window.findChildren<QSplitter*>();
    for (int i = 0; i < splitters.size(); ++i)
        splitters[i]->restoreState(settings.value(splitter_key(i, splitters.size())).toByteArray());
    for (const auto& [key, header] : dragged_headers(window).toStdMap())
        header->restoreState(settings.value(key).toByteArray());
    return settings.value(QStringLiteral("window/station")).toString();
}

void keep_window(const QMainWindow& window, const QString& station) {
    QSettings settings = remembered();
    settings.setValue(QStringLiteral("window/geometry"), window.saveGeometry());
    settings.setValue(QStringLiteral("window/station"), station);
    for (const QTabWidget* tabs : window.findChildren<QTabWidget*>())
        if (!tabs->objectName().isEmpty())
            settings.setValue(tab_key(*tabs), tabs->currentIndex());
    const auto splitters = window.findChildren<QSplitter*>();
    for (int i = 0; i < splitters.size(); ++i)
        settings.setValue(splitter_key(i, splitters.size()), splitters[i]->saveState());
    for (const auto& [key, header] : dragged_headers(window).toStdMap())
        settings.setValue(key, header->saveState());
}

QStringList recent_projects() {
    QStringList out;
    for (const QString& path : remembered().value(QStringLiteral("recent")).toStringList())
        if (QFileInfo::exists(path))
            out << path;
    return out;
}

void note_recent(const QString& path) {
    QSettings settings = remembered();
    QStringList recent = settings.value(QStringLiteral("recent")).toStringList();
    const QString whole = QFileInfo(path).absoluteFilePath();
    recent.removeAll(whole);
    recent.prepend(whole);
    settings.setValue(QStringLiteral("recent"), QStringList(recent.mid(0, kRecentProjects)));
}

} // namespace bathmos::app
