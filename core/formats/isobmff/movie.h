// The index of a clip: the moov box (ISO/IEC 14496-12, 8.2) with its tracks and sample tables.
#pragma once

#include <optional>
#include <vector>

#include "formats/format.h"

namespace dreskel::isobmff {

enum class TrackKind { Video, Audio, Other };

struct Track {
    TrackKind kind = TrackKind::Other;
    std::uint32_t handler = 0;  // four-character code of the kind of media
    std::uint32_t codec = 0;    // four-character code of the first sample description
    std::uint32_t width = 0, height = 0;
    int orientation = 1;
    double duration = 0;  // seconds
    std::uint64_t samples = 0;
    std::vector<ByteRange> chunks;  // where its media data lies in the file
};

struct Movie {
    double duration = 0;  // seconds
    std::string created;  // ISO 8601
    std::string camera;
    std::optional<Position> position;
    bool fragmented = false;
    std::vector<Track> tracks;
};

// `body` is the inside of a moov box. Nothing when it has no header or no usable track.
std::optional<Movie> readMovie(Bytes body);

std::string codecName(std::uint32_t codec);

// What the clip holds beside its picture and its sound, in words: timecode, telemetry, text, a second
// picture. Empty when nothing.
std::string furtherTracks(const Movie& movie);

}  // namespace dreskel::isobmff
