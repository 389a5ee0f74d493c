// What the decoding libraries let pass and this program does not: bytes that cannot be this stream's although
// something comes of decoding them.
#pragma once

extern "C" {
#include <libavcodec/avcodec.h>
}

#include <memory>
#include <string>

#include "base/bytes.h"
#include "formats/clip/picture_check.h"

namespace dreskel::media {

// What is wrong with a packet's bytes; empty when nothing is. H.264 and HEVC: the NAL units do not fill the
// sample, or hold what emulation prevention forbids (ITU-T H.264 and H.265, 7.4.1). Motion JPEG: the picture
// does not decode to its last block. MPEG-2: slices are missing. Apple Lossless: its codes do not end with
// the packet. Coded sound: a long run of zeros. All but Motion JPEG: a photo's coded data among them.
std::string complaintAbout(Bytes packet, const AVCodecParameters& stream);

// What the pictures of one stream of H.264, HEVC, VP8 or VP9 are, followed to their last bit; decoders take
// much for such that is not. Nothing to say about streams of other codings.
class PictureStrictness {
  public:
    explicit PictureStrictness(const AVCodecParameters& stream);
    struct Verdict {
        std::string complaint;  // empty when nothing is wrong
        bool followed = false;  // every bit of it was
    };
    Verdict on(Bytes packet);
    // Nothing is said any more: this stream is not understood.
    void giveUp() { units_.reset(); }

  private:
    enum class Packing { Lengths, StartCodes, One };  // how units lie in a packet

    std::unique_ptr<PictureCheck> units_;
    Packing packing_ = Packing::One;
    std::size_t lengthSize_ = 0;
};

// Of sound without loss: whether a frame of it is what foreign bytes decode to; see loud_noise.h.
bool soundsForeign(const AVFrame& frame);

}  // namespace dreskel::media
