// The units of a bare H.264 or HEVC stream (ITU-T H.264, annex B).
#pragma once

#include <vector>

#include "tests/support/support.h"

namespace dreskel::test {

// Views into the stream, without start codes and the zeros behind.
inline std::vector<Bytes> unitsOf(const Buffer& stream) {
    std::vector<std::size_t> places;
    for (std::size_t at = 0; at + 3 <= stream.size(); ++at) {
        if (stream[at] == 0 && stream[at + 1] == 0 && stream[at + 2] == 1) places.push_back(at + 3);
    }
    std::vector<Bytes> units;
    for (std::size_t i = 0; i < places.size(); ++i) {
        auto end = i + 1 < places.size() ? places[i + 1] - 3 : stream.size();
        while (end > places[i] && stream[end - 1] == 0) --end;
        units.push_back(slice(stream, places[i], end - places[i]));
    }
    return units;
}

}  // namespace dreskel::test
