#include "app/shell/open_mark.h"

#include <QDir>
#include <QFile>
#include <QSaveFile>

namespace bathmos::app {

namespace {
constexpr int kMarks = 20; // windows at once
} // namespace

OpenMark::OpenMark(const QString& folder) {
    if (!QDir().mkpath(folder))
        return;
    for (int n = 1; n <= kMarks; ++n) {
        const QString path = QDir(folder).filePath(QStringLiteral("window-%1.open").arg(n));
        auto lock = std::make_unique<QLockFile>(path + QStringLiteral(".lock"));
        lock->setStaleLockTime(0); // only the end of its program frees it
        if (!lock->tryLock(0))
            continue;
        lock_ = std::move(lock);
        path_ = path;
        QFile left(path);
        if (left.open(QIODevice::ReadOnly))
            left_open_ = QString::fromUtf8(left.readAll()).trimmed();
        return;
    }
}

OpenMark::~OpenMark() {
    if (!path_.isEmpty())
        QFile::remove(path_);
}

void OpenMark::hold(const QString& project) {
    if (path_.isEmpty())
        return;
    QSaveFile out(path_);
    if (out.open(QIODevice::WriteOnly)) {
        out.write(project.toUtf8());
        out.commit();
    }
}

} // namespace bathmos::app
