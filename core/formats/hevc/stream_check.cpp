#include "formats/hevc/stream_check.h"

#include "formats/clip/nal_bits.h"

namespace dreskel::hevc {
namespace {

constexpr std::size_t kHeader = 2;
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
    if ((unit[kHeader] & 0x80) != 0) {
        // The first of a picture.
        if (auto fault = endPicture()) return fault;
        head_.reset();
    } else if (!picture_) {
        return std::nullopt;
    }
    const auto opening = unescaped(unit, kHeader, kLongestHead);
    const auto head = readSliceHead(type, opening, sets_, head_);
    if (!head) {
        // What is not known cannot be judged; what was known a slice ago can.
        const bool known = picture_ != nullptr;
        picture_.reset();
        return known ? std::optional(PictureFault{kHeader, "a slice's head is damaged"}) : std::nullopt;
    }
    const auto set = sets_.picture(head->pictureSet);
    if (head->first) picture_ = std::make_unique<SliceData>(sets_.sequence(set->sequence), set);
    if (!picture_) return std::nullopt;
    head_ = head;
    auto body = unescaped(unit, kHeader);
    while (!body.empty() && body.back() == 0) body.pop_back();  // cabac_zero_words
    auto fault = picture_->segment(*head, body);
    if (fault) {
        fault->byte = escapedPlace(unit, kHeader, fault->byte);
        picture_.reset();
    }
    return fault;
}

std::optional<PictureFault> StreamCheck::endPicture() {
    if (!picture_) return std::nullopt;
    const bool complete = picture_->complete();
    picture_.reset();
    followed();
    if (complete) return std::nullopt;
    return PictureFault{0, "a part of the picture is missing"};
}

}  // namespace dreskel::hevc
