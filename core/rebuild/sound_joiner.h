// Puts recordings of plain samples together again that lie in pieces. Samples carry nothing to check them by;
// but a waveform goes on over the border of two clusters that belong together, and jumps where they do not
// (formats/riff/waveform.h). Where it jumps from one free cluster to the next, a piece begins; the recording
// is the chain of such pieces that goes on at every join and is just as long as its header says.
#pragma once

#include <chrono>
#include <optional>
#include <vector>

#include "base/control.h"
#include "formats/riff/pcm_check.h"
#include "rebuild/clip_joiner.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

struct Recording {
    std::uint64_t start = 0;   // on the card, at a cluster's beginning
    std::uint64_t length = 0;  // bytes of the file
    std::uint64_t dataAt = 0;  // in the file, of the first sample
    riff::PcmCheck::Layout layout;
};

// Where it lies, when it is in more than one piece and all were found; nothing otherwise.
std::optional<std::vector<ByteRange>> joinSound(CardView& card, const Recording& recording,
                                                const ClipPool& pool, std::chrono::milliseconds time,
                                                const Control& control);

}  // namespace dreskel::rebuild
