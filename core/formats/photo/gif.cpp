// GIF (Graphics Interchange Format, version 89a): blocks, of which pictures and extensions end in chains of
// sub-blocks.
#include "base/words.h"
#include "formats/families.h"
#include "formats/photo/gif_pixels.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kGifPortion = 64 * 1024;

std::uint64_t tableSize(std::uint8_t flags) {
    return (flags & 0x80U) != 0 ? 3ULL << ((flags & 7U) + 1) : 0;
}

class GifWalk : public Walk {
  public:
    GifWalk() : Walk(kGifPortion) {}

  private:
    bool takesAny() const override { return true; }
    void visit(Bytes bytes, bool last) override;
    void describe(Measured& into) override;
    // The length of the element at the front of `rest`, which is at `at`; nothing when there is none, 0 when
    // it does not end here.
    std::optional<std::uint64_t> element(Bytes rest, std::uint64_t at);
    void judge(const char* why, std::uint64_t at);

    bool inChain_ = false, inPicture_ = false;
    GifPixels pixels_;  // of the picture in hand
    int pictures_ = 0;
    std::uint16_t width_ = 0, height_ = 0;
};

// It goes on: its chain still says where it ends.
void GifWalk::judge(const char* why, std::uint64_t at) {
    if (why != nullptr) damage(std::string(why) + ", at byte " + grouped(at), at);
}

std::optional<std::uint64_t> GifWalk::element(Bytes rest, std::uint64_t at) {
    if (inChain_) {
        const auto length = std::uint64_t{1} + rest[0];
        if (length > rest.size()) return 0;
        inChain_ = rest[0] != 0;
        if (inPicture_) judge(inChain_ ? pixels_.feed(slice(rest, 1, rest[0])) : pixels_.finish(), at);
        inPicture_ = inPicture_ && inChain_;
        return length;
    }
    if (rest[0] == 0x21) {
        if (rest.size() < 2) return 0;
        inChain_ = true;
        return 2;
    }
    if (rest[0] != 0x2c) return std::nullopt;
    if (rest.size() < 11) return 0;
    const auto length = 11 + tableSize(rest[9]);  // with the code size
    if (length > rest.size()) return 0;
    if (rest[length - 1] < 2 || rest[length - 1] > 11) return std::nullopt;
    ++pictures_;
    inChain_ = inPicture_ = true;
    ByteReader about(rest, Endian::Little);
    about.skip(5);
    const std::uint64_t wide = about.u16();
    pixels_ = GifPixels(rest[length - 1], wide * about.u16());
    return length;
}

void GifWalk::visit(Bytes bytes, bool last) {
    std::uint64_t at = 0;
    if (position() == 0) {
        if (bytes.size() < 13) return breakOff("the card ends before the file does");
        ByteReader reader(bytes, Endian::Little);
        reader.skip(6);
        width_ = reader.u16();
        height_ = reader.u16();
        at = 13 + tableSize(bytes[10]);
        accept();
    }
    while (at < bytes.size()) {
        const auto rest = bytes.subspan(static_cast<std::size_t>(at));
        if (!inChain_ && rest[0] == 0x3b && pictures_ > 0) {
            advance(at + 1);
            close();
            return;
        }
        const auto length = element(rest, position() + at);
        if (!length) {
            advance(at);
            breakOff("no block follows");
            return;
        }
        if (*length == 0) break;
        at += *length;
    }
    advance(at);
    if (last) breakOff("the card ends before the file does");
}

void GifWalk::describe(Measured& into) {
    into.format = "gif";
    into.kind = Kind::Photo;
    into.description.width = width_;
    into.description.height = height_;
    into.description.codec = "GIF";
    if (pictures_ == 0) into.accepted = false;
}

bool looksLikeGif(Bytes head) {
    if (!startsWith(head, "GIF89a") && !startsWith(head, "GIF87a")) return false;
    ByteReader reader(head.subspan(6), Endian::Little);
    const auto width = reader.u16();
    const auto height = reader.u16();
    return reader.ok() && width > 0 && height > 0;
}

}  // namespace

const Format& gifFormat() {
    static const PlainFormat format("gif", {{"gif", Kind::Photo, "gif"}}, looksLikeGif, makeMeasure<GifWalk>);
    return format;
}

}  // namespace dreskel
