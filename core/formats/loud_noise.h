// Sound as loud as sound can be with no sample having to do with those near it: what coded data (photos,
// clips, archives) are when they are taken for samples. No recording is both.
#pragma once

#include <span>

namespace dreskel {

// `samples` from -1 to 1, of `channels` interleaved; a few hundred at least. Evenly spread samples have a
// root mean square of 0.577, and neighbours at any distance correlate by chance only; a tone of any height
// does at some distance.
bool isLoudNoise(std::span<const float> samples, unsigned channels);

}  // namespace dreskel
