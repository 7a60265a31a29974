#include "app/shell/recovery_slot.h"

#include <QDir>
#include <QFile>

namespace bathmos::app {

namespace {
constexpr int kSlots = 32;
}

RecoverySlot::RecoverySlot(const QString& folder) {
    if (!QDir().mkpath(folder))
        return;
    for (const bool left_behind : {true, false})
        for (int slot = 1; slot <= kSlots; ++slot) {
            const QString path = QDir(folder).filePath(QStringLiteral("draft-%1.bathmos").arg(slot));
            if (QFile::exists(path) == left_behind && take(path))
                return;
        }
}

bool RecoverySlot::take(const QString& path) {
    auto lock = std::make_unique<QLockFile>(path + QStringLiteral(".slot"));
    lock->setStaleLockTime(0); // only a dead holder makes it stale, not age
    if (!lock->tryLock(0))
        return false;
    lock_ = std::move(lock);
    path_ = path;
    return true;
}

} // namespace bathmos::app
