#include "formats/avc/stream_check.h"

namespace dreskel::avc {

StreamCheck::StreamCheck(Bytes settings) {
    ByteReader reader(settings);
    reader.skip(5);
    for (const unsigned mask : {0x1fU, 0xffU}) {
        const unsigned count = reader.u8() & mask;
        for (unsigned i = 0; i < count && reader.ok(); ++i) learn(reader.take(reader.u16()));
    }
}

}  // namespace dreskel::avc
