// TIFF (TIFF 6.0) and the camera raw files that are built on it. Their directories say where the data lie;
// the data are then followed from the front to the back, so that such a file can be put together from pieces.
#include <algorithm>

#include "formats/families.h"
#include "formats/photo/area_check.h"
#include "formats/photo/tiff_layout.h"
#include "formats/plain_format.h"

namespace dreskel {
namespace {

using tiff::Area;
using tiff::AreaCheck;

constexpr std::size_t kMostMedia = 1000;
constexpr std::size_t kTiffPortion = 64 * 1024;

class TiffMeasure : public Measure {
  public:
    std::optional<Want> want() const override;
    void give(Bytes bytes) override;
    bool giveSome(Bytes bytes) override;
    Measured finish() override;
    std::shared_ptr<const PlainSamples> samples() const override;

    std::unique_ptr<Measure> clone() const override { return std::make_unique<TiffMeasure>(*this); }
    bool sound() const override { return why_.empty(); }
    std::uint64_t reached() const override { return position_; }
    void lookClosely(bool closely) override {
        closely_ = closely;
        if (check_) check_->lookClosely(closely);
    }
    bool closeLookIsSure() const override { return false; }

  private:
    void take(Bytes bytes);
    void begin();
    std::uint64_t proven() const;
    void wrong(const std::string& why);
    const Area* inHand() const {
        return layout_ && next_ < layout_->areas().size() ? &layout_->areas()[next_] : nullptr;
    }

    tiff::Layout reading_;
    std::shared_ptr<const tiff::Layout> layout_;  // once it is read; copies of the measure share it
    std::size_t next_ = 0;                        // of its areas
    std::optional<AreaCheck> check_;
    std::uint64_t position_ = 0;  // up to here the data are right
    std::uint64_t taken_ = 0;     // up to here they were taken in
    enum class Padding { Unasked, None, There } padding_ = Padding::Unasked;
    bool closely_ = false;
    std::string why_;
};

std::optional<Measure::Want> TiffMeasure::want() const {
    if (!layout_) return reading_.want();
    if (!why_.empty()) return std::nullopt;
    const auto* area = inHand();
    if (area == nullptr) {
        const bool asks = layout_->mayBePadded() && padding_ == Padding::Unasked;
        return asks ? std::optional(Want{layout_->end(), 1}) : std::nullopt;
    }
    const auto most = taken_ == area->range.offset ? AreaCheck::kFirst : kTiffPortion;
    return Want{taken_, static_cast<std::size_t>(std::min<std::uint64_t>(most, area->range.end() - taken_))};
}

void TiffMeasure::give(Bytes bytes) {
    if (layout_ && inHand() == nullptr) {
        padding_ = bytes.size() == 1 && bytes[0] == 0 ? Padding::There : Padding::None;
    } else if (layout_) {
        if (bytes.size() < want()->length) return wrong("the card ends before the file does");
        take(bytes);
    } else {
        reading_.give(bytes);
        if (reading_.want()) return;
        layout_ = std::make_shared<const tiff::Layout>(std::move(reading_));
        reading_ = {};
        begin();
    }
}

// Of data whose coding says nothing only the end is looked for.
void TiffMeasure::begin() {
    if (const auto* area = inHand())
        taken_ = area->coding == Area::Coding::Unknown ? area->range.end() - 1 : area->range.offset;
}

bool TiffMeasure::giveSome(Bytes bytes) {
    const auto* area = inHand();
    if (area == nullptr || bytes.empty()) return false;
    if (taken_ == area->range.offset && !AreaCheck::tells(area->coding, bytes)) return false;
    take(bytes);
    return true;
}

void TiffMeasure::take(Bytes bytes) {
    const auto& area = *inHand();
    if (!check_) {
        check_.emplace(area);
        check_->lookClosely(closely_);
    }
    taken_ += bytes.size();
    const bool last = taken_ == area.range.end();
    check_->give(bytes, last);
    position_ = last && check_->why().empty() ? area.range.end() : area.range.offset + check_->taken();
    if (!check_->why().empty()) return wrong(check_->why());
    if (!last) return;
    check_.reset();
    ++next_;
    begin();
}

void TiffMeasure::wrong(const std::string& why) {
    why_ = why + ", at byte " + grouped(position_);
}

// Between two stretches of data lies what nothing is known of.
std::uint64_t TiffMeasure::proven() const {
    const bool nothingOfIt = inHand() == nullptr || position_ == inHand()->range.offset;
    if (!nothingOfIt) return position_;
    return next_ > 0 ? layout_->areas()[next_ - 1].range.end() : 0;
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
    for (const auto& area : layout_->areas()) {
        // What begins further in than the data is not of this file; a preview may hold a smaller one.
        const auto& range = area.range;
        if (area.coding == Area::Coding::Preview) {
            if (result.enclosed.size() < kMostMedia) result.enclosed.push_back(range);
        } else if (range.length > 1 && result.mediaData.size() < kMostMedia)
            result.mediaData.push_back({range.offset + 1, range.length - 1});
    }
    layout_->describe(result.description);
    result.description.codec = result.format == "tiff" ? "TIFF" : "raw";
    result.samples = samples();
    if (layout_->raster() || layout_->asTheyAre()) result.notices = Notices::ForeignKinds;
    result.needsDecoder = true;
    if (!why_.empty()) {
        result.condition = Condition::Partial;
        result.why = why_;
        result.proven = std::min(proven(), result.length);
    }
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
