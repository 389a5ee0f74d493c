// Follows one coded picture again and again while some of its bytes change: as long as its beginning stays
// what it was, each time from where the bytes differ. That is what trying one place after another for a piece
// of a picture takes.
#pragma once

#include <memory>
#include <optional>

#include "formats/clip/picture_check.h"

namespace dreskel {

// Not thread-safe. Memory: the picture's bytes, and a kilobyte or two for each kilobyte of them.
class PictureTrail {
  public:
    struct Outcome {
        std::optional<PictureFault> fault;  // the same that PictureCheck::sample() finds
        std::uint64_t pictures = 0;         // that were followed to their end
    };

    virtual ~PictureTrail() = default;
    // The sample that holds the picture, as it would lie now.
    virtual Outcome follow(Bytes sample) = 0;
    // How badly what comes behind one of its bytes, where pieces may be joined, goes with the picture above:
    // from 1 on it does not. 0 where nothing can be told, as of codings whose samples are not rebuilt.
    virtual double strainAt(std::size_t) const { return 0; }
};

// `settings`: of an avcC or hvcC box; `lengthSize`: bytes of the length in front of each unit.
std::unique_ptr<PictureTrail> pictureTrail(PictureCoding coding, Bytes settings, std::size_t lengthSize);

}  // namespace dreskel
