// MPEG program streams (ISO/IEC 13818-1, 2.5.3; ISO/IEC 11172-1): packs with a clock each, of packets that
// state their lengths.
#include <algorithm>

#include "formats/clip/picture_clock.h"
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kProgramPortion = 256 * 1024;
constexpr std::size_t kLargestPacket = 6 + 65535;
constexpr std::uint64_t kLeastPacks = 10,
                        kLeastProgramPackets = 48;  // either is enough: some write a pack a second
constexpr std::uint64_t kProgramSector = 512;
constexpr std::size_t kFilling = 8;  // zeros at the end of a packet
constexpr double kClock = 90000;     // ticks a second
constexpr double kBackwards = 0.5;   // seconds that the clock goes back where another recording begins
constexpr double kLongestProgramSilence = 0.7;  // seconds between packs (2.7.2)
constexpr std::uint8_t kPack = 0xba, kEnd = 0xb9, kSystem = 0xbb;

bool startsWithCode(Bytes bytes) {
    return bytes.size() >= 4 && bytes[0] == 0 && bytes[1] == 0 && bytes[2] == 1;
}

struct Pack {
    int version = 2;  // MPEG-1 or -2
    std::size_t length = 0;
    double clock = 0;  // seconds
};

// Nothing when `bytes` does not begin with a pack header.
std::optional<Pack> readPack(Bytes bytes) {
    if (!startsWithCode(bytes) || bytes[3] != kPack || bytes.size() < 14) return std::nullopt;
    const auto at = [&](std::size_t i) { return std::uint64_t{bytes[i]}; };
    if ((bytes[4] & 0xc4U) == 0x44 && (bytes[6] & 4U) != 0 && (bytes[8] & 4U) != 0) {
        const auto ticks = (at(4) >> 3 & 7) << 30 | (at(4) & 3) << 28 | at(5) << 20 | (at(6) >> 3) << 15 |
                           (at(6) & 3) << 13 | at(7) << 5 | at(8) >> 3;
        return Pack{2, 14U + (bytes[13] & 7U), static_cast<double>(ticks) / kClock};
    }
    if ((bytes[4] & 0xf1U) == 0x21 && (bytes[6] & 1U) != 0 && (bytes[8] & 1U) != 0) {
        const auto ticks =
            (at(4) >> 1 & 7) << 30 | at(5) << 22 | (at(6) >> 1) << 15 | at(7) << 7 | at(8) >> 1;
        return Pack{1, 12, static_cast<double>(ticks) / kClock};
    }
    return std::nullopt;
}

class ProgramWalk : public Walk {
  public:
    ProgramWalk() : Walk(kProgramPortion) {}

  private:
    bool takesAny() const override { return true; }
    std::uint64_t misfits() const override { return clockJumps_ + pictureClock_.jumps(); }
    bool hasClock() const override { return true; }
    double longestStep() const override { return std::max(longestStep_, pictureClock_.misfit()); }
    void forgetSteps() override {
        longestStep_ = 0;
        pictureClock_.forget();
    }
    std::optional<double> firstTime() const override { return first_; }
    void visit(Bytes bytes, bool last) override {
        std::size_t at = 0;
        while (at + 6 <= bytes.size()) {
            const auto rest = bytes.subspan(at);
            if (!startsWithCode(rest)) {
                advance(at);
                // The last picture tells when it is not all there, but not when zeros stand behind it.
                return filledUp_ ? closeRun(1, rest) : close();
            }
            std::size_t length = 0;
            if (rest[3] == kPack) {
                if (rest.size() < 14) break;
                const auto pack = readPack(rest);
                const bool another = pack && packs_ > 0 && (position() + at) % kProgramSector == 0 &&
                                     pack->clock + kBackwards < clock_;
                if (!pack || another || (packs_ > 0 && pack->version != version_)) {
                    advance(at);
                    return close();
                }
                if (packs_ > 0 && (pack->clock < clock_ || pack->clock > clock_ + kLongestProgramSilence))
                    ++clockJumps_;
                version_ = pack->version;
                if (packs_ > 0) longestStep_ = std::max(longestStep_, pack->clock - clock_);
                clock_ = pack->clock;
                if (!first_) first_ = clock_;
                if (++packs_ == kLeastPacks) accept();
                length = pack->length;
            } else if (rest[3] == kEnd) {
                length = 4;
            } else if (rest[3] > kEnd) {
                length = std::size_t{6} + (static_cast<std::size_t>(rest[4]) << 8 | rest[5]);
                if (length > rest.size()) break;
                // Sound and pictures: their packets' heads tell the two versions apart (2.4.3.7).
                const bool media = rest[3] >= 0xc0 && rest[3] <= 0xef && length > 6 && packs_ > 0;
                if (media && version_ == 2 && (rest[6] & 0xc0U) != 0x80) {
                    advance(at);
                    return close();
                }
                if ((rest[3] & 0xf0U) == 0xe0) {
                    video_ = true;
                    pictureClock_.take(rest.first(length));
                    const auto end = rest.first(length).last(std::min<std::size_t>(length, kFilling));
                    filledUp_ = std::all_of(end.begin(), end.end(), [](auto byte) { return byte == 0; });
                }
                if (packs_ > 0 && ++packets_ == kLeastProgramPackets) accept();
            } else {
                advance(at);
                return close();
            }
            at += length;
            if (rest[3] == kEnd) {
                advance(at);
                // Behind the end code a recording may go on with another pack.
                const auto next = bytes.subspan(at);
                if (next.size() >= 14 && !readPack(next)) return close();
                if (next.size() < 14) return last ? close() : void();
                return;
            }
        }
        advance(at);
        if (last) close();
        if (!last && at + kLargestPacket < bytes.size()) close();
    }
    void describe(Measured& into) override {
        into.format = "mpg";
        into.kind = video_ ? Kind::Video : Kind::Audio;
        into.mediaData.push_back({0, into.length});
    }

    bool video_ = false, filledUp_ = false;
    int version_ = 0;
    std::uint64_t packs_ = 0, packets_ = 0, clockJumps_ = 0;
    double clock_ = 0, longestStep_ = 0;
    std::optional<double> first_;
    PictureClock pictureClock_;
};

bool looksLikeProgram(Bytes head) {
    const auto pack = readPack(head);
    if (!pack) return false;
    const auto next = slice(head, pack->length, 4);
    // A recording begins with what it says of its streams.
    return startsWithCode(next) && next[3] == kSystem;
}

// A pack or a packet, and another start code where it ends.
std::optional<std::size_t> firstProgramRecord(Bytes bytes) {
    for (std::size_t at = 0; at + 18 < bytes.size(); ++at) {
        const auto rest = bytes.subspan(at);
        if (!startsWithCode(rest) || rest[3] < kPack) continue;
        const auto pack = readPack(rest);
        const auto length = pack ? pack->length : 6 + (std::size_t{rest[4]} << 8 | rest[5]);
        const auto next = slice(rest, length, 4);
        if ((pack || rest[3] > kSystem) && startsWithCode(next) && next[3] >= kEnd) return at;
    }
    return std::nullopt;
}

}  // namespace

const Format& programFormat() {
    static const PlainFormat format("program", {{"mpg", Kind::Video, "mpg", {"mpeg", "vob", "mod"}}},
                                    looksLikeProgram, makeMeasure<ProgramWalk>, true, firstProgramRecord);
    return format;
}

}  // namespace dreskel
