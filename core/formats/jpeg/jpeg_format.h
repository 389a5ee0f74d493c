// JPEG photos: ITU-T T.81, JFIF (ECMA TR/98), Exif (CIPA DC-008), multi-picture files (CIPA DC-007).
#pragma once

#include "formats/format.h"

namespace dreskel::jpeg {

class JpegFormat : public Format {
  public:
    std::string_view name() const override { return "jpeg"; }
    std::vector<std::string_view> formats() const override { return {"jpeg"}; }
    Kind kindOf(std::string_view) const override { return Kind::Photo; }
    std::string_view extension(std::string_view) const override { return "jpg"; }
    bool hasExtension(std::string_view extension) const override {
        return extension == "jpe" || Format::hasExtension(extension);
    }
    bool matches(Bytes head) const override;
    std::unique_ptr<Measure> measure() const override;
};

}  // namespace dreskel::jpeg
