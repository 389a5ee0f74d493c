// The pictures of one stream that comes in packets (ISO/IEC 13818-1, 2.4.3.6): whether the one in hand is
// right can be asked for, which tells pieces of one recording from those of another where both would fit by
// their counters.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <vector>

#include "base/shared_bytes.h"
#include "formats/clip/start_codes.h"

namespace dreskel {

// A value; copies share what they know of the picture that holdsSoFar() followed last, and belong to one
// thread. Memory: a picture as it is coded, a few times, and the parameter sets.
class PackedPictures {
  public:
    explicit PackedPictures(PictureCoding coding)
        : coding_(coding), trail_(std::make_shared<StartCodedTrail>(coding)) {}

    // The payload of a packet; `begins`: a packet of the packetised stream begins in it. Where one ends, says
    // whether the picture in it was right: nothing when it was not looked at, or cannot be told.
    std::optional<bool> take(bool begins, Bytes payload);
    // Whether to look at the picture in hand when it is complete. Those behind it are not: what they came
    // with was not joined to anything in them.
    void lookAtThisOne(bool look) { lookAtThisOne_ = look; }
    // Whether the picture in hand, of which more is to come, is right as far as it has come. Asked again for
    // one that goes on in another way it is followed from there only.
    std::optional<bool> holdsSoFar() const;

  private:
    bool beginsPicture() const;
    std::optional<bool> look() const;

    PictureCoding coding_;
    SharedBytes picture_;
    std::vector<std::uint8_t> sets_;  // with their start codes
    bool known_ = false;              // it was there from its beginning
    // Whether pictures are packed one by one.
    std::optional<bool> oneByOne_;
    bool lookAtThisOne_ = false;
    std::shared_ptr<StartCodedTrail> trail_;
};

}  // namespace dreskel
