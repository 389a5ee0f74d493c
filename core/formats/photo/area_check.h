// Checks a stretch of picture data of a TIFF or raw file by its coding, as far as that allows: JPEG streams,
// lossless ones too (ITU-T T.81), Sony's blocks of sixteen samples and sensor data that are followed sample
// by sample (sensor_rows.h). Other codings pass as they are.
#pragma once

#include <optional>
#include <string>
#include <variant>

#include "formats/jpeg/lossless_decoder.h"
#include "formats/jpeg/stream_decoder.h"
#include "formats/photo/area.h"

namespace dreskel {

// A plain value: a copy is a state to go on from with other bytes. Bytes come in order, in portions.
class AreaCheck {
  public:
    // A JPEG's coding shows in its header: so many bytes are taken at once to begin with, if there are as
    // many.
    static constexpr std::size_t kFirst = 128 * 1024;

    explicit AreaCheck(const Area& area)
        : coding_(area.coding), most_(area.most), sensor_(area.sensor), at_(area.range.offset) {}
    // Whether these bytes, fewer than that, show it, too.
    static bool tells(Area::Coding coding, Bytes head);
    // `last`: the area ends with these.
    void give(Bytes bytes, bool last);
    // Rows of sensor data that do hardly follow those above are wrong then.
    void lookClosely(bool closely);
    const std::string& why() const { return why_; }  // empty: nothing wrong so far
    std::uint64_t taken() const { return taken_; }   // bytes that made sense

  private:
    void open(Bytes head);
    void giveSixteens(Bytes bytes);

    Area::Coding coding_;
    std::uint32_t most_;
    bool begun_ = false, closely_ = false;
    std::shared_ptr<const SensorCoding> sensor_;
    std::uint64_t at_;  // in the file
    std::variant<std::monostate, jpeg::StreamDecoder, jpeg::LosslessDecoder, SensorState> stream_;
    std::uint64_t given_ = 0, taken_ = 0;
    std::string why_;
};

}  // namespace dreskel
