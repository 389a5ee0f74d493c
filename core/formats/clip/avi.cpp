// AVI (Microsoft, "AVI RIFF File Reference") and its continuation behind the first gigabyte (OpenDML 1.02): a
// RIFF of form AVI, then any number of form AVIX.
#include <algorithm>
#include <cctype>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kAviHead = 16 * 1024;
constexpr std::size_t kMostAviMedia = 1000, kMostPadding = 100;

bool printable(Bytes name) {
    return name.size() == 4 &&
           std::all_of(name.begin(), name.end(), [](std::uint8_t c) { return c >= 0x20 && c < 0x7f; });
}

class AviWalk : public Walk {
  public:
    AviWalk() : Walk(kAviHead) {}

  private:
    void visit(Bytes bytes, bool last) override;
    void describe(Measured& into) override;
    bool mayEnd() const override { return position() == riffEnd_; }
    // `from`: where in the file the list's inside begins.
    void header(Bytes list, std::uint64_t from);
    void leaveBlank(std::uint64_t from, std::uint64_t length) {
        if (padding_.size() < kMostPadding) padding_.push_back({from, length});
    }
    void unclosed(Bytes bytes);
    void index(Bytes entries);

    std::uint64_t indexEnd_ = 0;  // of the index in hand
    std::uint64_t riffEnd_ = 0;
    bool inMovie_ = false;  // of a recording that was never closed: its chunks one by one
    std::vector<ByteRange> media_, padding_;
    std::string codec_;
    std::uint32_t width_ = 0, height_ = 0, frames_ = 0, microseconds_ = 0;
};

void AviWalk::header(Bytes list, std::uint64_t from) {
    for (std::size_t at = 0; at + 8 <= list.size();) {
        ByteReader reader(list.subspan(at), Endian::Little);
        const auto name = reader.take(4);
        const auto length = reader.u32();
        if (startsWith(name, "LIST")) {
            at += 12;
            continue;
        }
        if (startsWith(name, "avih")) {
            microseconds_ = reader.u32();
            reader.skip(12);
            frames_ = reader.u32();
            reader.skip(12);
            width_ = reader.u32();
            height_ = reader.u32();
        } else if (startsWith(name, "strh")) {
            const auto type = reader.take(4);
            if (startsWith(type, "vids")) codec_ = reader.text(4);
        } else if (startsWith(name, "JUNK")) {
            leaveBlank(from + at + 8, length);
        }
        at += std::size_t{8} + length + (length & 1);
    }
}

void AviWalk::unclosed(Bytes bytes) {
    ByteReader reader(bytes, Endian::Little);
    const auto name = reader.take(4);
    const std::uint64_t length = reader.u32();
    const bool numbered = name.size() == 4 && std::isdigit(name[0]) != 0 && std::isdigit(name[1]) != 0;
    const bool index = name.size() == 4 && name[0] == 'i' && name[1] == 'x';
    if (startsWith(name, "LIST") && startsWith(slice(bytes, 8, 4), "rec ")) return advance(12);
    if (!reader.ok() || (!numbered && !index && !startsWith(name, "JUNK") && !startsWith(name, "idx1")))
        return breakOff("the recording was never closed; its last chunk ends");
    advance(8 + length + (length & 1));
}

// AVIOLDINDEX: a chunk's name, flags, where it is (of the file or of the list of chunks) and its length.
void AviWalk::index(Bytes entries) {
    constexpr std::size_t kEntry = 16;
    const auto here = std::min<std::uint64_t>(entries.size(), indexEnd_ - position());
    for (std::size_t at = 0; at + kEntry <= here; at += kEntry) {
        ByteReader reader(entries.subspan(at, kEntry), Endian::Little);
        const auto name = reader.take(4);
        reader.skip(4);
        const std::uint64_t place = reader.u32();
        const std::uint64_t length = reader.u32();
        if (!printable(name) || place + length > position() + at)
            damage("its index names what is not there", position() + at);
    }
    const auto whole = here / kEntry * kEntry;
    advance(whole > 0 && position() + whole < indexEnd_ ? whole : indexEnd_ - position());
}

void AviWalk::visit(Bytes bytes, bool last) {
    if (inMovie_) return unclosed(bytes);
    if (position() < indexEnd_) return index(bytes);
    ByteReader reader(bytes, Endian::Little);
    const auto name = reader.take(4);
    const std::uint64_t length = reader.u32();
    const auto form = slice(bytes, 8, 4);
    if (position() == riffEnd_) {
        const bool next = riffEnd_ == 0 ? startsWith(form, "AVI ") : startsWith(form, "AVIX");
        if (!startsWith(name, "RIFF") || !next) return close();
        riffEnd_ = position() + 8 + length + (length & 1);
        return advance(12);
    }
    const bool never = riffEnd_ <= 20;  // the length was to be written at the end
    if (!reader.ok() || !printable(name) || (!never && position() + 8 + length > riffEnd_))
        return breakOff(last ? "the card ends before the file does" : "no chunk follows");
    if (startsWith(name, "LIST") && startsWith(form, "hdrl")) {
        header(slice(bytes, 12, length - std::min<std::uint64_t>(length, 4)), position() + 12);
        accept();
    }
    if (startsWith(name, "LIST") && startsWith(form, "movi")) {
        if (never || length <= 4) {
            inMovie_ = true;
            return advance(12);
        }
        if (media_.size() < kMostAviMedia) media_.push_back({position() + 12, length - 4});
    }
    if (startsWith(name, "JUNK")) leaveBlank(position() + 8, length);
    if (startsWith(name, "idx1") && !never && length > 0) {
        indexEnd_ = position() + 8 + length + (length & 1);
        return advance(8);
    }
    advance(8 + length + (length & 1));
    if (position() > riffEnd_ && !never) riffEnd_ = position();
}

void AviWalk::describe(Measured& into) {
    into.format = "avi";
    into.kind = Kind::Video;
    auto& about = into.description;
    about.codec = codec_ == "MJPG" || codec_ == "mjpg" ? "Motion JPEG" : codec_;
    into.holdsPhotos = about.codec == "Motion JPEG";
    if (width_ > 0 && width_ < 65536 && height_ > 0 && height_ < 65536) {
        about.width = width_;
        about.height = height_;
    }
    if (microseconds_ > 0) {
        about.frameRate = 1e6 / microseconds_;
        if (frames_ > 0) about.duration = static_cast<double>(frames_) * microseconds_ / 1e6;
    }
    into.padding = padding_;
    into.mediaData = media_;
    if (media_.empty()) into.mediaData.push_back({12, into.length - 12});
}

}  // namespace

const Format& aviFormat() {
    static const PlainFormat format(
        "avi", {{"avi", Kind::Video, "avi"}},
        [](Bytes head) { return startsWith(head, "RIFF") && startsWith(slice(head, 8, 8), "AVI LIST"); },
        makeMeasure<AviWalk>);
    return format;
}

}  // namespace dreskel
