// What the sample entry of a sound track says of its coding (ISO/IEC 14496-12, 12.2.3; 14496-1, 7.2.6;
// QuickTime File Format, "Sound sample descriptions").
#pragma once

#include <cstdint>
#include <vector>

#include "formats/isobmff/boxes.h"

namespace dreskel::isobmff {

// Plain: samples as they are, in any order of their bytes. Lossless: Apple's.
enum class SoundCoding { Other, Aac, Lossless, Plain };

struct SoundEntry {
    SoundCoding coding = SoundCoding::Other;
    // The decoder's: the AudioSpecificConfig of AAC, the 24 bytes of Apple Lossless.
    std::vector<std::uint8_t> settings;
    std::uint32_t frameBytes = 0;  // of Plain: a sample of every channel
};

// `entry`: the first of an stsd box.
SoundEntry readSoundEntry(const Box& entry);

}  // namespace dreskel::isobmff
