#include "formats/clip/picture_check.h"

#include "formats/avc/stream_check.h"
#include "formats/hevc/stream_check.h"

namespace dreskel {

Bytes unitAt(Bytes sample, std::size_t at, std::size_t lengthSize) {
    ByteReader reader(sample.subspan(at));
    std::uint64_t length = 0;
    for (std::size_t i = 0; i < lengthSize; ++i) length = length << 8 | reader.u8();
    const auto unit = reader.take(length);
    return reader.ok() ? unit : Bytes();
}

std::optional<PictureFault> PictureCheck::sample(Bytes sample, std::size_t lengthSize) {
    for (std::size_t at = 0; at < sample.size();) {
        const auto next = unitAt(sample, at, lengthSize);
        if (next.empty()) return PictureFault{at, "the units of a picture do not fill it"};
        if (auto fault = unit(next)) {
            fault->byte += at + lengthSize;
            return fault;
        }
        at += lengthSize + next.size();
    }
    auto fault = endPicture();
    if (fault) fault->byte = sample.size();
    return fault;
}

std::optional<Bytes> nextUnit(Bytes coded, std::size_t& at) {
    const auto codeFrom = [&](std::size_t from) {
        while (from + 3 <= coded.size() &&
               !(coded[from] == 0 && coded[from + 1] == 0 && coded[from + 2] == 1))
            ++from;
        return from + 3 <= coded.size() ? from : coded.size();
    };
    const auto code = codeFrom(at);
    if (code == coded.size()) return std::nullopt;
    const auto from = code + 3;
    at = codeFrom(from);
    auto end = at;
    while (end > from && coded[end - 1] == 0) --end;
    return coded.subspan(from, end - from);
}

std::optional<PictureFault> PictureCheck::startCoded(Bytes sample) {
    for (std::size_t at = 0; const auto next = nextUnit(sample, at);) {
        if (auto fault = unit(*next)) {
            fault->byte += static_cast<std::size_t>(next->data() - sample.data());
            return fault;
        }
    }
    auto fault = endPicture();
    if (fault) fault->byte = sample.size();
    return fault;
}

std::unique_ptr<PictureCheck> pictureCheck(PictureCoding coding, Bytes settings) {
    if (coding == PictureCoding::Avc) return std::make_unique<avc::StreamCheck>(settings);
    return std::make_unique<hevc::StreamCheck>(settings);
}

}  // namespace dreskel
