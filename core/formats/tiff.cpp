#include "formats/tiff.h"

#include <array>

namespace dreskel::tiff {

std::string Entry::text() const {
    if (type != 2) return {};
    return ByteReader(value).text(value.size());
}

std::optional<std::uint32_t> Entry::number() const {
    ByteReader reader(value, endian);
    std::uint32_t result = 0;
    if (type == 3) {
        result = reader.u16();
    } else if (type == 4 || type == 13) {
        result = reader.u32();
    } else {
        return std::nullopt;
    }
    return reader.ok() ? std::optional(result) : std::nullopt;
}

const Entry* Directory::find(std::uint16_t tag) const {
    for (const auto& entry : entries_) {
        if (entry.tag == tag) return &entry;
    }
    return nullptr;
}

std::optional<Block> Block::open(Bytes bytes) {
    if (bytes.size() < 8) return std::nullopt;
    Block block;
    block.bytes_ = bytes;
    if (bytes[0] == 'I' && bytes[1] == 'I') {
        block.endian_ = Endian::Little;
    } else if (bytes[0] != 'M' || bytes[1] != 'M') {
        return std::nullopt;
    }
    ByteReader reader(bytes.subspan(2), block.endian_);
    // 42, or what some cameras' raw files have in its place: Olympus ("RO", "RS"), Panasonic ("U").
    const auto magic = reader.u16();
    if (magic != 42 && magic != 0x4f52 && magic != 0x5352 && magic != 0x55) return std::nullopt;
    block.first_ = reader.u32();
    return block;
}

std::optional<Directory> Block::directory(std::uint32_t offset) const {
    constexpr std::array<std::uint32_t, 14> sizes{0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4};
    ByteReader reader(bytes_, endian_);
    reader.seek(offset);
    const auto count = reader.u16();
    if (!reader.ok() || count == 0 || count > 512) return std::nullopt;
    Directory directory;
    for (unsigned i = 0; i < count; ++i) {
        Entry entry;
        entry.endian = endian_;
        entry.tag = reader.u16();
        entry.type = reader.u16();
        entry.count = reader.u32();
        const auto inlineAt = reader.position();
        const auto valueOffset = reader.u32();
        if (!reader.ok()) return std::nullopt;
        if (entry.type == 0 || entry.type >= sizes.size()) continue;
        const auto length = std::uint64_t{sizes[entry.type]} * entry.count;
        entry.value = slice(bytes_, length <= 4 ? inlineAt : valueOffset, length);
        if (entry.value.size() == length) directory.entries_.push_back(entry);
    }
    directory.next_ = reader.u32();
    return directory;
}

}  // namespace dreskel::tiff
