#include "rebuild/text.h"

namespace dreskel::rebuild {

bool isText(Bytes block) {
    std::size_t letters = 0;
    for (const auto byte : block) {
        if (byte >= 0x80) continue;
        if (byte < 0x20 && byte != '\t' && byte != '\n' && byte != '\r') return false;
        ++letters;
    }
    return letters >= block.size() / 4 * 3;
}

}  // namespace dreskel::rebuild
