// Raw files whose directory stands at their very end, so that nothing in front says how long they are: the
// end is where a directory is pointed at by the last word behind it.
//  - CRW: CIFF heaps (Specification on Image Data File, CIFF, revision 1.0, section 3).
//  - X3F: sections and a directory of them, "SECd" (the container's public description, version 2.x).
#include <algorithm>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kDirectoryPortion = 1 << 20;
constexpr std::uint64_t kMostBytes = 256ULL << 20;
constexpr std::size_t kMostEntries = 64;
constexpr std::size_t kHeapEntry = 10;         // type, length, offset
constexpr std::size_t kSectionEntry = 12;      // offset, length, type
constexpr std::uint16_t kStoredHere = 0x4000;  // the value is in the entry itself
constexpr std::uint16_t kRawData = 0x2005, kImageProperties = 0x300a;
constexpr std::size_t kOverlap = 16 + kMostEntries * kSectionEntry;

class DirectoryBehindWalk : public Walk {
  public:
    DirectoryBehindWalk() : Walk(kDirectoryPortion) {}

  private:
    void visit(Bytes bytes, bool last) override {
        if (position() == 0 && !begin(bytes)) return close();
        // The last bytes are looked at again with what follows them.
        const auto until = last ? bytes.size() : bytes.size() - std::min(bytes.size(), kOverlap);
        for (std::size_t at = position() == 0 ? heads_ : 0; at + 4 <= bytes.size() && at < until; ++at) {
            const auto length = sections_ ? sectionsEnd(bytes, at) : heapEnd(bytes, at);
            if (length == 0) continue;
            accept();
            advance(at + length);
            return close();
        }
        if (last || position() > kMostBytes) return close();
        advance(until);
    }
    bool begin(Bytes bytes) {
        sections_ = startsWith(bytes, "FOVb");
        ByteReader reader(bytes, Endian::Little);
        if (sections_) {
            heads_ = 40;
            reader.skip(28);
            width_ = reader.u32();
            height_ = reader.u32();
            return reader.ok();
        }
        endian_ = startsWith(bytes, "MM") ? Endian::Big : Endian::Little;
        reader = ByteReader(bytes, endian_);
        reader.skip(2);
        heads_ = reader.u32();
        return reader.ok() && heads_ >= 14 && heads_ <= 4096;
    }
    // A heap's directory at `at`: how many bytes to behind the word that points at it, or 0.
    std::size_t heapEnd(Bytes bytes, std::size_t at) const {
        ByteReader reader(slice(bytes, at, 2 + kMostEntries * kHeapEntry + 4), endian_);
        const std::size_t count = reader.u16();
        if (count == 0 || count > kMostEntries) return 0;
        const auto place = position() + at - std::min(position() + at, std::uint64_t{heads_});
        bool raw = false, properties = false;
        for (std::size_t i = 0; i < count; ++i) {
            const auto type = reader.u16();
            const std::uint64_t length = reader.u32();
            const std::uint64_t offset = reader.u32();
            if (!reader.ok()) return 0;
            if ((type & kStoredHere) == 0 && offset + length > place) return 0;
            raw = raw || type == kRawData;
            properties = properties || type == kImageProperties;
        }
        const std::uint64_t pointer = reader.u32();
        return reader.ok() && raw && properties && pointer == place ? reader.position() : 0;
    }
    std::size_t sectionsEnd(Bytes bytes, std::size_t at) const {
        if (bytes[at] != 'S' || !startsWith(bytes.subspan(at), "SECd")) return 0;
        ByteReader reader(slice(bytes, at, 12 + kMostEntries * kSectionEntry + 4), Endian::Little);
        reader.skip(8);
        const std::size_t count = reader.u32();
        if (count == 0 || count > kMostEntries) return 0;
        for (std::size_t i = 0; i < count; ++i) {
            const std::uint64_t offset = reader.u32();
            const std::uint64_t length = reader.u32();
            reader.skip(4);
            if (!reader.ok() || offset + length > position() + at) return 0;
        }
        const std::uint64_t pointer = reader.u32();
        return reader.ok() && pointer == position() + at ? reader.position() : 0;
    }
    void describe(Measured& into) override {
        into.format = sections_ ? "x3f" : "crw";
        into.kind = Kind::Photo;
        into.description.codec = "raw";
        // Some heaps keep the lowest bits of the samples as they are, in front of the others.
        if (!sections_) into.notices = Notices::ForeignKinds;
        if (sections_) {
            into.description.width = width_;
            into.description.height = height_;
        }
        into.mediaData.push_back({heads_, into.length - std::min(into.length, std::uint64_t{heads_})});
    }

    bool sections_ = false;
    Endian endian_ = Endian::Little;
    std::size_t heads_ = 0;  // bytes before the first section or the root heap
    std::uint32_t width_ = 0, height_ = 0;
};

bool looksLikeDirectoryBehind(Bytes head) {
    if (startsWith(head, "FOVb")) return head.size() > 8 && head[6] >= 2 && head[6] <= 4 && head[7] == 0;
    return (startsWith(head, "II") || startsWith(head, "MM")) && startsWith(slice(head, 6, 8), "HEAPCCDR");
}

}  // namespace

const Format& directoryBehindFormat() {
    static const PlainFormat format("directory-behind",
                                    {{"crw", Kind::Photo, "crw"}, {"x3f", Kind::Photo, "x3f"}},
                                    looksLikeDirectoryBehind, makeMeasure<DirectoryBehindWalk>);
    return format;
}

}  // namespace dreskel
