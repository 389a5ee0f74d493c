// BMP (Windows bitmap, BITMAPINFOHEADER and its successors): two headers that state the length, then rows.
#include <algorithm>
#include <cstdlib>

#include "formats/families.h"
#include "formats/photo/raster.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

struct Header {
    std::uint32_t size = 0, pixelsAt = 0;
    std::uint32_t width = 0, height = 0, compression = 0;
    std::uint16_t bits = 0;

    std::uint64_t row() const { return (std::uint64_t{width} * bits + 31) / 32 * 4; }
    std::uint64_t rows() const { return row() * height; }
    bool coded() const { return compression == 1 || compression == 2; }
};

std::optional<Header> readHeader(Bytes head) {
    if (!startsWith(head, "BM")) return std::nullopt;
    ByteReader reader(head.subspan(2), Endian::Little);
    Header header;
    header.size = reader.u32();
    const auto reserved = reader.u32();
    header.pixelsAt = reader.u32();
    const auto kind = reader.u32();
    header.width = reader.u32();
    header.height = static_cast<std::uint32_t>(
        std::abs(static_cast<std::int64_t>(static_cast<std::int32_t>(reader.u32()))));
    const auto planes = reader.u16();
    header.bits = reader.u16();
    header.compression = reader.u32();
    constexpr std::uint32_t kinds[] = {40, 52, 56, 64, 108, 124};
    constexpr std::uint16_t depths[] = {1, 4, 8, 16, 24, 32};
    const bool sane = reader.ok() && reserved == 0 && planes == 1 && header.compression <= 6 &&
                      std::find(std::begin(kinds), std::end(kinds), kind) != std::end(kinds) &&
                      std::find(std::begin(depths), std::end(depths), header.bits) != std::end(depths) &&
                      header.width > 0 && header.width < 100000 && header.height > 0 &&
                      header.height < 100000 && header.pixelsAt >= 14 + kind &&
                      header.pixelsAt < 14 + kind + 4096;
    if (!sane) return std::nullopt;
    // What the header says of the length has to agree with the rows.
    const auto needed = header.pixelsAt + header.rows();
    const bool agrees = header.coded()
                            ? header.size > header.pixelsAt
                            : header.size == 0 || (header.size >= needed && header.size - needed < 4096);
    return agrees ? std::optional(header) : std::nullopt;
}

class BmpWalk : public Walk {
  public:
    BmpWalk() : Walk(64) {}

  private:
    void visit(Bytes bytes, bool) override {
        const auto header = readHeader(bytes);
        if (!header) return;
        header_ = *header;
        accept();
        advance(length());
        close();
    }
    void describe(Measured& into) override {
        into.format = "bmp";
        into.kind = Kind::Photo;
        into.description.width = header_.width;
        into.description.height = header_.height;
        into.description.codec = "BMP";
        into.notices = header_.bits > 8 ? Notices::ForeignKinds : Notices::Nothing;
        into.mediaData.push_back({header_.pixelsAt, into.length - header_.pixelsAt});
    }
    std::shared_ptr<const PlainSamples> samples() const override {
        if (!accepted() || header_.coded() || header_.bits < 8) return nullptr;
        return samplesOf({{header_.pixelsAt, header_.rows()},
                          header_.row(),
                          1,
                          header_.bits / 8U,
                          header_.bits == 16 ? Raster::Packing::LittleWords : Raster::Packing::OneByte},
                         length());
    }
    std::uint64_t length() const {
        return header_.size > 0 ? header_.size : header_.pixelsAt + header_.rows();
    }

    Header header_;
};

}  // namespace

const Format& bmpFormat() {
    static const PlainFormat format(
        "bmp", {{"bmp", Kind::Photo, "bmp", {"dib"}}},
        [](Bytes head) { return readHeader(head).has_value(); }, makeMeasure<BmpWalk>);
    return format;
}

}  // namespace dreskel
