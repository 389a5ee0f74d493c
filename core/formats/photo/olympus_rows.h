// Sensor data of Olympus' raw files: 12 bits a sample, each told by those beside and above it, in codes that
// adapt to what came before (as LibRaw reads them).
#pragma once

#include "formats/photo/sensor_rows.h"

namespace dreskel {

struct OlympusCoding final : SensorCoding {
    std::uint32_t width = 0, height = 0;  // samples
    std::unique_ptr<SensorRows> rows(std::uint64_t at) const override;
};

}  // namespace dreskel
