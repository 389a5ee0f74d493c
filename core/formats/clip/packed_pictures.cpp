#include "formats/clip/packed_pictures.h"

#include <utility>

#include "formats/clip/picture_check.h"

namespace dreskel {
namespace {

constexpr std::size_t kLongestPicture = 8 << 20;
// Bytes: where it breaks off, and a packet that may be another's.
constexpr std::size_t kUncertainEnd = 512;

// Behind the head of a packet of the packetised stream.
Bytes codedIn(Bytes payload) {
    ByteReader reader(payload);
    if (reader.u24() != 1) return {};
    reader.skip(5);
    reader.skip(reader.u8());
    return reader.ok() ? reader.take(reader.left()) : Bytes();
}

}  // namespace

std::optional<bool> PackedPictures::take(bool begins, Bytes payload) {
    std::optional<bool> right;
    if (begins) {
        // One by one, as they mostly are: the first that could be followed shows whether they are.
        const bool asked = std::exchange(lookAtThisOne_, false);
        if (known_ && beginsPicture() && oneByOne_.value_or(true) && (asked || !oneByOne_)) {
            const auto found = look();
            if (asked) right = found;
            if (!oneByOne_) oneByOne_ = found;
        }
        if (auto sets = known_ ? setsIn(coding_, picture_.beginning()) : std::nullopt)
            sets_ = std::move(*sets);
        payload = codedIn(payload);
        picture_.clear();
        known_ = true;
    }
    if (picture_.size() + payload.size() > kLongestPicture) known_ = false;
    if (known_) picture_.append(payload);
    return right;
}

// Each stands behind a delimiter (2.14.1 and 2.17.1).
bool PackedPictures::beginsPicture() const {
    ByteReader reader(picture_.beginning());
    auto mark = reader.u24();
    if (mark == 0) mark = reader.u8();
    const unsigned unit = reader.u8();
    return reader.ok() && mark == 1 &&
           (coding_ == PictureCoding::Avc ? (unit & 31) == 9 : (unit >> 1 & 63) == 35);
}

std::optional<bool> PackedPictures::holdsSoFar() const {
    if (!known_ || !oneByOne_.value_or(true) || !beginsPicture()) return std::nullopt;
    const auto fault = trail_->soFar(sets_, picture_.all());
    return !fault || fault->byte + kUncertainEnd >= picture_.size();
}

std::optional<bool> PackedPictures::look() const {
    if (holdsSoFar() == false) return false;
    const auto check = pictureCheck(coding_, {});
    check->startCoded(sets_);
    if (check->startCoded(picture_.all())) return false;
    return check->pictures() > 0 ? std::optional(true) : std::nullopt;
}

}  // namespace dreskel
