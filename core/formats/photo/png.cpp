// PNG (ISO/IEC 15948): a signature, then chunks that each carry their length, name and CRC-32.
#include <zlib.h>

#include <algorithm>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::string_view kSignature = "\x89PNG\r\n\x1a\n";
constexpr std::size_t kPngPortion = 64 * 1024;
constexpr std::uint32_t kLongestChunk = 0x7fffffff;

class PngWalk : public Walk {
  public:
    PngWalk() : Walk(kPngPortion) {}

  private:
    bool takesAny() const override { return true; }
    void visit(Bytes bytes, bool last) override;
    void describe(Measured& into) override;
    bool begin(ByteReader& reader);

    std::uint64_t chunkAt_ = 0;
    std::uint64_t left_ = 0;  // bytes of the chunk's body that are still to come
    bool inBody_ = false;
    std::uint32_t type_ = 0;
    uLong sum_ = 0;
    std::uint32_t width_ = 0, height_ = 0;
};

bool PngWalk::begin(ByteReader& reader) {
    const auto length = reader.u32();
    const auto name = reader.take(4);
    const bool letters = std::all_of(name.begin(), name.end(),
                                     [](std::uint8_t c) { return (c | 0x20) >= 'a' && (c | 0x20) <= 'z'; });
    if (length > kLongestChunk || !letters) return false;
    type_ = ByteReader(name).u32();
    left_ = length;
    sum_ = crc32(0, name.data(), static_cast<uInt>(name.size()));
    inBody_ = true;
    return true;
}

void PngWalk::visit(Bytes bytes, bool last) {
    ByteReader reader(bytes);
    if (position() == 0) {
        reader.skip(16);
        width_ = reader.u32();
        height_ = reader.u32();
        reader.seek(kSignature.size());
        accept();
    }
    for (;;) {
        if (!inBody_) {
            if (reader.left() < 8) break;
            chunkAt_ = position() + reader.position();
            if (!begin(reader)) {
                advance(reader.position() - 8);
                breakOff("no chunk follows");
                return;
            }
        }
        const auto body = reader.take(std::min<std::uint64_t>(left_, reader.left()));
        sum_ = crc32(sum_, body.data(), static_cast<uInt>(body.size()));
        left_ -= body.size();
        if (left_ > 0 || reader.left() < 4) break;
        inBody_ = false;
        if (reader.u32() != sum_) damage("a chunk does not agree with its checksum", chunkAt_);
        if (type_ == 0x49454e44) {  // IEND
            advance(reader.position());
            close();
            return;
        }
    }
    advance(reader.position());
    if (last) breakOff("the card ends before the file does");
}

void PngWalk::describe(Measured& into) {
    into.format = "png";
    into.kind = Kind::Photo;
    into.description.width = width_;
    into.description.height = height_;
    into.description.codec = "PNG";
}

bool looksLikePng(Bytes head) {
    return startsWith(head, kSignature) && startsWith(slice(head, 12, 4), "IHDR") && head[11] == 13;
}

}  // namespace

const Format& pngFormat() {
    static const PlainFormat format("png", {{"png", Kind::Photo, "png"}}, looksLikePng, makeMeasure<PngWalk>);
    return format;
}

}  // namespace dreskel
