// Checks the coded pictures of an HEVC stream (ITU-T H.265) to the last bit, unit by unit.
//
// Not thread-safe. Memory: two bytes for every 16 samples of a picture at most, and one unit unescaped.
#pragma once

#include <memory>
#include <optional>

#include "formats/hevc/slice_data.h"

namespace dreskel::hevc {

class StreamCheck {
  public:
    StreamCheck() = default;
    // With the parameter sets of an hvcC box (ISO/IEC 14496-15, 8.3.3.1).
    explicit StreamCheck(Bytes settings);

    // The next unit of the stream, without its length or start code. Parameter sets are learnt, slices are
    // followed; others, and slices whose sets are not known or ask for what is not followed here, are
    // passed over. After a fault the rest of the picture is.
    std::optional<Fault> unit(Bytes unit);
    // The picture is over: whether all of it was there.
    std::optional<Fault> endPicture();
    // Pictures that were followed.
    std::uint64_t followed() const { return followed_; }

  private:
    ParameterSets sets_;
    std::unique_ptr<SliceData> picture_;
    std::optional<SliceHead> head_;
    std::uint64_t followed_ = 0;
};

// All units of a sample, each behind its length (`lengthSize` bytes), as one or more whole pictures.
std::optional<Fault> checkSample(StreamCheck& stream, Bytes sample, std::size_t lengthSize);

// The same for units behind start codes (ITU-T H.265, B.2).
std::optional<Fault> checkStartCoded(StreamCheck& stream, Bytes sample);

}  // namespace dreskel::hevc
