#include "formats/clip/packed_pictures.h"

#include <utility>

#include "formats/clip/picture_check.h"

namespace dreskel {
namespace {

constexpr std::size_t kLongestPicture = 8 << 20, kLongestSets = 4096;
// Bytes: where it breaks off, and a packet that may be another's.
constexpr std::size_t kUncertainEnd = 512;
constexpr std::size_t kRoom = 1 << 20;  // bytes, in steps of which a picture is thought to be long

void setLength(std::vector<std::uint8_t>& sample, std::size_t at, std::size_t length) {
    for (const unsigned shift : {24U, 16U, 8U, 0U}) sample[at++] = static_cast<std::uint8_t>(length >> shift);
}

// Units behind start codes, each behind its length; says where the last of them begins.
std::size_t addUnits(Bytes coded, std::vector<std::uint8_t>& sample) {
    auto begins = sample.size();
    for (std::size_t at = 0; const auto unit = nextUnit(coded, at);) {
        if (unit->empty()) continue;
        begins = sample.size();
        sample.insert(sample.end(), PackedPictures::kLengthSize, 0);
        sample.insert(sample.end(), unit->begin(), unit->end());
        setLength(sample, begins, unit->size());
    }
    return begins;
}

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
        if (known_) learn();
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
    std::vector<std::uint8_t> sample;
    addUnits(sets_, sample);
    const auto last = addUnits(picture_.all(), sample);
    const auto known = sample.size();
    // As if the last unit were always as long: its length is a part of what was followed before. Zeros would
    // have to be looked at for what prevents start codes.
    sample.resize((known / kRoom + 1) * kRoom, 0xff);
    setLength(sample, last, sample.size() - last - kLengthSize);
    const auto fault = trail_->follow(sample).fault;
    return !fault || fault->byte + kUncertainEnd >= known;
}

std::optional<bool> PackedPictures::look() const {
    if (holdsSoFar() == false) return false;
    const auto check = pictureCheck(coding_, {});
    check->startCoded(sets_);
    if (check->startCoded(picture_.all())) return false;
    return check->pictures() > 0 ? std::optional(true) : std::nullopt;
}

// What stands in front of the first slice of a picture with which decoding can begin.
void PackedPictures::learn() {
    const auto picture = picture_.beginning();
    std::vector<std::uint8_t> sets;
    bool some = false;
    for (std::size_t at = 0; at + 4 < picture.size() && at < kLongestSets; ++at) {
        if (picture[at] != 0 || picture[at + 1] != 0 || picture[at + 2] != 1) continue;
        const auto unit = slice(picture, at + 3, picture.size());
        if (unitKind(coding_, unit) == UnitKind::Slice) {
            sets.assign(picture.begin(), picture.begin() + static_cast<std::ptrdiff_t>(at));
            break;
        }
        const unsigned type = coding_ == PictureCoding::Avc ? unit[0] & 31U : unit[0] >> 1 & 63U;
        some = some || type == (coding_ == PictureCoding::Avc ? 7U : 33U);
    }
    if (some && !sets.empty()) sets_ = std::move(sets);
}

}  // namespace dreskel
