// Bare H.264 and HEVC streams, as recorders leave them: NAL units behind start codes (ITU-T H.264 and H.265,
// Annex B). Nothing states the end: it is where what follows cannot be a NAL unit any more.
#include "formats/clip/elementary.h"

#include <algorithm>

#include "formats/clip/start_codes.h"
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kElementaryPortion = 1 << 20;
constexpr std::size_t kLargestUnit = 8 << 20;
constexpr std::uint64_t kLeastPictures = 3;
constexpr std::uint64_t kElementarySector = 512;
constexpr std::size_t kMostToTell = 1024;  // that nothing follows, and how it is blank

enum class Coding { None, Avc, Hevc };
enum class Unit { Impossible, Parameters, Picture, Other };

Unit avcUnit(std::uint8_t head) {
    const unsigned type = head & 31U;
    const bool reference = (head & 0x60U) != 0;
    if ((head & 0x80U) != 0 || type == 0 || type > 20) return Unit::Impossible;
    if (type == 7 || type == 8) return reference ? Unit::Parameters : Unit::Impossible;
    if (type == 5) return reference ? Unit::Picture : Unit::Impossible;
    if (type == 6 || (type >= 9 && type <= 12)) return reference ? Unit::Impossible : Unit::Other;
    return type <= 4 ? Unit::Picture : Unit::Other;
}

Unit hevcUnit(std::uint8_t head, std::uint8_t second) {
    const unsigned type = head >> 1;
    const unsigned layer = (head & 1U) << 5 | second >> 3;
    if ((head & 0x80U) != 0 || (second & 7U) == 0 || layer != 0) return Unit::Impossible;
    if (type <= 9 || (type >= 16 && type <= 21)) return Unit::Picture;
    if (type >= 32 && type <= 34) return Unit::Parameters;
    return type >= 35 && type <= 40 ? Unit::Other : Unit::Impossible;
}

Unit unitAt(Coding coding, Bytes unit) {
    if (unit.size() < 2) return Unit::Impossible;
    return coding == Coding::Avc ? avcUnit(unit[0]) : hevcUnit(unit[0], unit[1]);
}

Coding codingOf(Bytes head) {
    const auto code = startCodeAt(head.first(std::min<std::size_t>(head.size(), 5)));
    if (code == 0 || head.size() < code + 8) return Coding::None;
    const auto first = head.subspan(code);
    Coding coding = Coding::None;
    if ((first[0] & 0x9fU) == 7 || ((first[0] & 0x9fU) == 9 && (first[1] & 0x1fU) == 0x10))
        coding = Coding::Avc;
    if ((first[0] == 0x40 || first[0] == 0x46) && first[1] == 1) coding = Coding::Hevc;
    if (coding == Coding::None) return coding;
    // Both kinds of parameters must follow (three with HEVC), and nothing impossible before them.
    std::size_t parameters = 0;
    for (std::size_t at = code; at < head.size();) {
        const auto unit = head.subspan(at);
        const auto kind = unitAt(coding, unit);
        if (kind == Unit::Impossible || kind == Unit::Picture) return Coding::None;
        if (kind == Unit::Parameters && ++parameters == (coding == Coding::Avc ? 2U : 3U)) return coding;
        const auto end = unitEnd(unit);
        if (!end) return Coding::None;
        const auto next = startCodeAt(unit.subspan(*end));
        if (next == 0) return Coding::None;
        at += *end + next;
    }
    return Coding::None;
}

class ElementaryWalk : public Walk {
  public:
    ElementaryWalk() : Walk(kElementaryPortion) {}

  private:
    void visit(Bytes bytes, bool last) override {
        if (position() == 0) coding_ = codingOf(bytes.first(std::min(bytes.size(), Format::kHead)));
        std::size_t at = 0;
        for (;;) {
            const auto rest = bytes.subspan(at);
            const auto code = startCodeAt(rest);
            const bool possible = code > 0 && unitAt(coding_, rest.subspan(code)) != Unit::Impossible;
            if (!possible || begins(rest, code, position() + at)) {
                // Behind a portion's last whole unit there may be too little to tell.
                if (!last && at > 0 && rest.size() < kMostToTell) break;
                advance(at);
                return possible ? close() : closeRun(0, rest);
            }
            const auto unit = rest.subspan(code);
            auto end = unitEnd(unit);
            if (!end && last) end = unit.size();
            if (!end) break;
            if (unitAt(coding_, unit) == Unit::Picture && ++pictures_ == kLeastPictures) accept();
            at += code + *end;
            if (at == bytes.size()) break;
        }
        advance(at);
        if (last) return close();
        if (at > 0) return ask(kElementaryPortion);
        // One unit is longer than what was asked for.
        if (bytes.size() >= kLargestUnit) return close();
        ask(std::min(kLargestUnit, bytes.size() * 4));
    }
    // Whether another recording begins here: at a sector, with parameters that are not this one's.
    bool begins(Bytes rest, std::size_t code, std::uint64_t place) {
        const auto unit = rest.subspan(code);
        const bool first = coding_ == Coding::Avc ? (unit[0] & 31U) == 7 : unit[0] == 0x40;
        const auto end = first ? unitEnd(unit) : std::nullopt;
        if (!end) return false;
        const std::vector<std::uint8_t> parameters(unit.begin(),
                                                   unit.begin() + static_cast<std::ptrdiff_t>(*end));
        if (parameters_.empty()) parameters_ = parameters;
        return place % kElementarySector == 0 && parameters != parameters_;
    }
    void describe(Measured& into) override {
        into.format = coding_ == Coding::Avc ? "h264" : "hevc";
        into.kind = Kind::Video;
        into.description.codec = coding_ == Coding::Avc ? "H.264" : "HEVC";
        into.mediaData.push_back({0, into.length});
    }

    Coding coding_ = Coding::None;
    std::vector<std::uint8_t> parameters_;
    std::uint64_t pictures_ = 0;
};

}  // namespace

std::optional<PictureCoding> bareCodingOf(Bytes head) {
    const auto coding = codingOf(head.first(std::min(head.size(), Format::kHead)));
    if (coding == Coding::None) return std::nullopt;
    return coding == Coding::Avc ? PictureCoding::Avc : PictureCoding::Hevc;
}

const Format& elementaryFormat() {
    static const PlainFormat format(
        "elementary",
        {{"h264", Kind::Video, "h264", {"264", "avc"}}, {"hevc", Kind::Video, "hevc", {"265", "h265"}}},
        [](Bytes head) { return bareCodingOf(head).has_value(); }, makeMeasure<ElementaryWalk>, true);
    return format;
}

}  // namespace dreskel
