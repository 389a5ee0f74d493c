// Whether a waveform goes on over a border between two stretches of samples: the samples behind it are
// foretold from those before it, and those before from those behind, by linear prediction (Burg's method).
#pragma once

#include "formats/plain_samples.h"
#include "formats/riff/pcm_check.h"

namespace dreskel::riff {

// Of the worst channel, by how well samples are foretold; roughness is of full scale. `before` ends and
// `behind` begins at the border, some thousand bytes each; `phase`: how many bytes of a frame (a sample of
// each channel) lie before it. Nothing where there is no sound on either side, or too little to judge by.
std::optional<Seam> seamOf(Bytes before, Bytes behind, const PcmCheck::Layout& layout, std::size_t phase);

// `looked`: whether their format has looked at them itself (pcm_check.h).
std::shared_ptr<const PlainSamples> samplesOf(const PcmCheck::Layout& layout, ByteRange range,
                                              std::uint64_t fileLength, bool looked);

// Cheap, and enough to pass over nearly all borders where nothing jumps: how much more sudden the samples at
// the border are than those on its quieter side. Up to 1 it is not worth looking closer.
double suddenness(Bytes before, Bytes behind, const PcmCheck::Layout& layout, std::size_t phase);

// The same of the most sudden place well inside of `samples`, which begin with a frame: what the recording
// does by itself.
double suddennessWithin(Bytes samples, const PcmCheck::Layout& layout);

}  // namespace dreskel::riff
