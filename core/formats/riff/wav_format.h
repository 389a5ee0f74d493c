// WAV sound: RIFF (Multimedia Programming Interface 1.0), Broadcast Wave (EBU Tech 3285), and RF64 for more
// than 4 GiB (EBU Tech 3306).
#pragma once

#include "formats/format.h"

namespace dreskel::riff {

class WavFormat : public Format {
  public:
    std::string_view name() const override { return "wav"; }
    std::vector<std::string_view> formats() const override { return {"wav"}; }
    Kind kindOf(std::string_view) const override { return Kind::Audio; }
    std::string_view extension(std::string_view) const override { return "wav"; }
    bool matches(Bytes head) const override;
    std::unique_ptr<Measure> measure() const override;
};

}  // namespace dreskel::riff
