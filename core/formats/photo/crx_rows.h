// Sensor data of Canon's CR3, without losses: tiles of planes, one for each colour of the sensor, line by
// line, in codes that adapt to what came before (as LibRaw reads them). Those with losses, in wavelets, are
// not understood.
#pragma once

#include <optional>

#include "formats/photo/sensor_rows.h"

namespace dreskel {

struct CrxCoding final : SensorCoding {
    std::uint32_t width = 0, height = 0, tileWidth = 0, tileHeight = 0;  // samples
    unsigned bits = 0;                                                   // of a sample
    unsigned planes = 0;                                                 // 4, or 1
    bool wavelets = false;
    std::uint32_t head = 0;  // bytes in front of the first plane, which say where each lies
    std::unique_ptr<SensorRows> rows(std::uint64_t at) const override;
};

// From the inside of a CMP1 box. Nothing when it states what cannot be.
std::optional<CrxCoding> readCrxCoding(Bytes box);

}  // namespace dreskel
