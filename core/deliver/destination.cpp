#include "deliver/destination.h"

#include <sys/stat.h>
#include <sys/statvfs.h>
#include <sys/sysmacros.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>
#include <vector>

#include "base/words.h"
#include "deliver/quota.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;

// What bytes on a filesystem finally end up on: whole disks, and files that serve as disks.
struct Ground {
    std::set<dev_t> disks;
    std::set<std::pair<dev_t, ino_t>> images;
};

void dig(dev_t device, Ground& ground, int depth);

void digFile(const std::string& path, Ground& ground, int depth) {
    struct stat facts {};
    if (::stat(path.c_str(), &facts) != 0) return;
    if (S_ISBLK(facts.st_mode)) {
        dig(facts.st_rdev, ground, depth);
    } else if (S_ISREG(facts.st_mode)) {
        ground.images.emplace(facts.st_dev, facts.st_ino);
        dig(facts.st_dev, ground, depth);
    }
}

std::string firstLine(const fs::path& path) {
    std::ifstream file(path);
    std::string line;
    std::getline(file, line);
    return line;
}

// The source of the mount that a device number without a block device belongs to (FUSE and the like).
std::vector<std::string> mountSources(dev_t device) {
    std::vector<std::string> sources;
    const auto number = std::to_string(major(device)) + ":" + std::to_string(minor(device));
    std::ifstream mounts("/proc/self/mountinfo");
    for (std::string line; std::getline(mounts, line);) {
        std::istringstream fields(line);
        std::string id, parent, where;
        fields >> id >> parent >> where;
        const auto dash = line.find(" - ");
        if (where != number || dash == std::string::npos) continue;
        std::istringstream behind(line.substr(dash + 3));
        std::string type, source;
        behind >> type >> source;
        if (!source.empty() && source[0] == '/') sources.push_back(source);
    }
    return sources;
}

void dig(dev_t device, Ground& ground, int depth) {
    if (depth > 8) return;
    std::error_code failed;
    const fs::path link =
        "/sys/dev/block/" + std::to_string(major(device)) + ":" + std::to_string(minor(device));
    const auto node = fs::canonical(link, failed);
    if (failed) {
        for (const auto& source : mountSources(device)) digFile(source, ground, depth + 1);
        return;
    }
    if (fs::exists(node / "partition", failed)) {
        unsigned high = 0;
        unsigned low = 0;
        char colon = 0;
        std::istringstream numbers(firstLine(node.parent_path() / "dev"));
        if (numbers >> high >> colon >> low) dig(makedev(high, low), ground, depth + 1);
        return;
    }
    ground.disks.insert(device);
    for (const auto& below : fs::directory_iterator(node / "slaves", failed)) {
        digFile("/dev/" + below.path().filename().string(), ground, depth + 1);
    }
    const auto image = firstLine(node / "loop" / "backing_file");
    if (!image.empty()) digFile(image, ground, depth + 1);
}

// The disk or the image that the source itself is; not the drive that merely holds an image.
Ground groundOfSource(const Source& source) {
    Ground ground;
    struct stat facts {};
    if (::fstat(source.descriptor(), &facts) != 0) return ground;
    if (S_ISREG(facts.st_mode)) {
        ground.images.emplace(facts.st_dev, facts.st_ino);
        return ground;
    }
    Ground all;
    dig(facts.st_rdev, all, 0);
    ground.images = all.images;
    // A loop device stands on a drive that may well take the files; the loop device itself may not.
    if (all.images.empty()) {
        ground.disks = all.disks;
    } else {
        ground.disks.insert(facts.st_rdev);
    }
    return ground;
}

Error refuse(std::string what, const std::string& where, std::string advice) {
    return {Fault::DestinationRefused, std::move(what), where, std::move(advice)};
}

template <typename T>
bool meet(const std::set<T>& a, const std::set<T>& b) {
    return std::any_of(a.begin(), a.end(), [&b](const T& item) { return b.count(item) > 0; });
}

}  // namespace

Result<Room> roomAt(const std::string& destination) {
    std::error_code failed;
    auto existing = fs::absolute(destination, failed);
    while (!fs::exists(existing, failed) && existing.has_relative_path()) existing = existing.parent_path();
    existing = fs::canonical(existing, failed);
    if (failed || !fs::is_directory(existing, failed)) {
        return refuse("The destination is not a folder", destination, "Name a folder on another drive");
    }
    struct statvfs facts {};
    if (::statvfs(existing.c_str(), &facts) != 0) {
        return refuse(std::string("The destination cannot be looked at: ") + std::strerror(errno),
                      existing.string(), "Choose another folder");
    }
    auto free = std::uint64_t{facts.f_bavail} * facts.f_frsize;
    struct stat place {};
    if (::stat(existing.c_str(), &place) == 0) {
        for (const auto& device : mountSources(place.st_dev)) {
            if (const auto left = leftByQuota(device)) free = std::min(free, *left);
        }
    }
    return Room{existing.string(), free, std::uint64_t{facts.f_blocks} * facts.f_frsize};
}

Status checkDestination(const Source& source, const std::string& destination, std::uint64_t bytes) {
    if (!source.isThere())
        return Error{Fault::SourceUnusable, "The card is not there: nothing of it can be saved",
                     source.path(), "Attach it, or open its copy, and open the job again"};
    const auto room = roomAt(destination);
    if (!room) return room.error();
    const auto& existing = room.value().existing;

    struct stat facts {};
    if (::stat(existing.c_str(), &facts) != 0) {
        return refuse(std::string("The destination cannot be looked at: ") + std::strerror(errno), existing,
                      "");
    }
    Ground ground;
    dig(facts.st_dev, ground, 0);
    const auto own = groundOfSource(source);
    if (meet(ground.disks, own.disks) || meet(ground.images, own.images)) {
        return refuse(
            "The destination lies on the card itself, and writing there would destroy what is still to be "
            "found",
            destination, "Choose a folder on another drive");
    }
    struct statvfs space {};
    const bool readOnly = ::statvfs(existing.c_str(), &space) == 0 && (space.f_flag & ST_RDONLY) != 0;
    if (readOnly || ::access(existing.c_str(), W_OK | X_OK) != 0) {
        return refuse(
            readOnly ? "The destination is read-only" : "There is no right to write to the destination",
            destination, "Choose another folder");
    }
    if (room.value().freeBytes < bytes) {
        return refuse("There is not enough room: " + humanSize(bytes) + " are needed and " +
                          humanSize(room.value().freeBytes) + " are free",
                      destination, "Choose a larger drive, or fewer files");
    }
    return Done{};
}

}  // namespace dreskel
