#include "volume/partition_table.h"

#include <array>
#include <cstdio>

#include "source/tolerant_read.h"
#include "volume/boot_sector.h"

namespace dreskel {
namespace {

std::vector<std::uint8_t> readAt(const Source& source, std::uint64_t offset, std::size_t length) {
    std::vector<std::uint8_t> bytes(length);
    if (offset + length > source.size()) return {};
    readTolerant(source, offset, bytes);
    return bytes;
}

std::string guidText(Bytes guid) {
    ByteReader reader(guid, Endian::Little);
    std::array<char, 40> text{};
    const auto a = reader.u32();
    const auto b = reader.u16();
    const auto c = reader.u16();
    std::snprintf(text.data(), text.size(), "%08x-%04x-%04x-%02x%02x-%02x%02x%02x%02x%02x%02x", a, b, c,
                  guid[8], guid[9], guid[10], guid[11], guid[12], guid[13], guid[14], guid[15]);
    return text.data();
}

void readGpt(const Source& source, PartitionTable& table) {
    const auto sector = source.sectorSize();
    const auto header = readAt(source, sector, sector);
    if (!startsWith(header, "EFI PART")) return;
    ByteReader reader(header, Endian::Little);
    reader.seek(72);
    const auto arrayAt = checkedMultiply(reader.u64(), sector);
    const auto count = reader.u32();
    const auto entrySize = reader.u32();
    if (!reader.ok() || !arrayAt || count > 1024 || entrySize < 128 || entrySize > 1024) return;
    if (*arrayAt > source.size()) return;
    const auto array = readAt(source, *arrayAt, std::size_t{count} * entrySize);
    table.kind = "GPT";
    for (std::size_t i = 0; i < count; ++i) {
        const auto entry = slice(array, i * entrySize, entrySize);
        if (entry.size() < 128) break;
        ByteReader fields(entry, Endian::Little);
        const auto type = fields.take(16);
        fields.skip(16);
        const auto first = checkedMultiply(fields.u64(), sector);
        const auto last = checkedMultiply(fields.u64(), sector);
        if (!first || !last || *first == 0 || *last < *first || *first >= source.size()) continue;
        table.partitions.push_back({{*first, *last - *first + sector}, guidText(type)});
    }
}

}  // namespace

PartitionTable readPartitionTable(const Source& source) {
    PartitionTable table{"none", {}};
    const auto first = readAt(source, 0, 512);
    if (first.size() < 512 || first[510] != 0x55 || first[511] != 0xaa || readBootSector(first)) return table;
    bool protective = false;
    std::vector<Partition> found;
    for (std::size_t i = 0; i < 4; ++i) {
        ByteReader entry(Bytes(first).subspan(446 + 16 * i, 16), Endian::Little);
        const auto status = entry.u8();
        entry.skip(3);
        const unsigned type = entry.u8();
        entry.skip(3);
        const auto start = std::uint64_t{entry.u32()} * source.sectorSize();
        const auto length = std::uint64_t{entry.u32()} * source.sectorSize();
        if ((status & 0x7f) != 0) return table;
        if (type == 0 || length == 0 || start == 0 || start >= source.size()) continue;
        protective = protective || type == 0xee;
        std::array<char, 8> text{};
        std::snprintf(text.data(), text.size(), "0x%02x", type);
        found.push_back({{start, length}, text.data()});
    }
    if (found.empty()) return table;
    table.kind = "MBR";
    table.partitions = found;
    if (protective) {
        table.partitions.clear();
        readGpt(source, table);
    }
    return table;
}

}  // namespace dreskel
