// WebP (Google, "WebP Container Specification"): a RIFF of form WEBP. The coded pictures in it are followed
// to their last bit.
#include <algorithm>

#include "formats/exif.h"
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"
#include "formats/webp/coded_picture.h"

namespace dreskel {
namespace {

bool isChunk(Bytes name) {
    for (const auto* known : {"VP8 ", "VP8L", "VP8X", "ALPH", "ANIM", "ANMF", "ICCP", "EXIF", "XMP "}) {
        if (startsWith(name, known)) return true;
    }
    return false;
}

constexpr std::size_t kLooked = 64;
// Of all pictures of a file together: a photo of any camera, an animation of minutes.
constexpr std::uint64_t kMostPixels = 1U << 29;
constexpr std::uint64_t kLargestFacts = 1U << 20;
// Pictures whose coded data are larger are only decoded by the library.
constexpr std::uint64_t kLargestPicture = 64U << 20;

// Chunk by chunk; of an animation, into each frame, too.
class WebpWalk : public Walk {
  public:
    WebpWalk() : Walk(kLooked) {}

  private:
    void visit(Bytes bytes, bool last) override {
        if (position() == 0) {
            end_ = std::uint64_t{8} + ByteReader(slice(bytes, 4, 4), Endian::Little).u32();
            accept();
            advance(12);
            return;
        }
        if (position() >= end_) return close();
        ByteReader reader(bytes, Endian::Little);
        const auto name = reader.take(4);
        const std::uint64_t length = reader.u32();
        if (!reader.ok() || !isChunk(name) || position() + 8 + length > end_ + 1) {
            if (last) return breakOff("the card ends before the file does");
            return breakOff("no chunk follows");
        }
        if (startsWith(name, "ANMF")) {
            constexpr std::uint64_t kFrameHead = 16;
            ByteReader sizes(slice(bytes, 8 + 6, 6), Endian::Little);
            frameWidth_ = sizes.u24() + 1;
            frameHeight_ = sizes.u24() + 1;
            return advance(8 + kFrameHead);
        }
        if (startsWith(name, "VP8X")) {
            ByteReader sizes(slice(bytes, 12, 6), Endian::Little);
            width_ = frameWidth_ = sizes.u24() + 1;
            height_ = frameHeight_ = sizes.u24() + 1;
        }
        const bool facts = startsWith(name, "EXIF") && length <= kLargestFacts;
        const bool coded = startsWith(name, "VP8 ") || startsWith(name, "VP8L") || startsWith(name, "ALPH");
        if (facts || (coded && length <= kLargestPicture)) {
            if (bytes.size() < 8 + length && !last) return ask(static_cast<std::size_t>(8 + length));
            if (bytes.size() < 8 + length) return breakOff("the card ends before the file does");
            const auto content = bytes.subspan(8, static_cast<std::size_t>(length));
            if (facts) {
                exif_.assign(content.begin(), content.end());
            } else {
                look(name, content);
            }
        } else if (coded) {
            loose_ = true;
        }
        ask(kLooked);
        advance(8 + length + (length & 1));
        if (position() >= end_) close();
    }
    void look(Bytes name, Bytes chunk) {
        if (startsWith(name, "ALPH")) {
            const auto wrong = webp::followOpacity(chunk, frameWidth_, frameHeight_, pixelsLeft_);
            spend(std::uint64_t{frameWidth_} * frameHeight_);
            return wrong.empty() ? void() : damage(wrong);
        }
        const bool lossless = startsWith(name, "VP8L");
        lossless_ = lossless_ || lossless;
        const auto found =
            lossless ? webp::followLossless(chunk, pixelsLeft_) : webp::followLossy(chunk, pixelsLeft_);
        if (!found.wrong.empty()) damage(found.wrong);
        loose_ = loose_ || found.loose;
        spend(std::uint64_t{found.width} * found.height);
        if (width_ == 0) {
            width_ = found.width;
            height_ = found.height;
        }
    }
    // What is too large, or comes when too much was followed, is not looked at.
    void spend(std::uint64_t pixels) {
        if (pixels > pixelsLeft_) loose_ = true;
        pixelsLeft_ -= std::min(pixelsLeft_, pixels);
    }
    void describe(Measured& into) override {
        into.format = "webp";
        into.kind = Kind::Photo;
        into.description.codec = lossless_ ? "WebP, lossless" : "WebP";
        if (loose_) into.notices = Notices::Nothing;
        const Bytes facts(exif_);
        readExif(startsWith(facts, {"Exif\0\0", 6}) ? facts.subspan(6) : facts, into.description);
        if (width_ > 0) {
            into.description.width = width_;
            into.description.height = height_;
        }
    }

    std::uint64_t end_ = 0;
    std::uint32_t width_ = 0, height_ = 0;
    std::uint32_t frameWidth_ = 0, frameHeight_ = 0;
    std::uint64_t pixelsLeft_ = kMostPixels;
    std::vector<std::uint8_t> exif_;
    bool lossless_ = false, loose_ = false;
};

bool looksLikeWebp(Bytes head) {
    return startsWith(head, "RIFF") && startsWith(slice(head, 8, 4), "WEBP") && isChunk(slice(head, 12, 4));
}

}  // namespace

const Format& webpFormat() {
    // Without saved states: foreign bytes end with the picture once in a hundred times or so, and of all
    // places that would be tried for a piece some would.
    static const PlainFormat format(
        "webp", {{"webp", Kind::Photo, "webp"}}, looksLikeWebp,
        []() -> std::unique_ptr<Measure> { return std::make_unique<WebpWalk>(); });
    return format;
}

}  // namespace dreskel
