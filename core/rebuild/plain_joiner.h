// Puts files of plain samples together again that lie in pieces: recordings and pictures without a coding.
// Samples carry nothing to check them by, but they go on over the border of two clusters that belong
// together, and jump where they do not (formats/plain_samples.h). Where they jump from one free cluster to
// the next, a piece begins; the file is the chain of such pieces that goes on at every join and is just as
// long as its header says.
#pragma once

#include <chrono>
#include <optional>
#include <vector>

#include "base/control.h"
#include "formats/plain_samples.h"
#include "rebuild/clip_joiner.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// Where the file lies whose front lies in `front`, whole clusters of the card, when it is in more than one
// piece and all were found; nothing otherwise. What stands before the first samples is not looked into.
std::optional<std::vector<ByteRange>> joinPlain(CardView& card, std::vector<ByteRange> front,
                                                const PlainSamples& samples, const ClipPool& pool,
                                                std::chrono::milliseconds time, const Control& control);

}  // namespace dreskel::rebuild
