#include "app/shell/recovery_slot.h"

#include <QDir>
#include <QFile>

namespace bathmos::app {

namespace {
constexpr int kSlots = 32;

QString slot_path(const QString& folder, int slot) {
    return QDir(folder).filePath(QStringLiteral("draft-%1.bathmos").arg(slot));
}
} // namespace

RecoverySlot::RecoverySlot(const QString& folder, First first) : folder_(folder) {
    if (!QDir().mkpath(folder))
        return;
    const bool left_behind_first = first == First::LeftBehind;
    for (const bool left_behind : {left_behind_first, !left_behind_first})
        for (int slot = 1; slot <= kSlots; ++slot) {
            const QString path = slot_path(folder, slot);
            if (QFile::exists(path) == left_behind && take(path))
                return;
        }
}

std::unique_ptr<QLockFile> RecoverySlot::lock_of(const QString& path) {
    auto lock = std::make_unique<QLockFile>(path + QStringLiteral(".slot"));
    lock->setStaleLockTime(0); // only a dead holder makes it stale, not age
    return lock->tryLock(0) ? std::move(lock) : nullptr;
}

bool RecoverySlot::take(const QString& path) {
    lock_ = lock_of(path);
    if (!lock_)
        return false;
    path_ = path;
    return true;
}

bool RecoverySlot::others_left_behind() const {
    for (int slot = 1; slot <= kSlots; ++slot)
        if (const QString path = slot_path(folder_, slot);
            path != path_ && QFile::exists(path) && lock_of(path)) // free again at once
            return true;
    return false;
}

} // namespace bathmos::app
