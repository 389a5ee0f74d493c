// Finds the parts of a picture that a decoder left as they were. Some decoders end a picture early without
// complaint when the coded data are not its own; so every buffer is filled with a pattern before it is
// decoded into, and what still shows it afterwards was not decoded. Lives in the worker process only.
#pragma once

extern "C" {
#include <libavcodec/avcodec.h>
}

namespace dreskel::media {

// From now on the decoder's buffers hold the pattern before they are used. For decoders that work in one
// thread.
void patternBuffers(AVCodecContext& decoder);

// Whether some block of the picture still shows it.
bool hasUndecodedBlocks(const AVFrame& frame);

}  // namespace dreskel::media
