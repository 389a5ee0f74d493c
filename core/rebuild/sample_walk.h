// Finds the samples of a clip that lost its index by the structure of its media data: length-prefixed NAL
// units (ISO/IEC 14496-15), Motion JPEG pictures, frames of AAC, plain samples. A template of the same
// recorder says which of them there are. What is none of them is stepped over.
#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "base/control.h"
#include "rebuild/clip_template.h"

namespace dreskel::rebuild {

struct WalkedSample {
    std::uint64_t offset = 0;  // in the file
    std::uint32_t size = 0;    // bytes; of PCM: of a stretch of samples
    bool sync = true;
    // Where it is shown: counted anew with each `segment`, of which there is one for every break in the
    // count.
    std::uint32_t segment = 0;
    std::int64_t shown = 0;
};

struct Walked {
    std::vector<std::vector<WalkedSample>> tracks;  // as in the template; empty for what cannot be rebuilt
    std::vector<bool> pictures;                     // which of them are
    std::vector<ByteRange> gaps;                    // of the file: between samples, belonging to none
    std::uint64_t end = 0;                          // of the last sample

    std::uint64_t covered() const;  // bytes of samples
    // Without the last picture and what follows it: it may be cut off, which only decoding shows.
    Walked withoutLastPicture() const;
};

// The lengths of the frames of AAC from the start of a part of the file on; see DecoderProcess.
using SoundLengths = std::function<std::vector<std::uint32_t>(ByteRange part, Bytes settings)>;

// `media`: the part of the file that holds them. Nothing when the picture's first samples are not found.
// Reads from front to back, once, but for the sound.
std::optional<Walked> walkSamples(const ClipTemplate& like, PieceReader& file, ByteRange media,
                                  const SoundLengths& sound, const Control& control);

}  // namespace dreskel::rebuild
