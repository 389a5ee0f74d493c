#include "volume/survey.h"

#include <algorithm>

#include "base/words.h"
#include "source/tolerant_read.h"

namespace dreskel {
namespace {

std::optional<BootSector> bootAt(const Source& source, std::uint64_t offset) {
    std::vector<std::uint8_t> sector(512);
    if (offset + sector.size() > source.size()) return std::nullopt;
    readTolerant(source, offset, sector);
    return readBootSector(sector);
}

// Filesystems that are named and searched by signature only, by the marks of their superblocks: ext2 to ext4
// and F2FS (Linux, Documentation/filesystems), HFS+ (Apple TN1150), APFS (Apple File System Reference).
std::optional<BootSector> otherAt(const Source& source, std::uint64_t offset) {
    std::vector<std::uint8_t> bytes(2048);
    if (offset + bytes.size() > source.size()) return std::nullopt;
    readTolerant(source, offset, bytes);
    const Bytes super = Bytes(bytes).subspan(1024);
    BootSector found;
    if (super[56] == 0x53 && super[57] == 0xef) found.kind = "ext4";
    if (startsWith(super, "\x10\x20\xf5\xf2")) found.kind = "F2FS";
    if (startsWith(super, "H+") || startsWith(super, "HX")) found.kind = "HFS+";
    if (startsWith(Bytes(bytes).subspan(32), "NXSB")) found.kind = "APFS";
    if (found.kind.empty()) return std::nullopt;
    found.size = source.size() - offset;
    found.sectorSize = source.sectorSize();
    return found;
}

void surveyPlace(const Source& source, std::uint64_t offset, std::vector<VolumeSeen>& into) {
    auto main = bootAt(source, offset);
    if (!main) main = otherAt(source, offset);
    if (main) into.push_back({*main, offset, VolumeSeen::State::Live, ""});
    // Backups: FAT32 keeps one at sector 6, exFAT at sector 12. A formatter of the other kind leaves them.
    for (const unsigned sector : {6U, 12U}) {
        const auto backup = bootAt(source, offset + std::uint64_t{sector} * source.sectorSize());
        if (!backup) continue;
        if (!main) {
            into.push_back(
                {*backup, offset, VolumeSeen::State::Damaged,
                 "its boot sector is gone, the copy at sector " + std::to_string(sector) + " is sound"});
            return;
        }
        if (backup->kind != main->kind || backup->serial != main->serial || backup->size != main->size) {
            into.push_back({*backup, offset, VolumeSeen::State::Earlier,
                            "a copy of its boot sector is left at sector " + std::to_string(sector)});
        }
    }
}

// A boot sector that was met at `at`, as the volume it tells of: the main one, or a copy of it that lies six
// or twelve sectors behind.
VolumeSeen volumeFrom(const BootSector& facts, std::uint64_t at) {
    for (const unsigned behind : {6U, 12U}) {
        const auto distance = std::uint64_t{behind} * facts.sectorSize;
        const bool fits = behind == 6 ? facts.kind == "FAT32" : facts.kind == "exFAT";
        if (fits && at >= distance && (facts.hiddenBytes == at - distance || at == distance)) {
            return {facts, at - distance, VolumeSeen::State::Damaged,
                    "only a copy of its boot sector is left, at byte " + grouped(at)};
        }
    }
    return {facts, at, VolumeSeen::State::Damaged,
            "a boot sector lies at byte " + grouped(at) + ", where none is expected"};
}

// The first bytes of an allocation table: the media byte, and the mark of cluster 1 (FAT specification 1.03,
// section 4.2; exFAT specification, section 4.1).
bool beginsTable(Bytes sector) {
    const auto wide = startsWith(sector.subspan(1), std::string_view("\xff\xff\x0f\xff\xff\xff", 6)) ||
                      startsWith(sector.subspan(1), std::string_view("\xff\xff\xff\xff\xff\xff\xff", 7));
    return (sector[0] == 0xf8 || sector[0] == 0xf0) && wide;
}

bool beginsFolder(Bytes sector) {
    return startsWith(sector, ".          ") && startsWith(sector.subspan(32), "..         ") &&
           (sector[11] & 0x10) != 0 && (sector[43] & 0x10) != 0;
}

}  // namespace

void searchStart(const Source& source, Survey& survey, const std::function<bool()>& goOn) {
    constexpr std::uint64_t kReach = 32ULL << 20;
    constexpr std::size_t kStep = 1U << 20;
    std::vector<std::uint8_t> buffer(kStep);
    const std::size_t sector = source.sectorSize();
    std::uint64_t table = 0;
    bool haveTable = false;
    std::uint64_t folder = 0;
    std::size_t folders = 0;
    const auto end = std::min(source.size(), kReach);
    for (std::uint64_t from = 0; from < end && goOn(); from += kStep) {
        const auto length = static_cast<std::size_t>(std::min<std::uint64_t>(kStep, end - from));
        readTolerant(source, from, MutableBytes(buffer).first(length));
        for (std::size_t at = 0; at + sector <= length; at += sector) {
            const auto bytes = Bytes(buffer).subspan(at, sector);
            const auto boot = survey.volumes.empty() ? readBootSector(bytes) : std::nullopt;
            if (boot) {
                auto volume = volumeFrom(*boot, from + at);
                const bool fits = volume.offset + boot->size <= source.size() + (1U << 20);
                if (fits) survey.volumes.push_back(std::move(volume));
            } else if (!haveTable && beginsTable(bytes)) {
                haveTable = true;
                table = from + at;
            } else if (beginsFolder(bytes) && folders++ == 0) {
                folder = from + at;
            }
        }
    }
    if (haveTable) survey.remains.push_back("an allocation table begins at byte " + grouped(table));
    if (folders > 0)
        survey.remains.push_back(grouped(folders) + (folders == 1 ? " folder, " : " folders, the first ") +
                                 "at byte " + grouped(folder));
}

std::string_view toWord(VolumeSeen::State state) {
    switch (state) {
        case VolumeSeen::State::Live: return "live";
        case VolumeSeen::State::Earlier: return "earlier";
        case VolumeSeen::State::Damaged: return "damaged";
    }
    return "unknown";
}

Survey surveySource(const Source& source) {
    Survey survey;
    survey.table = readPartitionTable(source);
    surveyPlace(source, 0, survey.volumes);
    for (const auto& partition : survey.table.partitions) {
        if (partition.range.offset > 0) surveyPlace(source, partition.range.offset, survey.volumes);
    }
    return survey;
}

}  // namespace dreskel
