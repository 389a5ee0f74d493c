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

std::optional<PictureFault> PictureCheck::startCoded(Bytes sample) {
    const auto codeFrom = [&](std::size_t at) {
        while (at + 3 <= sample.size() && !(sample[at] == 0 && sample[at + 1] == 0 && sample[at + 2] == 1))
            ++at;
        return at + 3 <= sample.size() ? at : sample.size();
    };
    for (auto code = codeFrom(0); code < sample.size();) {
        const auto from = code + 3;
        code = codeFrom(from);
        auto end = code;
        while (end > from && sample[end - 1] == 0) --end;
        if (auto fault = unit(sample.subspan(from, end - from))) {
            fault->byte += from;
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
