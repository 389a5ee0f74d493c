// Checks the coded pictures of an H.264 stream to the last bit, unit by unit.
//
// Not thread-safe. Memory: less than one byte a sample of a picture, and one unit unescaped.
#pragma once

#include <memory>

#include "formats/avc/slice_data.h"

namespace dreskel::avc {

class StreamCheck : public PictureCheck {
  public:
    // With the parameter sets of an avcC box (ISO/IEC 14496-15, 5.3.3.1), if there are any.
    explicit StreamCheck(Bytes settings = {});

    std::optional<PictureFault> unit(Bytes unit) override;
    std::optional<PictureFault> endPicture() override;

  private:
    ParameterSets sets_;
    std::unique_ptr<SliceData> data_;
    bool inPicture_ = false;
    int changes_ = 0;
};

}  // namespace dreskel::avc
