#include "volume/survey.h"

#include "source/tolerant_read.h"

namespace dreskel {
namespace {

std::optional<BootSector> bootAt(const Source& source, std::uint64_t offset) {
    std::vector<std::uint8_t> sector(512);
    if (offset + sector.size() > source.size()) return std::nullopt;
    readTolerant(source, offset, sector);
    return readBootSector(sector);
}

void surveyPlace(const Source& source, std::uint64_t offset, std::vector<VolumeSeen>& into) {
    const auto main = bootAt(source, offset);
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

}  // namespace

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
