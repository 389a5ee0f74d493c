// Puts recordings together again that lie in pieces and have their index (M4A). Nothing shows where a frame
// of coded sound begins; but the index says how long each is, and one that lies over a wrong join is not
// right, or not just as long.
#pragma once

#include <functional>
#include <optional>
#include <span>
#include <vector>

#include "base/control.h"
#include "base/patience.h"
#include "rebuild/clip_index.h"
#include "rebuild/clip_joiner.h"
#include "rebuild/clip_pool.h"

namespace dreskel::rebuild {

// The only track that has samples, when these are sound whose frames can be told to be right; null otherwise.
const isobmff::SampleTrack* soundTrackOf(const LooseIndex& index);

// How many of these frames are right, from the first on, where the file lies in these places. The frames
// follow one another in the file.
using RightFrames =
    std::function<std::size_t(const std::vector<ByteRange>& places, std::span<const isobmff::Sample> frames)>;

// The same for Apple Lossless, by its syntax; `settings` as in its track.
std::size_t rightLosslessFrames(CardView& card, Bytes settings, const std::vector<ByteRange>& places,
                                std::span<const isobmff::Sample> frames);

// Where the recording lies; nothing when that is one piece, or some of it was not found. `patience`: for
// searching.
std::optional<JoinedClip> joinSound(CardView& card, const ClipHead& head, const LooseIndex& index,
                                    const ClipPool& pool, const RightFrames& rightFrames, Patience patience,
                                    const Control& control);

}  // namespace dreskel::rebuild
