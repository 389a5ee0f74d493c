#include "formats/hevc/stream_check.h"

#include "formats/clip/nal_bits.h"

namespace dreskel::hevc {
namespace {

constexpr std::size_t kHeader = 2;
constexpr std::size_t kLongestHead = 4096;  // bytes of a slice's head

bool isSlice(unsigned type) {
    return type <= 9 || (type >= 16 && type <= 21);
}

// Where in the unit an unescaped byte behind its header stands.
std::size_t escaped(Bytes unit, std::size_t unescapedAt) {
    int zeros = 0;
    std::size_t passed = 0;
    for (std::size_t at = kHeader; at < unit.size(); ++at) {
        if (zeros >= 2 && unit[at] == 3) {
            zeros = 0;
            continue;
        }
        if (passed++ == unescapedAt) return at;
        zeros = unit[at] == 0 ? zeros + 1 : 0;
    }
    return unit.size();
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

std::optional<Fault> StreamCheck::unit(Bytes unit) {
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
        return known ? std::optional(Fault{kHeader, "a slice's head is damaged"}) : std::nullopt;
    }
    const auto set = sets_.picture(head->pictureSet);
    if (head->first) picture_ = std::make_unique<SliceData>(sets_.sequence(set->sequence), set);
    if (!picture_) return std::nullopt;
    head_ = head;
    auto body = unescaped(unit, kHeader);
    while (!body.empty() && body.back() == 0) body.pop_back();  // cabac_zero_words
    auto fault = picture_->segment(*head, body);
    if (fault) {
        fault->byte = escaped(unit, fault->byte);
        picture_.reset();
    }
    return fault;
}

std::optional<Fault> StreamCheck::endPicture() {
    if (!picture_) return std::nullopt;
    const bool complete = picture_->complete();
    picture_.reset();
    ++followed_;
    if (complete) return std::nullopt;
    return Fault{0, "a part of the picture is missing"};
}

std::optional<Fault> checkSample(StreamCheck& stream, Bytes sample, std::size_t lengthSize) {
    for (std::size_t at = 0; at < sample.size();) {
        ByteReader reader(sample.subspan(at));
        std::uint64_t length = 0;
        for (std::size_t i = 0; i < lengthSize; ++i) length = length << 8 | reader.u8();
        const auto unit = reader.take(length);
        if (!reader.ok() || unit.empty()) return Fault{at, "the units of a picture do not fill it"};
        if (auto fault = stream.unit(unit)) {
            fault->byte += at + lengthSize;
            return fault;
        }
        at += lengthSize + unit.size();
    }
    auto fault = stream.endPicture();
    if (fault) fault->byte = sample.size();
    return fault;
}

std::optional<Fault> checkStartCoded(StreamCheck& stream, Bytes sample) {
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
        if (auto fault = stream.unit(sample.subspan(from, end - from))) {
            fault->byte += from;
            return fault;
        }
    }
    auto fault = stream.endPicture();
    if (fault) fault->byte = sample.size();
    return fault;
}

}  // namespace dreskel::hevc
