// AV1 by the decoder that looks at how the arithmetic coding of each tile ends (AV1 specification, 8.2.4:
// zero bits to the end), which foreign bytes do not do.
#pragma once

#include <string>

#include "base/bytes.h"

struct AVCodec;

namespace dreskel::media {

// Null where libav was built without it.
const AVCodec* strictAv1Decoder();

// What is wrong with a picture, as its open bitstream units follow one another; empty when nothing is.
std::string complaintAboutAv1(Bytes units);

}  // namespace dreskel::media
