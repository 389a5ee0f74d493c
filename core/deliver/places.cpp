#include "deliver/places.h"

#include <sys/statfs.h>
#include <sys/statvfs.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>

#include "deliver/destination.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;

constexpr std::uint64_t kLargestOnFat = 0xffffffffULL;  // bytes; the size is a 32-bit number in its directory
constexpr long kFatMagic = 0x4d44;                      // statfs(2)

struct Known {
    const char* type;
    const char* name;
};
constexpr std::array<Known, 15> kKnown{{{"vfat", "FAT32"},
                                        {"msdos", "FAT"},
                                        {"exfat", "exFAT"},
                                        {"ext2", "ext2"},
                                        {"ext3", "ext3"},
                                        {"ext4", "ext4"},
                                        {"btrfs", "Btrfs"},
                                        {"xfs", "XFS"},
                                        {"f2fs", "F2FS"},
                                        {"ntfs", "NTFS"},
                                        {"ntfs3", "NTFS"},
                                        {"fuseblk", "NTFS or exFAT"},
                                        {"cifs", "network (CIFS)"},
                                        {"nfs", "network (NFS)"},
                                        {"nfs4", "network (NFS)"}}};

const char* nameOf(const std::string& type) {
    const auto found =
        std::find_if(kKnown.begin(), kKnown.end(), [&](const Known& known) { return type == known.type; });
    if (found != kKnown.end()) return found->name;
    return type.rfind("fuse.", 0) == 0 ? "mounted by a program" : nullptr;
}

// "\040" and the like stand for what would part fields (proc(5)).
std::string unescaped(const std::string& field) {
    std::string text;
    for (std::size_t i = 0; i < field.size(); ++i) {
        const auto digit = [&](std::size_t at) {
            return at < field.size() && field[at] >= '0' && field[at] <= '7';
        };
        if (field[i] == '\\' && digit(i + 1) && digit(i + 2) && digit(i + 3)) {
            text.push_back(static_cast<char>((field[i + 1] - '0') * 64 + (field[i + 2] - '0') * 8 +
                                             (field[i + 3] - '0')));
            i += 3;
        } else {
            text.push_back(field[i]);
        }
    }
    return text;
}

bool isSystem(const std::string& folder) {
    if (folder == "/") return false;
    constexpr std::array<const char*, 8> kOwn{"/boot", "/usr",  "/var", "/etc",
                                              "/sys",  "/proc", "/dev", "/run/user"};
    return std::any_of(kOwn.begin(), kOwn.end(), [&](const std::string& own) {
        return folder == own || folder.rfind(own + "/", 0) == 0;
    });
}

}  // namespace

std::vector<Mount> mountsIn(const std::string& text) {
    std::vector<Mount> mounts;
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
        const auto dash = line.find(" - ");
        if (dash == std::string::npos) continue;
        std::istringstream front(line.substr(0, dash));
        std::string id, parent, device, root, folder, options;
        front >> id >> parent >> device >> root >> folder >> options;
        std::istringstream behind(line.substr(dash + 3));
        std::string type, source, superOptions;
        behind >> type >> source >> superOptions;
        if (folder.empty() || type.empty()) continue;
        const auto readOnly = [](const std::string& words) {
            return words == "ro" || words.rfind("ro,", 0) == 0;
        };
        mounts.push_back({unescaped(folder), type, readOnly(options) || readOnly(superOptions)});
    }
    return mounts;
}

std::optional<std::uint64_t> largestFileAt(const std::string& path) {
    const auto room = roomAt(path);
    struct statfs facts {};
    if (!room || ::statfs(room.value().existing.c_str(), &facts) != 0) return std::nullopt;
    if (facts.f_type != kFatMagic) return std::nullopt;
    return kLargestOnFat;
}

std::vector<Place> placesFor(const Source& source) {
    std::ifstream file("/proc/self/mountinfo");
    std::stringstream text;
    text << file.rdbuf();
    std::vector<Place> places;
    std::set<std::string> seen;
    const auto* home = std::getenv("HOME");
    for (const auto& mount : mountsIn(text.str())) {
        const auto* name = nameOf(mount.type);
        if (name == nullptr || isSystem(mount.folder)) continue;
        Place place;
        // The system's own drive is offered by the folder that is the technician's.
        std::error_code failed;
        place.folder =
            mount.folder == "/" && home != nullptr && fs::is_directory(home, failed) ? home : mount.folder;
        place.filesystem = name;
        place.readOnly = mount.readOnly;
        struct statvfs facts {};
        if (!seen.insert(place.folder).second || ::statvfs(place.folder.c_str(), &facts) != 0) continue;
        place.freeBytes = std::uint64_t{facts.f_bavail} * facts.f_frsize;
        place.totalBytes = std::uint64_t{facts.f_blocks} * facts.f_frsize;
        place.largestFile = largestFileAt(place.folder);
        if (const auto allowed = checkDestination(source, place.folder, 0); !allowed)
            place.refused = allowed.error().what;
        places.push_back(std::move(place));
    }
    return places;
}

}  // namespace dreskel
