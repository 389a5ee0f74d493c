// A clip that lost its index, and the file that comes of it with one that is written anew.
#pragma once

#include <string>
#include <vector>

#include "rebuild/clip_index.h"
#include "rebuild/clip_template.h"
#include "rebuild/sample_walk.h"

namespace dreskel::rebuild {

struct OpenClip {
    std::uint64_t start = 0;  // on the source
    OpenHead head;
    std::vector<ByteRange> places;  // in which it may lie, in order

    std::vector<Piece> pieces(const CardView& card) const;
};

// What a template finds in it, in its first `most` bytes. Nothing when it does not find its first samples.
std::optional<Walked> walkOpenClip(CardView& card, const OpenClip& clip, const ClipTemplate& like,
                                   std::uint64_t most, const SoundLengths& sound, const Control& control);

std::size_t picturesIn(const ClipTemplate& like, const Walked& walked);

// The pieces of the file, with what is made: the header of the media data, and the index.
std::vector<Piece> withNewIndex(const CardView& card, const OpenClip& clip, const ClipTemplate& like,
                                const Walked& walked);
// What was made, for the reader.
std::string accountOf(const ClipTemplate& like, const Walked& walked);

}  // namespace dreskel::rebuild
