// Text of the core as text of the window, and paths of the window as paths of files.
#pragma once

#include <QFile>
#include <QString>
#include <string>
#include <string_view>

namespace bathmos::app {

inline QString words(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size()));
}

/// Bytes of a path as the file system wants them.
inline std::string native(const QString& path) {
    return QFile::encodeName(path).toStdString();
}

} // namespace bathmos::app
