// Whether a picture that decodes without an error is one picture. Pieces of one photo in the wrong order, or
// a piece of another, can decode to the right number of blocks; but the rows below the join then do not fit
// the rows above.
#pragma once

#include <limits>
#include <optional>
#include <vector>

#include "formats/jpeg/stream_decoder.h"

namespace dreskel::jpeg {

struct Jump {
    std::uint64_t byte = 0;  // of the stream, where there may be a mark
    std::uint64_t mcu = 0;
};

// The first place where, exactly from the start of a cluster on and for exactly one row of MCUs, the picture
// does not continue the row above, while it does before and behind. Errs towards nothing: what could be an
// edge of the picture's own is not reported. `scanStart`: the stream's byte at which the first scan's data
// begin.
std::optional<Jump> findJump(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart);

// How the row of MCUs behind a join fits the one above, when the join is known to lie at a byte of the stream
// (where there may be a mark). Far stricter than findJump, which has to bear with everything that a
// picture may show anywhere.
// `complete`: the whole picture has been decoded, no more will come.
//
// In the first scan of an image the brightness and tint of the blocks tell; in later ones that are the first
// to tell of some coefficients, how many of these there are from block to block.
enum class Seam { Fits, DoesNotFit, NotYetDecoded, CannotTell };
struct SeamLook {
    Seam seam = Seam::CannotTell;
    // How rough it is: from 1 on it does not fit. Of a row that is not all decoded yet it is 0 until there is
    // no doubt.
    double strain = 0;
    double rows = 0;  // of the picture behind it; where nothing is told, 0 if there are none
};
SeamLook lookAtSeam(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart, std::uint64_t byte,
                    bool complete = false);
Seam seamAt(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart, std::uint64_t byte,
            bool complete = false);

// What is usual in the picture above a seam: how much rows differ from the row above them at most, and how
// well they go with it at least, of each component.
struct UsualAbove {
    struct Rows {
        double step = 0;  // levels
        double correlation = 1;
    };
    std::vector<Rows> components;
};

// Looks at one seam again and again while one place after another is tried behind it: what stands above it is
// looked at once. Told as soon as the decoder is past the row, not only at its next mark. The planes must
// outlive it; what is decoded up to the seam must not change.
class SeamWatch {
  public:
    // `byte`: as in lookAtSeam(). `pastDoubt`: the strain from which on a part of a row is enough to say that
    // it does not fit, where the usual one is larger.
    SeamWatch(const DcPlanes& planes, std::uint64_t byte,
              double pastDoubt = std::numeric_limits<double>::infinity())
        : planes_(planes), byte_(byte), pastDoubt_(pastDoubt) {}
    // `decoder` writes to the planes.
    SeamLook look(const StreamDecoder& decoder);

  private:
    const DcPlanes& planes_;
    std::uint64_t byte_;
    double pastDoubt_;
    std::uint64_t from_ = 0;  // the first MCU behind the seam; 0: it was not looked at yet
    UsualAbove above_;
};

}  // namespace dreskel::jpeg
