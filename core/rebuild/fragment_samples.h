// The samples of a fragmented clip (ISO/IEC 14496-12, 8.8) of which a part may be lost: what the fragments
// that are there list, track by track, with what is missing between in its place in time.
#pragma once

#include <map>
#include <vector>

#include "rebuild/track_samples.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// By a track's number. `movie`: the inside of the moov box; `before`: what that itself lists; `from`: the
// byte of the file from which on fragments are looked for. What is missing has no bytes: it lies behind the
// file.
std::map<std::uint32_t, std::vector<TimedSample>> readFragmentSamples(
    PieceReader& reader, std::uint64_t from, Bytes movie,
    std::map<std::uint32_t, std::vector<TimedSample>> before);

}  // namespace dreskel::rebuild
