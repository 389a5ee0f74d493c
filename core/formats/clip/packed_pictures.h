// The pictures of one stream that comes in packets (ISO/IEC 13818-1, 2.4.3.6): whether the one in hand is
// right can be asked for, which tells pieces of one recording from those of another where both would fit by
// their counters.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "base/bytes.h"
#include "formats/clip/picture_order.h"

namespace dreskel {

// A value: copies share nothing. Memory: a picture as it is coded, and the parameter sets.
class PackedPictures {
  public:
    explicit PackedPictures(PictureCoding coding) : coding_(coding) {}

    // The payload of a packet; `begins`: a packet of the packetised stream begins in it. Where one ends, says
    // whether the picture in it was right: nothing when it was not looked at, or cannot be told.
    std::optional<bool> take(bool begins, Bytes payload, bool closely);

  private:
    bool beginsPicture() const;
    std::optional<bool> look();
    void learn();

    PictureCoding coding_;
    std::vector<std::uint8_t> picture_;
    std::vector<std::uint8_t> sets_;  // with their start codes
    bool known_ = false;              // it was there from its beginning
    // Whether pictures are packed one by one.
    std::optional<bool> oneByOne_;
};

}  // namespace dreskel
