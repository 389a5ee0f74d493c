#include "demo/fat_card.h"

#include <fcntl.h>

#include <algorithm>
#include <cerrno>
#include <cstring>

namespace dreskel::demo {
namespace {

constexpr std::uint32_t kReserved = 32;
constexpr std::uint32_t kEndOfChain = 0x0fffffff;

void store(std::vector<std::uint8_t>& bytes, std::size_t at, std::uint64_t value, int count) {
    for (int i = 0; i < count; ++i)
        bytes[at + static_cast<std::size_t>(i)] = static_cast<std::uint8_t>(value >> (8 * i));
}

void storeText(std::vector<std::uint8_t>& bytes, std::size_t at, const std::string& text) {
    std::copy(text.begin(), text.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at));
}

// "MILL0017.JPG" as the eleven characters of a folder entry.
std::string shortName(const std::string& name) {
    const auto dot = name.find('.');
    auto stem = name.substr(0, dot);
    auto extension = dot == std::string::npos ? std::string() : name.substr(dot + 1);
    stem.resize(8, ' ');
    extension.resize(3, ' ');
    return stem + extension;
}

}  // namespace

Result<FatCard> FatCard::create(const std::string& path, std::uint64_t size) {
    UniqueFd fd(::open(path.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0644));
    if (!fd || ::ftruncate(fd.get(), static_cast<off_t>(size)) != 0) {
        return Error{Fault::Failed, std::string("The image could not be created: ") + std::strerror(errno),
                     path, "Choose a name that is not taken yet"};
    }
    return FatCard(std::move(fd), size);
}

Status FatCard::put(std::uint64_t offset, Bytes bytes) {
    while (!bytes.empty()) {
        const auto count = ::pwrite(fd_.get(), bytes.data(), bytes.size(), static_cast<off_t>(offset));
        if (count <= 0)
            return Error{Fault::Failed, std::string("Writing failed: ") + std::strerror(errno), "the image",
                         ""};
        bytes = bytes.subspan(static_cast<std::size_t>(count));
        offset += static_cast<std::uint64_t>(count);
    }
    return Done{};
}

Status FatCard::format(std::uint32_t serial, const std::string& label) {
    const auto sectors = static_cast<std::uint32_t>(size_ / kSector);
    const std::uint32_t perCluster = kCluster / kSector;
    fatSectors_ = (sectors / perCluster * 4 + kSector - 1) / kSector;
    dataStart_ = std::uint64_t{kReserved + 2 * fatSectors_} * kSector;
    clusters_ = (sectors - kReserved - 2 * fatSectors_) / perCluster;
    fat_.assign(clusters_ + 2, 0);
    fat_[0] = 0x0ffffff8;
    fat_[1] = fat_[2] = kEndOfChain;
    next_ = 3;
    paths_ = {{"", 2}};
    folders_.clear();
    folders_[2] = {2, 0, {}};

    std::vector<std::uint8_t> boot(kSector);
    storeText(boot, 0, std::string("\xeb\x58\x90", 3) + "DRESKEL ");
    store(boot, 11, kSector, 2);
    store(boot, 13, perCluster, 1);
    store(boot, 14, kReserved, 2);
    store(boot, 16, 2, 1);
    store(boot, 21, 0xf8, 1);
    store(boot, 24, 63, 2);
    store(boot, 26, 255, 2);
    store(boot, 32, sectors, 4);
    store(boot, 36, fatSectors_, 4);
    store(boot, 44, 2, 4);
    store(boot, 48, 1, 2);
    store(boot, 50, 6, 2);
    store(boot, 64, 0x80, 1);
    store(boot, 66, 0x29, 1);
    store(boot, 67, serial, 4);
    auto padded = label;
    padded.resize(11, ' ');
    storeText(boot, 71, padded + "FAT32   ");
    store(boot, 510, 0xaa55, 2);
    std::vector<std::uint8_t> information(kSector);
    store(information, 0, 0x41615252, 4);
    store(information, 484, 0x61417272, 4);
    store(information, 488, 0xffffffff, 4);
    store(information, 492, 0xffffffff, 4);
    store(information, 508, 0xaa550000, 4);
    for (const std::uint64_t copy : {0U, 6U}) {
        if (auto done = put(copy * kSector, boot); !done) return done;
        if (auto done = put((copy + 1) * kSector, information); !done) return done;
    }
    const std::vector<std::uint8_t> empty(kCluster);
    return put(offsetOf(2), empty);
}

