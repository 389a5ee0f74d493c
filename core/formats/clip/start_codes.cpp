#include "formats/clip/start_codes.h"

#include <cstring>

namespace dreskel {
namespace {

// Bytes: where it breaks off, the parser may read ahead.
constexpr std::size_t kReadAhead = 64;
constexpr std::size_t kLongestSets = 4096;
constexpr std::size_t kRoom = 1 << 20;  // bytes, in steps of which a picture is thought to be long

}  // namespace

std::size_t startCodeAt(Bytes bytes) {
    std::size_t zeros = 0;
    while (zeros < bytes.size() && zeros <= kMostZerosBetweenUnits && bytes[zeros] == 0) ++zeros;
    return zeros >= 2 && zeros < bytes.size() && bytes[zeros] == 1 ? zeros + 1 : 0;
}

std::optional<std::size_t> unitEnd(Bytes bytes) {
    for (std::size_t at = 0; at + 3 <= bytes.size();) {
        const auto* zero =
            static_cast<const std::uint8_t*>(std::memchr(bytes.data() + at, 0, bytes.size() - 2 - at));
        if (zero == nullptr) return std::nullopt;
        at = static_cast<std::size_t>(zero - bytes.data());
        if (bytes[at + 1] == 0 && bytes[at + 2] < 3) return at;
        ++at;
    }
    return std::nullopt;
}

std::optional<std::vector<std::uint8_t>> setsIn(PictureCoding coding, Bytes picture) {
    bool some = false;
    for (std::size_t at = 0; at + 4 < picture.size() && at < kLongestSets; ++at) {
        if (picture[at] != 0 || picture[at + 1] != 0 || picture[at + 2] != 1) continue;
        const auto unit = slice(picture, at + 3, picture.size());
        if (unitKind(coding, unit) == UnitKind::Slice) {
            if (!some || at == 0) return std::nullopt;
            return std::vector<std::uint8_t>(picture.begin(),
                                             picture.begin() + static_cast<std::ptrdiff_t>(at));
        }
        const unsigned type = coding == PictureCoding::Avc ? unit[0] & 31U : unit[0] >> 1 & 63U;
        some = some || type == (coding == PictureCoding::Avc ? 7U : 33U);
    }
    return std::nullopt;
}

void StartCodedTrail::setLength(std::size_t at, std::size_t length) {
    for (const unsigned shift : {24U, 16U, 8U, 0U})
        sample_[at++] = static_cast<std::uint8_t>(length >> shift);
}

std::size_t StartCodedTrail::addUnits(Bytes coded) {
    auto begins = sample_.size();
    for (std::size_t at = 0; const auto unit = nextUnit(coded, at);) {
        if (unit->empty()) continue;
        begins = sample_.size();
        sample_.insert(sample_.end(), kLengthSize, 0);
        sample_.insert(sample_.end(), unit->begin(), unit->end());
        setLength(begins, unit->size());
    }
    return begins;
}

std::optional<PictureFault> StartCodedTrail::complete(Bytes sets, Bytes picture) {
    sample_.clear();
    addUnits(sets);
    const auto ahead = sample_.size();
    addUnits(picture);
    auto fault = trail_->follow(sample_).fault;
    if (fault) fault->byte -= std::min(fault->byte, ahead);
    return fault;
}

std::optional<PictureFault> StartCodedTrail::soFar(Bytes sets, Bytes picture) {
    sample_.clear();
    addUnits(sets);
    const auto ahead = sample_.size();
    const auto last = addUnits(picture);
    const auto known = sample_.size();
    if (known == ahead) return std::nullopt;
    // As if the last unit were always as long: its length is a part of what was followed before. Zeros would
    // have to be looked at for what prevents start codes.
    sample_.resize((known / kRoom + 1) * kRoom, 0xff);
    setLength(last, sample_.size() - last - kLengthSize);
    auto fault = trail_->follow(sample_).fault;
    if (!fault || fault->byte + kReadAhead >= known) return std::nullopt;
    fault->byte -= std::min(fault->byte, ahead);
    return fault;
}

}  // namespace dreskel
