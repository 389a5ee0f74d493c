// One fragment of a movie (moof, ISO/IEC 14496-12, 8.8): where its samples lie and when each is due.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <vector>

#include "base/bytes.h"
#include "base/range.h"

namespace dreskel::isobmff {

// What the samples of a track are like where a fragment does not say it (trex, 8.8.3).
struct SampleDefaults {
    std::uint32_t description = 1, duration = 0, size = 0, flags = 0;
};

struct TimedSample {
    std::uint64_t offset = 0;       // in the file, bytes
    std::uint32_t size = 0;         // bytes
    std::uint32_t duration = 0;     // of the track's timescale
    std::int32_t shownLater = 0;    // than it is decoded; the same
    bool sync = true;               // it can be begun with
    std::uint32_t description = 1;  // index into the stsd box
};

struct TrackFragment {
    std::uint32_t track = 0;              // its number
    std::optional<std::uint64_t> begins;  // when, of the track's timescale (tfdt, 8.8.12)
    std::uint64_t length = 0;             // of all its samples, the same
    std::vector<TimedSample> samples;
};

struct Fragment {
    std::uint32_t sequence = 0;  // mfhd, 8.8.5: one more than that of the fragment before
    std::vector<TrackFragment> tracks;
    ByteRange media;  // of the file: from the first byte of a sample of it to the last
};

// By a track's number. `movie`: the inside of a moov box. Empty when no fragments are announced (mvex).
std::map<std::uint32_t, SampleDefaults> readDefaults(Bytes movie);
// The numbers of the tracks, in order.
std::vector<std::uint32_t> readTrackNumbers(Bytes movie);

// `box`: all of a moof box, which begins at the byte `at` of the file. Nothing when a part of it does not
// fit, or it is of a track that has no defaults. Bounded by limits::kLargestTablesOfAClip.
std::optional<Fragment> readFragment(Bytes box, std::uint64_t at,
                                     const std::map<std::uint32_t, SampleDefaults>& defaults);

}  // namespace dreskel::isobmff
