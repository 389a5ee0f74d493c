#include "formats/isobmff/sound_entry.h"

#include <algorithm>
#include <array>

namespace dreskel::isobmff {
namespace {

constexpr std::size_t kEntry = 28;  // bytes in front of an entry's boxes

// The length of a descriptor (ISO/IEC 14496-1, 8.3.3).
std::uint32_t descriptorLength(ByteReader& reader) {
    std::uint32_t length = 0;
    for (int i = 0; i < 4; ++i) {
        const auto byte = reader.u8();
        length = length << 7 | (byte & 0x7fU);
        if ((byte & 0x80U) == 0) break;
    }
    return length;
}

// The AudioSpecificConfig in an esds box (ISO/IEC 14496-1, 7.2.6).
std::vector<std::uint8_t> settingsIn(Bytes esds) {
    ByteReader reader(esds);
    reader.skip(4);
    if (reader.u8() != 3) return {};
    descriptorLength(reader);
    reader.skip(2);
    const auto flags = reader.u8();
    if ((flags & 0x80U) != 0) reader.skip(2);
    if ((flags & 0x40U) != 0) reader.skip(reader.u8());
    if ((flags & 0x20U) != 0) reader.skip(2);
    if (reader.u8() != 4) return {};
    descriptorLength(reader);
    const auto object = reader.u8();
    reader.skip(12);
    if (object != 0x40 || reader.u8() != 5) return {};
    const auto bytes = reader.take(descriptorLength(reader));
    return reader.ok() && bytes.size() >= 2 && bytes.size() < 64
               ? std::vector<std::uint8_t>(bytes.begin(), bytes.end())
               : std::vector<std::uint8_t>();
}

// QuickTime keeps the boxes of coded sound in one of theirs.
std::optional<Box> boxOf(Bytes boxes, std::uint32_t type) {
    const auto wave = findBox(boxes, fourCc("wave"));
    auto box = findBox(boxes, type);
    return box || !wave ? box : findBox(wave->body, type);
}

}  // namespace

SoundEntry readSoundEntry(const Box& entry) {
    SoundEntry sound;
    ByteReader reader(entry.body);
    reader.skip(8);
    const auto version = reader.u16();
    reader.skip(6);
    const std::uint32_t channels = reader.u16(), bits = reader.u16();
    const std::size_t more = version == 1 ? 16 : version == 2 ? 36 : 0;
    const auto boxes = slice(entry.body, kEntry + more, entry.body.size());
    if (entry.type == fourCc("mp4a")) {
        if (const auto esds = boxOf(boxes, fourCc("esds"))) sound.settings = settingsIn(esds->body);
        if (!sound.settings.empty()) sound.coding = SoundCoding::Aac;
        return sound;
    }
    if (entry.type == fourCc("alac")) {
        const auto box = boxOf(boxes, fourCc("alac"));
        const auto settings = box ? slice(box->body, 4, 24) : Bytes();
        sound.settings.assign(settings.begin(), settings.end());
        if (settings.size() == 24) sound.coding = SoundCoding::Lossless;
        return sound;
    }
    constexpr std::array<std::uint32_t, 10> kPlain{
        fourCc("sowt"), fourCc("twos"), fourCc("raw "), fourCc("in24"), fourCc("in32"),
        fourCc("fl32"), fourCc("fl64"), fourCc("lpcm"), fourCc("ipcm"), fourCc("NONE")};
    if (std::find(kPlain.begin(), kPlain.end(), entry.type) == kPlain.end()) return sound;
    sound.coding = SoundCoding::Plain;
    sound.frameBytes = channels * ((bits + 7) / 8);
    return sound;
}

}  // namespace dreskel::isobmff
