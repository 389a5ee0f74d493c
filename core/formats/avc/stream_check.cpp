#include "formats/avc/stream_check.h"

#include "formats/clip/nal_bits.h"

namespace dreskel::avc {
namespace {

constexpr std::size_t kHeader = 1;

}  // namespace

StreamCheck::StreamCheck(Bytes settings) {
    ByteReader reader(settings);
    reader.skip(5);
    for (const unsigned mask : {0x1fU, 0xffU}) {
        const unsigned count = reader.u8() & mask;
        for (unsigned i = 0; i < count && reader.ok(); ++i) sets_.learn(reader.take(reader.u16()));
    }
}

std::optional<PictureFault> StreamCheck::unit(Bytes unit) {
    if (unit.size() <= kHeader) return std::nullopt;
    const unsigned type = unit[0] & 31U;
    sets_.learn(unit);
    if (type != 1 && type != 5) return std::nullopt;
    // first_mb_in_slice is zero: the first of a picture.
    const bool first = (unit[kHeader] & 0x80) != 0;
    std::optional<PictureFault> before;
    if (first) {
        before = endPicture();
    } else if (!picture_) {
        return std::nullopt;
    }
    auto body = unescaped(unit, kHeader);
    while (!body.empty() && body.back() == 0) body.pop_back();
    const auto head = readSliceHead(unit[0], body, sets_);
    if (head && head->redundant) return before;
    if (!head) {
        const bool known = picture_ != nullptr;
        picture_.reset();
        return known ? std::optional(PictureFault{kHeader, "a slice's head is damaged"}) : before;
    }
    if (first) {
        const auto set = sets_.picture(head->pictureSet);
        picture_ = std::make_unique<SliceData>(sets_.sequence(set->sequence), set, head->field);
    }
    auto fault = picture_->slice(*head, body);
    if (fault) {
        fault->byte = escapedPlace(unit, kHeader, fault->byte);
        picture_.reset();
    }
    return before ? before : fault;
}

std::optional<PictureFault> StreamCheck::endPicture() {
    if (!picture_) return std::nullopt;
    const bool complete = picture_->complete();
    picture_.reset();
    followed();
    if (complete) return std::nullopt;
    return PictureFault{0, "a part of the picture is missing"};
}

}  // namespace dreskel::avc
