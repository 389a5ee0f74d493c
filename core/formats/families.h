// The format families that are one file each. Immutable; see registry.h.
#pragma once

#include "formats/format.h"

namespace dreskel {

const Format& pngFormat();
const Format& gifFormat();
const Format& bmpFormat();
const Format& webpFormat();
const Format& jxlFormat();
const Format& tiffFormat();
const Format& rawFormat();
const Format& cr3Format();
const Format& directoryBehindFormat();
const Format& isoPictureFormat();

const Format& aviFormat();
const Format& matroskaFormat();
const Format& asfFormat();
const Format& flvFormat();
const Format& mxfFormat();
const Format& dvFormat();
const Format& transportFormat();
const Format& programFormat();
const Format& elementaryFormat();

const Format& mpegAudioFormat();
const Format& adtsFormat();
const Format& amrFormat();
const Format& oggFormat();
const Format& flacFormat();
const Format& aiffFormat();
const Format& cafFormat();
const Format& midiFormat();

const Format& xmpFormat();
const Format& subtitleFormat();

}  // namespace dreskel
