// The codes of the sensor data in a maker's note of Pentax, as LibRaw reads them.
#include "formats/photo/difference_rows.h"

namespace dreskel {
namespace {

constexpr std::string_view kOfTheFile{"AOC\0", 4};  // its places are the file's
constexpr std::string_view kOfItsOwn{"PENTAX \0", 8};
constexpr std::uint16_t kCodesTag = 0x220;
constexpr std::size_t kBetween = 12;  // bytes between the number of codes and the codes

// How many codes, the codes from the highest of twelve bits on, then their lengths. Each stands for
// differences of as many bits as its number says.
std::shared_ptr<const DifferenceCoding::Codes> readCodes(ByteReader facts) {
    constexpr unsigned kRoom = 1U << DifferenceCoding::kLookBits;
    const auto count = (facts.u16() + 12U) & 15U;
    facts.skip(kBetween);
    std::array<std::uint16_t, 16> codes{};
    for (unsigned i = 0; i < count; ++i) codes[i] = facts.u16();
    auto table = std::make_shared<DifferenceCoding::Codes>(kRoom);
    for (unsigned i = 0; i < count; ++i) {
        const auto length = facts.u8();
        if (!facts.ok() || length == 0 || length > DifferenceCoding::kLookBits) return nullptr;
        const auto many = kRoom >> length;
        if (codes[i] + many > kRoom) return nullptr;
        for (unsigned at = codes[i]; at < codes[i] + many; ++at) {
            if ((*table)[at].length != 0) return nullptr;
            (*table)[at] = {length, static_cast<std::uint8_t>(i)};
        }
    }
    return count > 1 ? table : nullptr;
}

}  // namespace

bool isPentaxNote(Bytes note) {
    return startsWith(note, kOfTheFile) || startsWith(note, kOfItsOwn);
}

std::optional<DifferenceCoding> readPentaxCoding(Bytes note, std::uint64_t at, Endian endian,
                                                 std::uint32_t width, std::uint32_t height, unsigned bits) {
    if (bits < 8 || bits > 14 || !isPentaxNote(note)) return std::nullopt;
    const bool own = startsWith(note, kOfItsOwn);
    const auto order = slice(note, own ? kOfItsOwn.size() : kOfTheFile.size(), 2);
    if (startsWith(order, "II")) endian = Endian::Little;
    if (startsWith(order, "MM")) endian = Endian::Big;
    const std::uint64_t base = own ? 0 : at;
    ByteReader directory(note, endian);
    directory.skip((own ? kOfItsOwn.size() : kOfTheFile.size()) + 2);
    const auto entries = directory.u16();
    for (unsigned i = 0; i < entries && directory.left() >= 12; ++i) {
        const auto tag = directory.u16();
        directory.skip(2);
        const std::uint64_t length = directory.u32(), place = directory.u32();
        if (tag != kCodesTag || place < base) continue;
        DifferenceCoding coding;
        coding.width = width;
        coding.height = height;
        coding.bits = bits;
        coding.beyond = 1 << bits;
        coding.codes = coding.codesBehindSplit =
            readCodes(ByteReader(slice(note, place - base, length), endian));
        return coding.codes ? std::optional(coding) : std::nullopt;
    }
    return std::nullopt;
}

}  // namespace dreskel
