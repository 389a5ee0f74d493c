#include "formats/isobmff/boxes.h"

namespace dreskel::isobmff {

std::optional<BoxHeader> readBoxHeader(Bytes bytes) {
    ByteReader reader(bytes);
    BoxHeader header;
    header.size = reader.u32();
    header.type = reader.u32();
    if (header.size == 1) {
        header.size = reader.u64();
        header.headerSize = 16;
    }
    if (!reader.ok() || (header.size != 0 && header.size < header.headerSize)) return std::nullopt;
    return header;
}

std::optional<Box> BoxWalk::next() {
    const auto header = readBoxHeader(rest_);
    if (!header) return std::nullopt;
    const auto size = header->size == 0 ? rest_.size() : header->size;
    if (size > rest_.size()) {
        rest_ = {};
        return std::nullopt;
    }
    const auto length = static_cast<std::size_t>(size);
    Box box{header->type, rest_.subspan(header->headerSize, length - header->headerSize)};
    rest_ = rest_.subspan(length);
    return box;
}

std::optional<Box> findBox(Bytes body, std::uint32_t type) {
    BoxWalk walk(body);
    while (auto box = walk.next()) {
        if (box->type == type) return box;
    }
    return std::nullopt;
}

}  // namespace dreskel::isobmff
