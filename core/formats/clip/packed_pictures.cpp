#include "formats/clip/packed_pictures.h"

#include "formats/clip/picture_check.h"

namespace dreskel {
namespace {

constexpr std::size_t kLongestPicture = 8 << 20, kLongestSets = 4096;

// Behind the head of a packet of the packetised stream.
Bytes codedIn(Bytes payload) {
    ByteReader reader(payload);
    if (reader.u24() != 1) return {};
    reader.skip(5);
    reader.skip(reader.u8());
    return reader.ok() ? reader.take(reader.left()) : Bytes();
}

}  // namespace

std::optional<bool> PackedPictures::take(bool begins, Bytes payload, bool closely) {
    std::optional<bool> right;
    if (begins) {
        // One by one, as they mostly are: the first that could be followed shows whether they are.
        if (known_ && beginsPicture() && oneByOne_.value_or(true) && (closely || !oneByOne_)) {
            const auto found = look();
            if (closely) right = found;
            if (!oneByOne_) oneByOne_ = found;
        }
        if (known_) learn();
        payload = codedIn(payload);
        picture_.clear();
        known_ = true;
    }
    if (picture_.size() + payload.size() > kLongestPicture) known_ = false;
    if (known_) picture_.insert(picture_.end(), payload.begin(), payload.end());
    return right;
}

// Each stands behind a delimiter (2.14.1 and 2.17.1).
bool PackedPictures::beginsPicture() const {
    ByteReader reader(picture_);
    auto mark = reader.u24();
    if (mark == 0) mark = reader.u8();
    const unsigned unit = reader.u8();
    return reader.ok() && mark == 1 &&
           (coding_ == PictureCoding::Avc ? (unit & 31) == 9 : (unit >> 1 & 63) == 35);
}

std::optional<bool> PackedPictures::look() {
    const auto check = pictureCheck(coding_, {});
    check->startCoded(sets_);
    if (check->startCoded(picture_)) return false;
    return check->pictures() > 0 ? std::optional(true) : std::nullopt;
}

// What stands in front of the first slice of a picture with which decoding can begin.
void PackedPictures::learn() {
    std::vector<std::uint8_t> sets;
    bool some = false;
    for (std::size_t at = 0; at + 4 < picture_.size() && at < kLongestSets; ++at) {
        if (picture_[at] != 0 || picture_[at + 1] != 0 || picture_[at + 2] != 1) continue;
        const auto unit = slice(picture_, at + 3, picture_.size());
        if (unitKind(coding_, unit) == UnitKind::Slice) {
            sets.assign(picture_.begin(), picture_.begin() + static_cast<std::ptrdiff_t>(at));
            break;
        }
        const unsigned type = coding_ == PictureCoding::Avc ? unit[0] & 31U : unit[0] >> 1 & 63U;
        some = some || type == (coding_ == PictureCoding::Avc ? 7U : 33U);
    }
    if (some && !sets.empty()) sets_ = std::move(sets);
}

}  // namespace dreskel
