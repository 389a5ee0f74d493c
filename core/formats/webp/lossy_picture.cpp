#include "formats/vp8/frame.h"
#include "formats/webp/coded_picture.h"

namespace dreskel::webp {

Followed followLossy(Bytes frame, std::uint64_t most) {
    Followed found;
    const auto head = vp8::readFrameHead(frame);
    if (!head || !head->key) {
        found.wrong = "it holds no key frame";
        return found;
    }
    found.width = head->width;
    found.height = head->height;
    if (std::uint64_t{head->width} * head->height > most) {
        found.tooLarge = true;
        return found;
    }
    vp8::Kept kept;
    const auto fault = vp8::followFrame(*head, head->width, head->height, kept);
    if (!fault) return found;
    found.wrong = fault->why;
    if (fault->rows > 0)
        found.wrong += ", in row " + std::to_string(fault->row) + " of " + std::to_string(fault->rows);
    return found;
}

}  // namespace dreskel::webp
