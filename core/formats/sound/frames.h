// Sound that is a run of frames, each of which says how long it is: where a run begins and ends.
#pragma once

#include <functional>

#include "base/bytes.h"

namespace dreskel::sound {

// What one frame's header says.
struct Frame {
    std::uint32_t length = 0;   // bytes, header included
    std::uint32_t kind = 0;     // what stays the same from frame to frame of one recording
    std::uint32_t rate = 0;     // samples a second
    std::uint32_t samples = 0;  // of each channel
    std::uint32_t channels = 0;
};

// MPEG-1 and -2 audio, layers I to III (ISO/IEC 11172-3, 2.4.2.3; 13818-3). Nothing when `bytes` begins with
// none.
std::optional<Frame> mpegFrame(Bytes bytes);
// AAC in ADTS (ISO/IEC 13818-7, 6.2).
std::optional<Frame> adtsFrame(Bytes bytes);

// Where the first frame begins that others follow, up to four in a row, in bytes from anywhere in a run.
std::optional<std::size_t> firstFrameIn(Bytes bytes,
                                        const std::function<std::optional<Frame>(Bytes)>& frameAt);

// Whether at least two more frames of the same kind follow the one at the front, as far as `bytes` reach.
bool followed(Bytes bytes, const std::function<std::optional<Frame>(Bytes)>& frameAt);

}  // namespace dreskel::sound
