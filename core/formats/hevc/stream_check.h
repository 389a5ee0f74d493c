// Checks the coded pictures of an HEVC stream (ITU-T H.265) to the last bit, unit by unit.
//
// Not thread-safe. Memory: two bytes for every 16 samples of a picture at most, and one unit unescaped.
#pragma once

#include <memory>
#include <optional>

#include "formats/hevc/slice_data.h"

namespace dreskel::hevc {

class StreamCheck : public PictureCheck {
  public:
    // With the parameter sets of an hvcC box (ISO/IEC 14496-15, 8.3.3.1), if there are any.
    explicit StreamCheck(Bytes settings = {});

    std::optional<PictureFault> unit(Bytes unit) override;
    std::optional<PictureFault> endPicture() override;

  private:
    ParameterSets sets_;
    std::unique_ptr<SliceData> data_;
    bool inPicture_ = false;
    int changes_ = 0;
    std::optional<SliceHead> head_;
};

}  // namespace dreskel::hevc
