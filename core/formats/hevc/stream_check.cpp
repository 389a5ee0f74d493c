#include "formats/hevc/stream_check.h"

namespace dreskel::hevc {

StreamCheck::StreamCheck(Bytes settings) {
    ByteReader reader(settings);
    reader.skip(22);
    const auto arrays = reader.u8();
    for (unsigned i = 0; i < arrays && reader.ok(); ++i) {
        reader.skip(1);
        const auto units = reader.u16();
        for (unsigned j = 0; j < units && reader.ok(); ++j) learn(reader.take(reader.u16()));
    }
}

}  // namespace dreskel::hevc
