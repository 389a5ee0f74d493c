#include "formats/avc/stream_check.h"

#include "formats/clip/nal_bits.h"

namespace dreskel::avc {
namespace {

constexpr std::size_t kHeader = 1;
constexpr int kMostChanges = 1000;  // of a stream's sets; then it is followed no further

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
    if (first) before = endPicture();
    if (!first && !inPicture_) return std::nullopt;
    auto body = unescaped(unit, kHeader);
    while (!body.empty() && body.back() == 0) body.pop_back();
    const auto head = readSliceHead(unit[0], body, sets_);
    if (head && head->redundant) return before;
    // What is not known cannot be judged; what was known a slice ago can.
    if (!head) {
        const bool known = inPicture_;
        inPicture_ = false;
        return known ? std::optional(PictureFault{kHeader, "a slice's head is damaged"}) : before;
    }
    if (first) {
        auto picture = sets_.picture(head->pictureSet);
        auto sequence = sets_.sequence(picture->sequence);
        if (!data_ || !data_->isFor(sequence.get(), picture.get(), head->field)) {
            if (++changes_ > kMostChanges) return before;
            data_ = std::make_unique<SliceData>(std::move(sequence), std::move(picture), head->field);
        }
        data_->begin();
        inPicture_ = true;
    }
    auto fault = data_->slice(*head, body);
    if (fault) {
        fault->byte = escapedPlace(unit, kHeader, fault->byte);
        inPicture_ = false;
    }
    return before ? before : fault;
}

std::optional<PictureFault> StreamCheck::endPicture() {
    if (!inPicture_) return std::nullopt;
    inPicture_ = false;
    followed();
    if (data_->complete()) return std::nullopt;
    return PictureFault{0, "a part of the picture is missing"};
}

}  // namespace dreskel::avc
