// Coded pictures whose units stand behind start codes (ITU-T H.264 and H.265, Annex B): where units begin and
// end, and whether a picture of which more may come is right so far.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "formats/clip/picture_trail.h"

namespace dreskel {

inline constexpr std::size_t kMostZerosBetweenUnits = 64;  // more is what lies behind the stream

// Bytes of the start code at the front, leading zeros included; 0 when there is none.
std::size_t startCodeAt(Bytes bytes);
// How far a unit reaches: to the first two zeros that emulation prevention would not have let stand. Nothing
// when `bytes` end before it does.
std::optional<std::size_t> unitEnd(Bytes bytes);

// What stands in front of the first slice of a picture with which decoding can begin: parameter sets, with
// their start codes. Nothing where there are none.
std::optional<std::vector<std::uint8_t>> setsIn(PictureCoding coding, Bytes picture);

// Follows one picture after another, each again and again while what it goes on with changes.
class StartCodedTrail {
  public:
    explicit StartCodedTrail(PictureCoding coding) : trail_(pictureTrail(coding, {}, kLengthSize)) {}

    // `sets`: the parameter sets, in front of each picture. Where it is wrong (PictureFault::byte, of the
    // picture, within a few bytes for each unit), its last unit being there only in part.
    std::optional<PictureFault> soFar(Bytes sets, Bytes picture);
    // The same of a picture that is complete.
    std::optional<PictureFault> complete(Bytes sets, Bytes picture);

  private:
    static constexpr std::size_t kLengthSize = 4;  // bytes of a unit's length, as it is followed
    std::size_t addUnits(Bytes coded);             // where the last of them begins
    void setLength(std::size_t at, std::size_t length);

    std::unique_ptr<PictureTrail> trail_;
    std::vector<std::uint8_t> sample_;  // kept to spare allocations
};

}  // namespace dreskel
