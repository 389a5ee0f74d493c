// Ogg (RFC 3533): pages with a checksum and a number each. Vorbis, Opus (RFC 7845) and FLAC in it.
#include <array>
#include <map>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kLargestPage = 27 + 255 + 255 * 255;
constexpr std::size_t kOggPortion = 2 * (kLargestPage + 1);

// CRC-32 with the polynomial 04C11DB7, from the top bit, nothing inverted (RFC 3533, section 6).
std::uint32_t checksum(Bytes page) {
    static const auto table = [] {
        std::array<std::uint32_t, 256> made{};
        for (std::uint32_t i = 0; i < 256; ++i) {
            auto sum = i << 24;
            for (int bit = 0; bit < 8; ++bit) sum = sum << 1 ^ ((sum & 0x80000000U) != 0 ? 0x04c11db7U : 0U);
            made[i] = sum;
        }
        return made;
    }();
    std::uint32_t sum = 0;
    for (std::size_t at = 0; at < page.size(); ++at) {
        const std::uint8_t byte = at >= 22 && at < 26 ? 0 : page[at];
        sum = sum << 8 ^ table[sum >> 24 ^ byte];
    }
    return sum;
}

class OggWalk : public Walk {
  public:
    OggWalk() : Walk(kOggPortion) {}

  private:
    bool takesAny() const override { return true; }
    void visit(Bytes bytes, bool last) override;
    void describe(Measured& into) override;
    // The length of the page at the front; 0 when it is not all there, nothing when there is none.
    std::optional<std::uint64_t> page(Bytes rest, std::uint64_t at);
    void beginStream(Bytes body);

    std::map<std::uint32_t, std::uint32_t> streams_;  // by serial number: the next page's number
    std::size_t open_ = 0;                            // streams that have not ended
    bool begun_ = false;                              // past the pages that begin streams
    std::string codec_;
    std::uint32_t rate_ = 0;
    std::uint64_t skip_ = 0, samples_ = 0;
};

void OggWalk::beginStream(Bytes body) {
    ByteReader reader(body, Endian::Little);
    if (startsWith(body, "\x01vorbis")) {
        codec_ = "Vorbis";
        reader.skip(12);
        rate_ = reader.u32();
    } else if (startsWith(body, "OpusHead")) {
        codec_ = "Opus";
        reader.skip(10);
        skip_ = reader.u16();
        rate_ = 48000;
    } else if (startsWith(body,
                          "\x7f"
                          "FLAC")) {
        codec_ = "FLAC";
        const auto packed = slice(body, 27, 3);
        if (packed.size() == 3) rate_ = ByteReader(packed).u24() >> 4;
    } else if (codec_.empty()) {
        codec_ = startsWith(body, "Speex") ? "Speex" : startsWith(body, "\x80theora") ? "Theora" : "Ogg";
    }
}

std::optional<std::uint64_t> OggWalk::page(Bytes rest, std::uint64_t at) {
    if (rest.size() < 27) return 0;
    ByteReader reader(rest, Endian::Little);
    if (!startsWith(reader.take(4), "OggS") || reader.u8() != 0) return std::nullopt;
    const auto flags = reader.u8();
    const auto granule = reader.u64();
    const auto serial = reader.u32();
    const auto number = reader.u32();
    const auto sum = reader.u32();
    const auto segments = reader.u8();
    std::uint64_t length = 27U + segments;
    if (rest.size() < length) return 0;
    for (const auto segment : rest.subspan(27, segments)) length += segment;
    if (rest.size() < length) return 0;
    const bool first = (flags & 2U) != 0;
    if (first && begun_) return std::nullopt;  // the next recording
    if (!first && streams_.count(serial) == 0) return std::nullopt;
    const auto whole = rest.first(static_cast<std::size_t>(length));
    if (checksum(whole) != sum) damage("a page does not agree with its checksum", at);
    if (first) {
        beginStream(whole.subspan(27U + segments));
        ++open_;
    } else {
        begun_ = true;
        if (number != streams_[serial]) damage("pages are missing", at);
    }
    streams_[serial] = number + 1;
    if ((flags & 4U) != 0 && open_ > 0) --open_;
    if (granule != ~std::uint64_t{0}) samples_ = granule;
    return length;
}

void OggWalk::visit(Bytes bytes, bool last) {
    std::uint64_t at = 0;
    while (at < bytes.size()) {
        const auto length = page(bytes.subspan(static_cast<std::size_t>(at)), position() + at);
        if (!length) {
            advance(at);
            breakOff("no page follows");
            return;
        }
        if (*length == 0) break;
        at += *length;
        if (begun_) accept();
        if (begun_ && open_ == 0) {
            advance(at);
            return close();
        }
    }
    advance(at);
    if (last) breakOff("the card ends before the file does");
}

void OggWalk::describe(Measured& into) {
    const bool video = codec_ == "Theora";
    into.format = video ? "ogv" : codec_ == "Opus" ? "opus" : "ogg";
    into.kind = video ? Kind::Video : Kind::Audio;
    into.description.codec = codec_;
    if (rate_ > 0 && samples_ > skip_)
        into.description.duration = static_cast<double>(samples_ - skip_) / rate_;
    into.mediaData.push_back({0, into.length});
}

bool looksLikeOgg(Bytes head) {
    return startsWith(head, "OggS") && head.size() > 5 && head[4] == 0 && (head[5] & 2U) != 0;
}

}  // namespace

const Format& oggFormat() {
    static const PlainFormat format("ogg",
                                    {{"ogg", Kind::Audio, "ogg", {"oga", "spx"}},
                                     {"opus", Kind::Audio, "opus"},
                                     {"ogv", Kind::Video, "ogv"}},
                                    looksLikeOgg, makeMeasure<OggWalk>);
    return format;
}

}  // namespace dreskel
