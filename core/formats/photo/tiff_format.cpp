// TIFF (TIFF 6.0) and the camera raw files that are built on it. Their directories say where the data lie;
// the data are then followed from the front to the back, so that such a file can be put together from pieces.
#include "formats/families.h"
#include "formats/photo/area_walk.h"
#include "formats/photo/tiff_layout.h"
#include "formats/plain_format.h"

namespace dreskel {
namespace {

class TiffMeasure : public AreaMeasure {
  public:
    std::optional<Want> want() const override;
    void give(Bytes bytes) override;
    bool giveSome(Bytes bytes) override { return layout_ && walk_.giveSome(bytes); }
    Measured finish() override;
    std::shared_ptr<const PlainSamples> samples() const override;

    std::unique_ptr<Measure> clone() const override { return std::make_unique<TiffMeasure>(*this); }

  private:
    tiff::Layout reading_;
    std::shared_ptr<const tiff::Layout> layout_;  // once it is read; copies of the measure share it
    enum class Padding { Unasked, None, There } padding_ = Padding::Unasked;
};

std::optional<Measure::Want> TiffMeasure::want() const {
    if (!layout_) return reading_.want();
    if (const auto want = walk_.want()) return want;
    const bool asks = walk_.sound() && layout_->mayBePadded() && padding_ == Padding::Unasked;
    return asks ? std::optional(Want{layout_->end(), 1}) : std::nullopt;
}

void TiffMeasure::give(Bytes bytes) {
    if (layout_ && !walk_.want()) {
        padding_ = bytes.size() == 1 && bytes[0] == 0 ? Padding::There : Padding::None;
    } else if (layout_) {
        walk_.give(bytes);
    } else {
        reading_.give(bytes);
        if (reading_.want()) return;
        layout_ = std::make_shared<const tiff::Layout>(std::move(reading_));
        reading_ = {};
        walk_.start({layout_, &layout_->areas()});
    }
}

std::shared_ptr<const PlainSamples> TiffMeasure::samples() const {
    const auto raster = layout_ ? layout_->raster() : std::nullopt;
    return raster ? samplesOf(*raster, layout_->end()) : nullptr;
}

Measured TiffMeasure::finish() {
    Measured result;
    result.kind = Kind::Photo;
    if (!layout_ || !layout_->holds()) return result;  // directories without a picture: a block of Exif
    result.accepted = true;
    result.format = layout_->format();
    result.length = result.proven = layout_->end() + (padding_ == Padding::There ? 1 : 0);
    layout_->describe(result.description);
    result.description.codec = result.format == "tiff" ? "TIFF" : "raw";
    result.samples = samples();
    if (layout_->raster() || layout_->asTheyAre()) result.notices = Notices::ForeignKinds;
    result.needsDecoder = true;
    walk_.describe(result);
    return result;
}

bool looksLikeTiff(Bytes head) {
    const bool little = startsWith(head, {"II*\0", 4}) || startsWith(head, "IIRO") ||
                        startsWith(head, "IIRS") || startsWith(head, {"IIU\0", 4});
    const bool big = startsWith(head, {"MM\0*", 4}) || startsWith(head, "MMOR");
    if (!little && !big) return false;
    ByteReader reader(head, little ? Endian::Little : Endian::Big);
    reader.skip(4);
    const auto first = reader.u32();
    return first >= 8 && first < 0xf0000000U;
}

}  // namespace

const Format& tiffFormat() {
    static const PlainFormat format("tiff",
                                    {{"tiff", Kind::Photo, "tif", {"tiff"}},
                                     {"cr2", Kind::Photo, "cr2"},
                                     {"nef", Kind::Photo, "nef"},
                                     {"nrw", Kind::Photo, "nrw"},
                                     {"arw", Kind::Photo, "arw", {"sr2"}},
                                     {"dng", Kind::Photo, "dng"},
                                     {"gpr", Kind::Photo, "gpr"},
                                     {"orf", Kind::Photo, "orf"},
                                     {"rw2", Kind::Photo, "rw2"},
                                     {"pef", Kind::Photo, "pef"},
                                     {"srw", Kind::Photo, "srw"},
                                     {"3fr", Kind::Photo, "3fr"},
                                     {"iiq", Kind::Photo, "iiq"},
                                     {"erf", Kind::Photo, "erf"}},
                                    looksLikeTiff, makeMeasure<TiffMeasure>);
    return format;
}

}  // namespace dreskel
