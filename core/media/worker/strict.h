// What the decoding libraries let pass and this program does not: bytes that cannot be this stream's although
// something comes of decoding them.
#pragma once

extern "C" {
#include <libavcodec/avcodec.h>
}

#include <string>

#include "base/bytes.h"

namespace dreskel::media {

// What is wrong with a packet's bytes; empty when nothing is. H.264 and HEVC: the NAL units do not fill the
// sample, or hold what emulation prevention forbids (ITU-T H.264 and H.265, 7.4.1). Motion JPEG: the picture
// does not decode to its last block. Coded sound: a long run of zeros. All but Motion JPEG: a photo's coded
// data among them.
std::string complaintAbout(Bytes packet, const AVCodecParameters& stream);

// What is wrong with one picture that stands by itself, decoded strictly; `settings` as its container keeps
// them.
std::string complaintAboutPicture(AVCodecID codec, Bytes settings, Bytes picture);

// Of sound without loss: whether a frame of it is what foreign bytes decode to; see loud_noise.h.
bool soundsForeign(const AVFrame& frame);

}  // namespace dreskel::media
