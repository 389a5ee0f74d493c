#include "formats/hevc/stream_check.h"

#include "formats/clip/nal_bits.h"

namespace dreskel::hevc {
namespace {

constexpr std::size_t kHeader = 2;
constexpr int kMostChanges = 1000;          // of a stream's sets; then it is followed no further
constexpr std::size_t kLongestHead = 4096;  // bytes of a slice's head

bool isSlice(unsigned type) {
    return type <= 9 || (type >= 16 && type <= 21);
}

}  // namespace

StreamCheck::StreamCheck(Bytes settings) {
    ByteReader reader(settings);
    reader.skip(22);
    const auto arrays = reader.u8();
    for (unsigned i = 0; i < arrays && reader.ok(); ++i) {
        reader.skip(1);
        const auto units = reader.u16();
        for (unsigned j = 0; j < units && reader.ok(); ++j) sets_.learn(reader.take(reader.u16()));
    }
}

std::optional<PictureFault> StreamCheck::unit(Bytes unit) {
    if (unit.size() <= kHeader) return std::nullopt;
    const unsigned type = unit[0] >> 1;
    const bool baseLayer = (unit[0] & 1) == 0 && unit[1] >> 3 == 0;
    if (!baseLayer) return std::nullopt;
    sets_.learn(unit);
    if (!isSlice(type)) return std::nullopt;
    // first_slice_segment_in_pic_flag
    const bool first = (unit[kHeader] & 0x80) != 0;
    std::optional<PictureFault> before;
    if (first) {
        before = endPicture();
        head_.reset();
    } else if (!inPicture_) {
        return std::nullopt;
    }
    const auto opening = unescaped(unit, kHeader, kLongestHead);
    const auto head = readSliceHead(type, opening, sets_, head_);
    // What is not known cannot be judged; what was known a slice ago can.
    if (!head) {
        const bool known = inPicture_;
        inPicture_ = false;
        return known ? std::optional(PictureFault{kHeader, "a slice's head is damaged"}) : before;
    }
    if (first) {
        auto picture = sets_.picture(head->pictureSet);
        auto sequence = sets_.sequence(picture->sequence);
        if (!data_ || !data_->isFor(sequence.get(), picture.get())) {
            if (++changes_ > kMostChanges) return before;
            data_ = std::make_unique<SliceData>(std::move(sequence), std::move(picture));
        }
        data_->begin();
        inPicture_ = true;
    }
    head_ = head;
    auto body = unescaped(unit, kHeader);
    while (!body.empty() && body.back() == 0) body.pop_back();  // cabac_zero_words
    auto fault = data_->segment(*head, body);
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

}  // namespace dreskel::hevc
