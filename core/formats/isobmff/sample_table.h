// The samples of a clip as its index lists them (ISO/IEC 14496-12, 8.7): where each begins and how long it
// is, and how a sample's own first bytes can be told from others. For putting a clip together again from its
// pieces.
#pragma once

#include <optional>
#include <vector>

#include "base/bytes.h"
#include "formats/isobmff/movie.h"
#include "formats/isobmff/sound_entry.h"

namespace dreskel::isobmff {

struct Sample {
    std::uint64_t offset = 0;  // in the file
    std::uint32_t size = 0;    // bytes
    std::uint32_t tag = 0;     // of a RIFF chunk: its name; the sample is then the chunk with its header
};

// What each coded picture begins with.
struct Mark {
    std::uint32_t word = 0, mask = 0;  // of its first four bytes, or of those behind its size
    bool behindSize = false;           // four bytes that count the whole sample stand in front

    bool isAt(Bytes head, std::uint32_t size) const {
        ByteReader reader(head);
        const bool fits = !behindSize || reader.u32() == size;
        return (reader.u32() & mask) == word && fits && reader.ok();
    }
};

struct SampleTrack {
    // Whether its pictures are followed in data that no index is known of.
    bool isFollowed() const {
        return coding == Coding::Avc || coding == Coding::Hevc || coding == Coding::MotionJpeg;
    }

    // Marked: each sample begins with the same mark. Av1: with units that say how long they are.
    enum class Coding { Avc, Hevc, MotionJpeg, RiffChunk, Marked, Av1, Other };
    TrackKind kind = TrackKind::Other;
    Coding coding = Coding::Other;
    Mark mark;                 // with Marked
    unsigned lengthBytes = 4;  // of a NAL unit's length, with Avc and Hevc
    SoundCoding sound = SoundCoding::Other;
    std::vector<std::uint8_t> settings;  // the decoder's, with Avc and Hevc (avcC, hvcC) and coded sound
    std::vector<Sample> samples;
};

// `body` is the inside of a moov box. Nothing when a table of it is damaged. Bounded by
// limits::kLargestTablesOfAClip.
std::optional<std::vector<SampleTrack>> readSamples(Bytes body);

// What the bytes where a sample should begin say.
enum class Looks { Foreign, Begins, Exact };

// AV1 Bitstream & Decoding Process Specification, 5.3: units with their lengths, the last of which may be
// without.
template <class ReadAt>
Looks looksLikeAv1(const Sample& sample, ReadAt&& at) {
    constexpr int kMostUnits = 256;
    constexpr std::uint8_t kForbidden = 0x81, kExtended = 0x04, kHasSize = 0x02;
    std::uint64_t p = 0;
    for (int unit = 0; unit < kMostUnits && p < sample.size; ++unit) {
        const auto wrong = p == 0 ? Looks::Foreign : Looks::Begins;
        const auto head = at(p, 10);
        if (head.empty()) return wrong;
        const unsigned type = head[0] >> 3;
        const bool known = (type >= 1 && type <= 8) || type == 15;
        if ((head[0] & kForbidden) != 0 || !known) return wrong;
        std::size_t next = (head[0] & kExtended) != 0 ? 2 : 1;
        if ((head[0] & kHasSize) == 0) return p == 0 ? Looks::Foreign : Looks::Exact;
        std::uint64_t length = 0;
        for (unsigned shift = 0;; shift += 7) {
            if (next >= head.size() || shift > 28) return wrong;
            length |= std::uint64_t{head[next] & 0x7fU} << shift;
            if ((head[next++] & 0x80U) == 0) break;
        }
        if (p + next + length > sample.size) return wrong;
        p += next + length;
    }
    return p == sample.size ? Looks::Exact : Looks::Begins;
}

// `at(p, n)` gives n bytes at p bytes behind the sample's beginning, fewer where there are none. Exact: its
// units fill it to the last byte; Begins: the first does not contradict, what follows it does.
template <class ReadAt>
Looks looksLikeSample(const SampleTrack& track, const Sample& sample, ReadAt&& at) {
    if (track.coding == SampleTrack::Coding::MotionJpeg) {
        const auto head = at(0, 4);
        const bool starts =
            head.size() == 4 && head[0] == 0xff && head[1] == 0xd8 && head[2] == 0xff && head[3] >= 0xc0;
        return starts ? Looks::Exact : Looks::Foreign;
    }
    if (track.coding == SampleTrack::Coding::RiffChunk) {
        ByteReader reader(at(0, 8), Endian::Little);
        const bool same = reader.u32() == sample.tag && std::uint64_t{reader.u32()} + 8 == sample.size;
        return reader.ok() && same ? Looks::Exact : Looks::Foreign;
    }
    if (track.coding == SampleTrack::Coding::Other) return Looks::Foreign;
    if (track.coding == SampleTrack::Coding::Marked)
        return track.mark.isAt(at(0, 8), sample.size) ? Looks::Exact : Looks::Foreign;
    if (track.coding == SampleTrack::Coding::Av1) return looksLikeAv1(sample, at);
    constexpr int kMostUnits = 256;
    std::uint64_t p = 0;
    for (int unit = 0; unit < kMostUnits && p < sample.size; ++unit) {
        const auto wrong = p == 0 ? Looks::Foreign : Looks::Begins;
        const auto head = at(p, track.lengthBytes + 1);
        if (head.size() < track.lengthBytes + 1) return wrong;
        std::uint64_t length = 0;
        for (unsigned i = 0; i < track.lengthBytes; ++i) length = length << 8 | head[i];
        const auto type = head[track.lengthBytes];
        const bool possible = track.coding == SampleTrack::Coding::Avc
                                  ? (type & 0x80U) == 0 && (type & 31U) >= 1 && (type & 31U) <= 20
                                  : (type & 0x81U) == 0 && (type >> 1) <= 40;
        if (length == 0 || !possible || p + track.lengthBytes + length > sample.size) return wrong;
        p += track.lengthBytes + length;
    }
    return p == sample.size ? Looks::Exact : Looks::Begins;
}

}  // namespace dreskel::isobmff
