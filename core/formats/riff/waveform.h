// Whether a waveform goes on over a border between two stretches of samples: the samples behind it are
// foretold from those before it, and those before from those behind, by linear prediction (Burg's method).
#pragma once

#include "formats/riff/pcm_check.h"

namespace dreskel::riff {

struct Seam {
    // How much worse the samples at the border are foretold than others beside it: up to about 1 the waveform
    // goes on, far above it jumps. Of the worst channel.
    double jump = 0;  // by the better of the two directions: a sound that begins just there does not count
    double mismatch = 0;  // by the worse
    // How badly samples behind it are foretold at all, of full scale; large where the bytes are no such
    // samples.
    double roughness = 0;
};

// `before` ends and `behind` begins at the border, some thousand bytes each; `phase`: how many bytes of a
// frame (a sample of each channel) lie before it. Nothing where there is no sound on either side, or too
// little to judge by.
std::optional<Seam> seamOf(Bytes before, Bytes behind, const PcmCheck::Layout& layout, std::size_t phase);

// Cheap, and enough to pass over nearly all borders where nothing jumps: how much more sudden the samples at
// the border are than those on its quieter side. Up to 1 it is not worth looking closer.
double suddenness(Bytes before, Bytes behind, const PcmCheck::Layout& layout, std::size_t phase);

// The same of the most sudden place well inside of `samples`, which begin with a frame: what the recording
// does by itself.
double suddennessWithin(Bytes samples, const PcmCheck::Layout& layout);

}  // namespace dreskel::riff