std::uint32_t FatCard::takeCluster() {
    while (next_ < fat_.size() && fat_[next_] != 0) ++next_;
    return next_ < fat_.size() ? next_++ : 0;
}

std::uint32_t FatCard::folderFor(const std::string& path, std::time_t when) {
    if (const auto known = paths_.find(path); known != paths_.end()) return known->second;
    const auto slash = path.rfind('/');
    const auto parent = folderFor(slash == std::string::npos ? "" : path.substr(0, slash), when);
    const auto cluster = takeCluster();
    fat_[cluster] = kEndOfChain;
    const auto name = slash == std::string::npos ? path : path.substr(slash + 1);
    folders_[parent].entries.push_back({shortName(name), true, cluster, 0, when});
    folders_[cluster] = {cluster, parent, {}};
    paths_[path] = cluster;
    return cluster;
}

Result<std::vector<ByteRange>> FatCard::add(const std::string& folder, const std::string& name, Bytes bytes,
                                            std::time_t when, int runs, std::uint32_t gap) {
    const auto home = folderFor(folder, when);
    const auto needed = static_cast<std::uint32_t>((bytes.size() + kCluster - 1) / kCluster);
    std::vector<std::uint32_t> chain;
    const auto resume = next_;
    const auto perRun = needed / static_cast<std::uint32_t>(runs) + 1;
    for (std::uint32_t i = 0; i < needed; ++i) {
        if (i > 0 && i % perRun == 0) next_ += gap;
        const auto cluster = takeCluster();
        if (cluster == 0) return Error{Fault::Failed, "The demo card is full", name, ""};
        chain.push_back(cluster);
    }
    // With gaps, the next file goes into them.
    if (runs > 1) next_ = resume;
    std::vector<ByteRange> ranges;
    for (std::size_t i = 0; i < chain.size(); ++i) {
        fat_[chain[i]] = i + 1 < chain.size() ? chain[i + 1] : kEndOfChain;
        const auto part = slice(bytes, i * kCluster, kCluster);
        if (auto done = put(offsetOf(chain[i]), part); !done) return done.error();
        if (!ranges.empty() && ranges.back().end() == offsetOf(chain[i])) {
            ranges.back().length += part.size();
        } else {
            ranges.push_back({offsetOf(chain[i]), part.size()});
        }
    }
    folders_[home].entries.push_back({shortName(name), false, chain.empty() ? 0 : chain[0],
                                      static_cast<std::uint32_t>(bytes.size()), when});
    return ranges;
}

Status FatCard::finish() {
    for (auto& [cluster, folder] : folders_) {
        std::vector<std::uint8_t> body;
        const auto add = [&](const Entry& entry) {
            const auto at = body.size();
            body.resize(at + 32);
            storeText(body, at, entry.name);
            store(body, at + 11, entry.folder ? 0x10 : 0x20, 1);
            std::tm parts{};
            gmtime_r(&entry.when, &parts);
            const auto time =
                static_cast<std::uint64_t>(parts.tm_hour << 11 | parts.tm_min << 5 | parts.tm_sec / 2);
            const auto date = static_cast<std::uint64_t>((parts.tm_year - 80) << 9 | (parts.tm_mon + 1) << 5 |
                                                         parts.tm_mday);
            for (const std::size_t field : {14U, 22U}) {
                store(body, at + field, time, 2);
                store(body, at + field + 2, date, 2);
            }
            store(body, at + 20, entry.cluster >> 16, 2);
            store(body, at + 26, entry.cluster & 0xffff, 2);
            store(body, at + 28, entry.size, 4);
        };
        if (cluster != 2) {
            add({".          ", true, cluster, 0, 0});
            add({"..         ", true, folder.parent == 2 ? 0 : folder.parent, 0, 0});
        }
        for (const auto& entry : folder.entries) add(entry);
        if (body.size() > kCluster)
            return Error{Fault::Failed, "A folder of the demo card is too full", "", ""};
        body.resize(kCluster);
        if (auto done = put(offsetOf(cluster), body); !done) return done;
    }
    std::vector<std::uint8_t> table(std::size_t{fatSectors_} * kSector);
    for (std::size_t i = 0; i < fat_.size(); ++i) store(table, i * 4, fat_[i], 4);
    for (std::uint64_t copy = 0; copy < 2; ++copy) {
        if (auto done = put((kReserved + copy * fatSectors_) * kSector, table); !done) return done;
    }
    return Done{};
}

}  // namespace dreskel::demo
