#include "formats/jpeg/metadata.h"

#include <algorithm>

#include "formats/exif.h"
#include "formats/tiff.h"

namespace dreskel::jpeg {
namespace {

void readMultiPicture(Bytes body, std::uint64_t bodyAt, Metadata& into) {
    const auto block = tiff::Block::open(body);
    if (!block) return;
    const auto index = block->directory(block->first());
    if (!index) return;
    const auto* entries = index->find(0xb002);
    if (entries == nullptr || entries->value.size() % 16 != 0) return;
    ByteReader reader(entries->value, block->endian());
    while (reader.left() >= 16 && into.furtherPictures.size() < 16) {
        reader.skip(4);
        const auto size = reader.u32();
        const auto offset = reader.u32();
        reader.skip(4);
        if (offset != 0 && size > 0) into.furtherPictures.push_back({bodyAt + offset, size});
    }
    std::sort(into.furtherPictures.begin(), into.furtherPictures.end(),
              [](const ByteRange& a, const ByteRange& b) { return a.offset < b.offset; });
}

}  // namespace

Metadata readMetadata(Bytes head) {
    Metadata found;
    std::size_t at = 2;
    while (at + 4 <= head.size() && head[at] == 0xff) {
        const auto code = head[at + 1];
        if (code == 0xff) {
            ++at;
            continue;
        }
        if (code == 0xda || code == 0xd9) break;
        const std::size_t length = static_cast<std::size_t>(head[at + 2]) << 8 | head[at + 3];
        if (length < 2) break;
        const auto body = slice(head, at + 4, length - 2);
        if (code == 0xe1 && startsWith(body, std::string_view("Exif\0\0", 6))) {
            found.exif = readExif(body.subspan(6), found.description) || found.exif;
            if (found.thumbnail.empty()) found.thumbnail = thumbnailIn(body.subspan(6));
        } else if (code == 0xe2 && startsWith(body, std::string_view("MPF\0", 4))) {
            readMultiPicture(body.subspan(4), at + 8, found);
        }
        at += 2 + length;
    }
    return found;
}

}  // namespace dreskel::jpeg
