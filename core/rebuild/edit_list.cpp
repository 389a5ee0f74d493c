#include "rebuild/edit_list.h"

namespace dreskel::rebuild {

EditList readEdits(Bytes body) {
    EditList edits;
    ByteReader reader(body);
    const bool wide = reader.u8() == 1;
    reader.skip(3);
    for (auto left = reader.u32(); left > 0 && reader.ok(); --left) {
        const auto length = wide ? reader.u64() : reader.u32();
        const auto at = wide ? static_cast<std::int64_t>(reader.u64())
                             : std::int64_t{static_cast<std::int32_t>(reader.u32())};
        reader.skip(4);
        if (!reader.ok()) break;
        if (at >= 0) {
            edits.start = static_cast<std::uint64_t>(at);
            break;
        }
        edits.wait += length;
    }
    return edits;
}

BoxBytes writeEdits(const EditList& edits, std::uint64_t length) {
    constexpr std::uint64_t kRate = 0x10000;  // 1.0: as fast as it was recorded
    BoxBytes box;
    put(box, std::uint64_t{1} << 56, 8);  // version 1: 64-bit times
    set(box, 4, edits.wait > 0 ? 2 : 1, 4);
    if (edits.wait > 0) {
        put(box, edits.wait, 8);
        put(box, UINT64_MAX, 8);  // nothing is shown
        put(box, kRate, 4);
    }
    put(box, length, 8);
    put(box, edits.start, 8);
    put(box, kRate, 4);
    return box;
}

}  // namespace dreskel::rebuild
