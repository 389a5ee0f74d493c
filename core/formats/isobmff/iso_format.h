// Clips and sound in ISO base media and QuickTime files: MP4, MOV, M4V, M4A, 3GP (ISO/IEC 14496-12, 3GPP
// TS 26.244).
#pragma once

#include "formats/format.h"

namespace dreskel::isobmff {

class IsoFormat : public Format {
  public:
    std::string_view name() const override { return "isobmff"; }
    std::vector<std::string_view> formats() const override { return {"mp4", "mov", "m4v", "m4a", "3gp"}; }
    Kind kindOf(std::string_view format) const override {
        return format == "m4a" ? Kind::Audio : Kind::Video;
    }
    std::string_view extension(std::string_view format) const override { return format; }
    bool matches(Bytes head) const override;
    std::unique_ptr<Measure> measure() const override;
};

}  // namespace dreskel::isobmff
