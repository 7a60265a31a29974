#include "io/torn_files.h"

#include <algorithm>
#include <cstring>
#include <fstream>
#include <new>

namespace bathmos::test {

namespace {

constexpr std::int64_t kSector = 512;

// The library gives room for this; the file of the system below follows in the same block.
struct TornFile {
    sqlite3_file base;
    TornFiles* files;
    std::string* path;
    sqlite3_file* under;
};

TornFile& self(sqlite3_file* file) {
    return *reinterpret_cast<TornFile*>(file);
}
sqlite3_file* under(sqlite3_file* file) {
    return self(file).under;
}

std::int64_t size_of(sqlite3_file* file) {
    sqlite3_int64 size = 0;
    under(file)->pMethods->xFileSize(under(file), &size);
    return size;
}

std::string content(sqlite3_file* file, std::int64_t at, std::int64_t bytes) {
    std::string out(static_cast<std::size_t>(std::clamp<std::int64_t>(size_of(file) - at, 0, bytes)), '\0');
    if (!out.empty())
        under(file)->pMethods->xRead(under(file), out.data(), static_cast<int>(out.size()), at);
    return out;
}

int close_file(sqlite3_file* file) {
    const int result = under(file)->pMethods->xClose(under(file));
    delete self(file).path;
    return result;
}
int read_file(sqlite3_file* file, void* to, int bytes, sqlite3_int64 at) {
    return under(file)->pMethods->xRead(under(file), to, bytes, at);
}
int write_file(sqlite3_file* file, const void* from, int bytes, sqlite3_int64 at) {
    self(file).files->changes.push_back(
        {*self(file).path, at, content(file, at, bytes), size_of(file), static_cast<std::int64_t>(bytes)});
    return under(file)->pMethods->xWrite(under(file), from, bytes, at);
}
int truncate_file(sqlite3_file* file, sqlite3_int64 size) {
    const std::int64_t now = size_of(file);
    self(file).files->changes.push_back({*self(file).path, size, content(file, size, now - size), now, -1});
    return under(file)->pMethods->xTruncate(under(file), size);
}
int sync_file(sqlite3_file* file, int flags) {
    std::erase_if(self(file).files->changes,
                  [&](const TornFiles::Change& change) { return change.path == *self(file).path; });
    return under(file)->pMethods->xSync(under(file), flags);
}
int file_size(sqlite3_file* file, sqlite3_int64* size) {
    return under(file)->pMethods->xFileSize(under(file), size);
}
int lock_file(sqlite3_file* file, int kind) {
    return under(file)->pMethods->xLock(under(file), kind);
}
int unlock_file(sqlite3_file* file, int kind) {
    return under(file)->pMethods->xUnlock(under(file), kind);
}
int check_lock(sqlite3_file* file, int* out) {
    return under(file)->pMethods->xCheckReservedLock(under(file), out);
}
int control(sqlite3_file* file, int what, void* with) {
    return under(file)->pMethods->xFileControl(under(file), what, with);
}
int sector_size(sqlite3_file*) {
    return static_cast<int>(kSector);
}
int characteristics(sqlite3_file*) {
    return 0; // promises nothing
}
int shm_map(sqlite3_file* file, int page, int size, int extend, void volatile** out) {
    return under(file)->pMethods->xShmMap(under(file), page, size, extend, out);
}
int shm_lock(sqlite3_file* file, int offset, int count, int flags) {
    return under(file)->pMethods->xShmLock(under(file), offset, count, flags);
}
void shm_barrier(sqlite3_file* file) {
    under(file)->pMethods->xShmBarrier(under(file));
}
int shm_unmap(sqlite3_file* file, int remove) {
    return under(file)->pMethods->xShmUnmap(under(file), remove);
}

const sqlite3_io_methods kMethods = {2,           close_file,  read_file,       write_file,  truncate_file,
                                     sync_file,   file_size,   lock_file,       unlock_file, check_lock,
                                     control,     sector_size, characteristics, shm_map,     shm_lock,
                                     shm_barrier, shm_unmap,   nullptr,         nullptr};

struct Beside {
    TornFiles* files;
    sqlite3_vfs* under;
};
Beside& beside(sqlite3_vfs* vfs) {
    return *static_cast<Beside*>(vfs->pAppData);
}

int open_file(sqlite3_vfs* vfs, const char* name, sqlite3_file* file, int flags, int* out) {
    TornFile& torn = *new (file) TornFile{};
    torn.files = beside(vfs).files;
    torn.under = reinterpret_cast<sqlite3_file*>(reinterpret_cast<char*>(file) + sizeof(TornFile));
    const int result = beside(vfs).under->xOpen(beside(vfs).under, name, torn.under, flags, out);
    if (result != SQLITE_OK)
        return result;
    torn.path = new std::string(name ? name : "");
    torn.base.pMethods = &kMethods;
    return SQLITE_OK;
}
int delete_file(sqlite3_vfs* vfs, const char* name, int sync) {
    std::erase_if(beside(vfs).files->changes,
                  [&](const TornFiles::Change& change) { return change.path == name; });
    return beside(vfs).under->xDelete(beside(vfs).under, name, sync);
}
int access_file(sqlite3_vfs* vfs, const char* name, int flags, int* out) {
    return beside(vfs).under->xAccess(beside(vfs).under, name, flags, out);
}
int full_name(sqlite3_vfs* vfs, const char* name, int size, char* out) {
    return beside(vfs).under->xFullPathname(beside(vfs).under, name, size, out);
}

// What stood there before, sector by sector, where the power took it.
void take_back(std::string& bytes, const TornFiles::Change& change, std::mt19937& random) {
    if (random() % 2 == 0)
        return; // it was on the disk in time
    const auto at = static_cast<std::size_t>(change.at);
    if (change.bytes < 0) { // the file was not yet shorter
        bytes.resize(std::max(bytes.size(), static_cast<std::size_t>(change.size_before)));
        bytes.replace(at, change.before.size(), change.before);
        return;
    }
    for (std::int64_t from = 0; from < change.bytes; from += kSector) {
        if (random() % 2 == 0)
            continue;
        for (std::int64_t i = from; i < std::min(change.bytes, from + kSector); ++i)
            if (const auto place = at + static_cast<std::size_t>(i); place < bytes.size())
                bytes[place] = static_cast<std::size_t>(i) < change.before.size()
                                   ? change.before[static_cast<std::size_t>(i)]
                                   : '\0';
    }
}

} // namespace

TornFiles::TornFiles() : under_(sqlite3_vfs_find(nullptr)) {
    vfs_ = *under_;
    vfs_.zName = "torn";
    vfs_.szOsFile = static_cast<int>(sizeof(TornFile)) + under_->szOsFile;
    vfs_.pAppData = new Beside{this, under_};
    vfs_.xOpen = open_file;
    vfs_.xDelete = delete_file;
    vfs_.xAccess = access_file;
    vfs_.xFullPathname = full_name;
    sqlite3_vfs_register(&vfs_, 1);
}

TornFiles::~TornFiles() {
    sqlite3_vfs_unregister(&vfs_);
    sqlite3_vfs_register(under_, 1);
    delete static_cast<Beside*>(vfs_.pAppData);
}

std::size_t TornFiles::unsynced() const {
    return changes.size();
}

void TornFiles::crash_into(const std::filesystem::path& folder, const std::filesystem::path& to,
                           std::mt19937& random) const {
    for (const auto& file : std::filesystem::directory_iterator(folder)) {
        const std::string name = file.path().filename().string();
        if (name.ends_with("-shm") || name.ends_with(".lock"))
            continue; // in memory only
        std::ifstream in(file.path(), std::ios::binary);
        std::string bytes((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
        for (auto change = changes.rbegin(); change != changes.rend(); ++change)
            if (change->path == file.path().string())
                take_back(bytes, *change, random);
        std::ofstream(to / name, std::ios::binary) << bytes;
    }
}

} // namespace bathmos::test
