// What of the window comes back at the next start: its place, station, tabs, splitters, units, look; and
// which projects were open last.
#pragma once

#include <QStringList>

class QMainWindow;

namespace bathmos::app {

inline constexpr int kRecentProjects = 8;

/// Puts the window where it was; for the first time onto the screen with its frame. The station that was
/// shown last, "" for none.
QString restore_window(QMainWindow& window);
/// Keeps how the window stands, and its station.
void keep_window(const QMainWindow& window, const QString& station);

/// Files that were open last and are still there, the last first.
QStringList recent_projects();
/// A file is open now.
void note_recent(const QString& path);

} // namespace bathmos::app
