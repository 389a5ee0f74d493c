// What the walk over a Matroska file and the making of one that plays have in common (RFC 9559): its tracks,
// its blocks, and where it goes on behind something that is none of its elements.
#pragma once

#include <map>
#include <optional>
#include <vector>

#include "base/bytes.h"
#include "formats/clip/ebml.h"
#include "formats/clip/picture_check.h"

namespace dreskel {

struct MatroskaTrack {
    bool pictures = false;
    // Of pictures that can be followed: their coding and the decoder's settings.
    std::optional<PictureCoding> coding;
    std::vector<std::uint8_t> settings;

    // Bytes of the length in front of each unit; 0 where that is not told.
    std::size_t lengthBytes() const {
        const std::size_t place = coding == PictureCoding::Hevc ? 21 : 4;
        return coding && settings.size() > place ? (settings[place] & 3U) + 1 : 0;
    }
};
using MatroskaTracks = std::map<std::uint32_t, MatroskaTrack>;  // by number

// The inside of a Tracks element (5.1.4).
MatroskaTracks readMatroskaTracks(Bytes body);

// What a block begins with (10.1).
struct BlockHead {
    static constexpr std::size_t kLength = 4;  // bytes; tracks have small numbers
    std::uint32_t track = 0;
    std::int16_t time = 0;  // from that of its cluster on
    bool key = false;       // of a SimpleBlock: it builds on no other
    bool laced = false;     // several frames
};
// Nothing when it is of no such track.
std::optional<BlockHead> readBlockHead(Bytes body, const MatroskaTracks& tracks);

// Where a walk over elements stands.
struct MatroskaPlace {
    std::uint64_t position = 0;    // of the file, bytes
    std::uint64_t clusterEnd = 0;  // ebml::kUnknown where it is not stated; 0: in none
    std::uint64_t segmentEnd = 0;
    std::uint64_t time = 0;  // of the last cluster
};
// Where in these bytes, which begin at the position, it goes on: with a cluster that is later, or with blocks
// of the one in hand. Looks at those of the first `upTo` bytes.
std::optional<std::size_t> matroskaGoesOn(Bytes bytes, std::size_t upTo, const MatroskaPlace& place,
                                          const MatroskaTracks& tracks);

}  // namespace dreskel
