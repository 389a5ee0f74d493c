#include "scan/block_kind.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>

namespace dreskel {
namespace {

constexpr std::size_t kEntry = 32;         // bytes of a directory entry, FAT and exFAT
constexpr std::size_t kPacket = 188;       // ISO/IEC 13818-1, 2.4.3.2
constexpr std::size_t kTimedPacket = 192;  // the same behind four bytes of arrival time
constexpr std::uint8_t kSync = 0x47;
constexpr double kDenseBitsPerByte = 7.2;

using Counts = std::array<std::size_t, 256>;

double bitsPerByte(const Counts& counts, std::size_t all) {
    double bits = 0;
    for (const auto count : counts) {
        if (count == 0) continue;
        const auto share = static_cast<double>(count) / static_cast<double>(all);
        bits -= share * std::log2(share);
    }
    return bits;
}

bool isText(const Counts& counts, std::size_t all) {
    std::size_t good = counts['\t'] + counts['\n'] + counts['\r'];
    for (std::size_t letter = ' '; letter < 0x7f; ++letter) good += counts[letter];
    return good * 100 >= all * 95;
}

// Entries begin with what the FAT specification 1.03 (section 6) or exFAT's (section 6.2) allow, and their
// attribute bytes or types do not contradict.
bool isFolder(Bytes block) {
    std::size_t entries = 0;
    for (std::size_t at = 0; at + kEntry <= block.size(); at += kEntry) {
        const auto* entry = block.data() + at;
        if (entry[0] == 0) continue;
        const auto type = entry[0] & 0x7fU;
        const bool ex = type == 0x05 || type == 0x40 || type == 0x41;
        const bool longName = entry[11] == 0x0f && entry[12] == 0 && entry[26] == 0 && entry[27] == 0;
        const bool shortName =
            (entry[11] & 0xc8U) == 0 && (entry[11] & 0x3fU) != 0 &&
            std::all_of(entry + 1, entry + 11, [](std::uint8_t byte) { return byte >= 0x20; });
        if (!ex && !longName && !shortName) return false;
        ++entries;
    }
    return entries >= 2;
}

// Between markers every FF of a scan is followed by 00, a restart marker or another FF (ITU-T T.81, B.1.1.5);
// by chance it would be so once in some thirty.
bool isPhotoData(Bytes block) {
    std::size_t good = 0;
    std::size_t bad = 0;
    for (std::size_t at = 0; at + 1 < block.size(); ++at) {
        if (block[at] != 0xff) continue;
        const auto next = block[at + 1];
        (next == 0x00 || (next >= 0xd0 && next <= 0xd7) ? good : bad) += 1;
    }
    return good >= 2 && bad == 0;
}

bool isStream(Bytes block) {
    for (const auto packet : {kPacket, kTimedPacket}) {
        for (std::size_t first = 0; first < packet && first + 2 * packet < block.size(); ++first) {
            bool all = true;
            for (auto at = first; at < block.size() && all; at += packet) all = block[at] == kSync;
            if (all) return true;
        }
    }
    return false;
}

// The mean step between samples that are one or two apart (mono, stereo), against their mean size.
bool isSound(Bytes block) {
    const auto samples = block.size() / 2;
    const auto at = [&](std::size_t index) {
        return static_cast<std::int16_t>(block[2 * index] | block[2 * index + 1] << 8);
    };
    for (const std::size_t channels : {std::size_t{1}, std::size_t{2}}) {
        double steps = 0;
        double sizes = 0;
        for (std::size_t i = channels; i < samples; ++i) {
            steps += std::abs(static_cast<double>(at(i)) - at(i - channels));
            sizes += std::abs(static_cast<double>(at(i)));
        }
        if (sizes > 0 && steps / sizes < 0.5) return true;
    }
    return false;
}

}  // namespace

std::string_view toWords(BlockKind kind) {
    switch (kind) {
        case BlockKind::Blank: return "blank";
        case BlockKind::Text: return "text";
        case BlockKind::Folder: return "folder entries";
        case BlockKind::PhotoData: return "photo data, as in a JPEG";
        case BlockKind::Stream: return "transport stream";
        case BlockKind::Sound: return "plain sound";
        case BlockKind::Dense: return "dense data, as in a clip";
        case BlockKind::Structured: break;
    }
    return "structured data";
}

BlockKind kindOfBlock(Bytes block) {
    if (block.size() < 2) return BlockKind::Structured;
    Counts counts{};
    for (const auto byte : block) ++counts[byte];
    if (counts[block[0]] == block.size()) return BlockKind::Blank;
    if (isText(counts, block.size())) return BlockKind::Text;
    if (isFolder(block)) return BlockKind::Folder;
    if (isStream(block)) return BlockKind::Stream;
    // A short block cannot reach the limit of a long one.
    const auto most = std::log2(static_cast<double>(std::min<std::size_t>(block.size(), 4096)));
    const auto bits = bitsPerByte(counts, block.size());
    const bool dense = bits >= std::min(kDenseBitsPerByte, most * 0.85);
    if (dense && isPhotoData(block)) return BlockKind::PhotoData;
    if (isSound(block)) return BlockKind::Sound;
    return dense ? BlockKind::Dense : BlockKind::Structured;
}

}  // namespace dreskel
