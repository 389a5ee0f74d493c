// A stretch of picture data in a photo whose directories say where such stretches lie. What stands in it is
// known from the outside as far as this goes.
#pragma once

#include <cstdint>
#include <memory>

#include "base/range.h"
#include "formats/photo/sensor_rows.h"

namespace dreskel {

struct Area {
    enum class Coding {
        Unknown,
        Preview,   // a JPEG stream
        Old,       // one, if it begins like one: TIFF 6.0, section 22, leaves that open
        Strip,     // a JPEG stream, lossless for sensor data
        Sixteens,  // Sony: sixteen samples in sixteen bytes
        Sensor     // see sensor_rows.h
    };
    ByteRange range;  // bytes from the start of the file
    Coding coding = Coding::Unknown;
    std::uint32_t most = UINT32_MAX;  // the largest sample that there can be, where that is known
    std::shared_ptr<const SensorCoding> sensor = nullptr;  // with Sensor
};

}  // namespace dreskel
