// What a maker's note of Nikon says of the coding of the sensor data, as LibRaw reads it.
#include "formats/photo/difference_rows.h"

namespace dreskel {
namespace {

// How many codes there are of each length, and what they stand for: bits of a difference, in the upper half
// how many of them are left out.
using Listed = std::array<std::uint8_t, 32>;
constexpr std::array<Listed, 6> kCodes{{
    {0, 1, 5, 1, 1, 1, 1, 1, 1, 2, 0, 0, 0, 0, 0, 0, 5, 4, 3, 6, 2, 7, 1, 0, 8, 9, 11, 10, 12},
    {0, 1,    5,    1,    1,    1,    1, 1, 1, 2, 0, 0, 0,  0,  0,
     0, 0x39, 0x5a, 0x38, 0x27, 0x16, 5, 4, 3, 2, 1, 0, 11, 12, 12},
    {0, 1, 4, 2, 3, 1, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 5, 4, 6, 3, 7, 2, 8, 1, 9, 0, 10, 11, 12},
    {0, 1, 4, 3, 1, 1, 1, 1, 1, 2, 0, 0, 0, 0, 0, 0, 5, 6, 4, 7, 8, 3, 9, 2, 1, 0, 10, 11, 12, 13, 14},
    {0, 1,    5,    1,    1,    1, 1, 1, 1, 1, 2, 0, 0, 0,  0, 0,
     8, 0x5c, 0x4b, 0x3a, 0x29, 7, 6, 5, 4, 3, 2, 1, 0, 13, 14},
    {0, 1, 4, 2, 2, 3, 1, 2, 0, 0, 0, 0, 0, 0, 0, 0, 7, 6, 8, 5, 9, 4, 10, 3, 11, 12, 2, 0, 1, 13, 14},
}};

std::shared_ptr<const DifferenceCoding::Codes> tableOf(std::size_t which) {
    const Bytes all(kCodes[which]);
    std::size_t count = 0;
    for (const auto length : all.first(16)) count += length;
    const auto table = jpeg::HuffmanTable::make(all.first(16), all.subspan(16, count));
    if (!table) return nullptr;
    auto codes = std::make_shared<DifferenceCoding::Codes>(1U << DifferenceCoding::kLookBits);
    for (std::uint32_t bits = 0; bits < codes->size(); ++bits)
        (*codes)[bits] = table->look(bits << (32 - DifferenceCoding::kLookBits));
    return codes;
}

constexpr std::size_t kNoteHead = 10;  // a TIFF of its own follows, from which its places are counted
constexpr std::size_t kSplitAt = 562;  // in what is said of the coding
constexpr std::uint16_t kWay = 0x93, kCodingFacts = 0x96;

}  // namespace

bool isNikonNote(Bytes note) {
    return startsWith(note, {"Nikon\0\2", 7});
}

std::optional<DifferenceCoding> readNikonCoding(Bytes note, std::uint32_t width, std::uint32_t height,
                                                unsigned bits) {
    if (!isNikonNote(note) || note.size() < kNoteHead + 8 || (bits != 12 && bits != 14)) return std::nullopt;
    const auto inner = note.subspan(kNoteHead);
    const auto endian = inner[0] == 'I' ? Endian::Little : Endian::Big;
    ByteReader directory(inner, endian);
    directory.skip(4);
    directory.seek(directory.u32());
    Bytes facts;
    const auto count = directory.u16();
    for (unsigned i = 0; i < count && directory.left() >= 12; ++i) {
        const auto tag = directory.u16();
        directory.skip(2);
        const auto length = directory.u32();
        ByteReader value(directory.take(4), endian);
        if (tag == kCodingFacts) facts = slice(inner, value.u32(), length);
        // With losses, without, with losses in another way; others are not coded so.
        if (tag == kWay) {
            const auto way = value.u16();
            if (way != 1 && way != 3 && way != 4) return std::nullopt;
        }
    }
    ByteReader reader(facts, endian);
    const auto kind = reader.u8(), version = reader.u8();
    if (kind == 0x49 || version == 0x58) reader.skip(2110);
    DifferenceCoding coding;
    coding.width = width;
    coding.height = height;
    coding.bits = bits;
    const std::size_t deep = bits == 14 ? 3 : 0;
    const bool lossless = kind == 0x46;
    for (auto& each : coding.first) each = reader.u16();
    coding.beyond = 1 << bits;
    const int curve = reader.u16();
    if (!reader.ok()) return std::nullopt;
    const int step = curve > 1 ? coding.beyond / (curve - 1) : 0;
    if (kind == 0x44 && step > 0 && (version == 0x20 || (version == 0x40 && step > 3))) {
        if (version == 0x40) coding.beyond /= 4;
        coding.split = ByteReader(slice(facts, kSplitAt, 2), endian).u16();
    } else if (!lossless && curve <= 0x4001) {
        coding.beyond = curve;
    }
    coding.codes = tableOf((lossless ? 2 : 0) + deep);
    coding.codesBehindSplit = tableOf((lossless ? 2 : 1) + deep);
    return coding;
}

}  // namespace dreskel
