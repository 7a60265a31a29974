#include "app/shell/demo_project.h"

#include "core/problem/input_error.h"

#include <QCoreApplication>
#include <QDir>
#include <QFile>

namespace bathmos::app {

QString shipped_demo() {
    const QDir here(QCoreApplication::applicationDirPath());
    for (const char* place : {"../share/bathmos/demo/ashgill.bathmos", "../../../demo/ashgill.bathmos"}) {
        const QString path = QDir::cleanPath(here.filePath(QLatin1String(place)));
        if (QFile::exists(path))
            return path;
    }
    return {};
}

QString demo_copy(const QString& shipped, const QString& folder) {
    const QString to = QDir(folder).filePath(QStringLiteral("ashgill.bathmos"));
    if (QFile::exists(to))
        return to;
    if (!QDir().mkpath(folder) || !QFile::copy(shipped, to) ||
        !QFile::setPermissions(to, QFile::ReadOwner | QFile::WriteOwner | QFile::ReadGroup))
        throw InputError({to.toStdString(), "", "the demo could not be copied there",
                          "look at the folder's permissions and the room on its disk"});
    return to;
}

} // namespace bathmos::app
