#include "io/file/shared_folder.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <sys/vfs.h>

namespace bathmos::io {

namespace {

// AFS twice, CEPH, CIFS, FUSE, NCP, NFS, OCFS2, GFS2, SMB, SMB2, 9P, virtual machines' shared folders twice.
constexpr std::array<std::uint32_t, 14> kShared = {0x5346414f, 0x6b414653, 0x00c36400, 0xff534d42, 0x65735546,
                                                   0x0000564c, 0x00006969, 0x7461636f, 0x01161970, 0x0000517b,
                                                   0xfe534d42, 0x01021997, 0x786f4256, 0xbacbacbc};

} // namespace

FolderOf folder_of(const std::filesystem::path& path) {
    const std::filesystem::path folder = path.parent_path().empty() ? "." : path.parent_path();
    struct statfs found {};
    if (statfs(folder.c_str(), &found) != 0)
        return FolderOf::ThisMachine;
    const auto kind = static_cast<std::uint32_t>(found.f_type);
    return std::ranges::find(kShared, kind) != kShared.end() ? FolderOf::SeveralMachines
                                                             : FolderOf::ThisMachine;
}

} // namespace bathmos::io
