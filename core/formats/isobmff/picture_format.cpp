// Pictures in the boxes of ISO/IEC 14496-12: HEIF and AVIF (ISO/IEC 23008-12), JPEG XL's container
// (ISO/IEC 18181-2).
#include <algorithm>
#include <array>

#include "base/limits.h"
#include "formats/exif.h"
#include "formats/families.h"
#include "formats/isobmff/boxes.h"
#include "formats/isobmff/item_index.h"
#include "formats/plain_format.h"

namespace dreskel {
namespace {

using namespace isobmff;

constexpr std::size_t kPictureHead = 64;
constexpr std::uint64_t kLargestIndex = 16U << 20;
constexpr std::uint64_t kLargestExif = 1U << 20;
constexpr std::string_view kJxlSignature{"\0\0\0\x0cJXL \r\n\x87\n", 12};

std::string_view formatOfBrand(std::uint32_t brand) {
    constexpr std::array heif{fourCc("heic"), fourCc("heix"), fourCc("heim"), fourCc("heis"),
                              fourCc("hevc"), fourCc("hevx"), fourCc("mif1"), fourCc("msf1")};
    if (std::find(heif.begin(), heif.end(), brand) != heif.end()) return "heic";
    if (brand == fourCc("avif") || brand == fourCc("avis")) return "avif";
    return brand == fourCc("jxl ") ? "jxl" : "";
}

bool isTopLevel(std::uint32_t type) {
    constexpr std::array known{fourCc("ftyp"), fourCc("meta"), fourCc("mdat"), fourCc("moov"),
                               fourCc("free"), fourCc("skip"), fourCc("uuid"), fourCc("idat"),
                               fourCc("JXL "), fourCc("jxlc"), fourCc("jxlp"), fourCc("jxll"),
                               fourCc("jxli"), fourCc("jbrd"), fourCc("Exif"), fourCc("xml "),
                               fourCc("brob"), fourCc("jumb"), fourCc("mpvd"), fourCc("wide")};
    return std::find(known.begin(), known.end(), type) != known.end();
}

class PictureMeasure : public Measure {
  public:
    std::optional<Want> want() const override {
        switch (phase_) {
            case Phase::Header: return Want{position_, kPictureHead};
            case Phase::Index: return Want{position_, static_cast<std::size_t>(box_.size)};
            case Phase::Exif: return Want{exif_.offset, static_cast<std::size_t>(exif_.length)};
            case Phase::Over: break;
        }
        return std::nullopt;
    }
    void give(Bytes bytes) override;
    Measured finish() override;

  private:
    enum class Phase { Header, Index, Exif, Over };
    void header(Bytes bytes);
    void index(Bytes bytes);
    void advance(std::uint64_t size);
    void end();
    std::vector<ByteRange> codedData() const;

    Phase phase_ = Phase::Header;
    std::uint64_t position_ = 0;
    BoxHeader box_;
    int boxes_ = 0;
    std::string_view format_;
    std::optional<ItemIndex> items_;
    ByteRange exif_;
    Description about_;
    std::vector<ByteRange> data_;
    bool openEnd_ = false;
};

void PictureMeasure::advance(std::uint64_t size) {
    const auto next = checkedAdd(position_, size);
    if (!next || ++boxes_ > 1000) return end();
    position_ = *next;
    phase_ = Phase::Header;
}

void PictureMeasure::end() {
    phase_ = Phase::Over;
    // The last box may reach to the end of the file; its items say where that is.
    if (openEnd_ && items_) {
        for (const auto& extent : items_->extents) position_ = std::max(position_, extent.end());
    }
    if (items_ && items_->exif.size() == 1 && items_->exif[0].length > 10 &&
        items_->exif[0].length <= kLargestExif) {
        exif_ = items_->exif[0];
        phase_ = Phase::Exif;
    }
}

void PictureMeasure::give(Bytes bytes) {
    if (phase_ == Phase::Header) return header(bytes);
    if (phase_ == Phase::Index) return index(bytes);
    // Behind the distance of the TIFF block from here (ISO/IEC 23008-12, A.2.1).
    const auto skip = std::uint64_t{4} + ByteReader(bytes).u32();
    auto description = about_;
    if (readExif(slice(bytes, skip, bytes.size()), description)) {
        about_.camera = description.camera;
        about_.position = description.position;
        about_.taken = description.taken;
    }
    phase_ = Phase::Over;
}

void PictureMeasure::header(Bytes bytes) {
    const auto box = readBoxHeader(bytes);
    if (!box || !isTopLevel(box->type) || (box->type == fourCc("ftyp") && !format_.empty())) return end();
    box_ = *box;
    if (box->type == fourCc("ftyp")) format_ = formatOfBrand(ByteReader(slice(bytes, 8, 4)).u32());
    if (box->size == 0) {
        openEnd_ = true;
        return end();
    }
    const bool index = box->type == fourCc("meta");
    if (index && box->size <= kLargestIndex) {
        phase_ = Phase::Index;
        return;
    }
    if (box->type == fourCc("mdat") || box->type == fourCc("jxlc") || box->type == fourCc("jxlp"))
        data_.push_back({position_ + box->headerSize, box->size - box->headerSize});
    advance(box->size);
}

void PictureMeasure::index(Bytes bytes) {
    if (bytes.size() < box_.size) return end();
    const auto body = bytes.subspan(box_.headerSize);
    if (!items_) items_ = readItemIndex(body);
    advance(box_.size);
}

// Beside the coded pictures a file's data may hold a JPEG, notes in XML, even a clip. Where no items tell,
// its data begin with a preview.
std::vector<ByteRange> PictureMeasure::codedData() const {
    std::vector<ByteRange> coded;
    if (items_) {
        for (const auto& item : items_->items) {
            if (item.coded()) coded.insert(coded.end(), item.extents.begin(), item.extents.end());
        }
        if (coded.size() > limits::kMostMediaRanges) coded.clear();
    }
    if (coded.empty()) coded = data_;
    for (auto& range : coded) {
        if (range.length > 0) range = {range.offset + 1, range.length - 1};
    }
    return coded;
}

Measured PictureMeasure::finish() {
    Measured result;
    result.kind = Kind::Photo;
    if (format_.empty()) return result;
    result.accepted = format_ == "jxl" ? !data_.empty() : items_.has_value();
    result.format = format_;
    result.length = result.proven = position_;
    result.description = about_;
    result.description.codec = format_ == "heic" ? "HEIC" : format_ == "avif" ? "AVIF" : "JPEG XL";
    result.mediaData = codedData();
    if (items_) {
        for (const auto& item : items_->items) {
            if (!item.coded() && item.extents.size() == 1 &&
                result.enclosed.size() < limits::kMostMediaRanges)
                result.enclosed.push_back(item.extents[0]);
        }
    }
    if (items_ && items_->width > 0) {
        result.description.width = items_->rotated ? items_->height : items_->width;
        result.description.height = items_->rotated ? items_->width : items_->height;
    }
    const bool fits =
        !items_ || std::all_of(items_->extents.begin(), items_->extents.end(),
                               [&](const ByteRange& extent) { return extent.end() <= position_; });
    if (!fits || (data_.empty() && !openEnd_)) {
        result.condition = Condition::Broken;
        result.why = "its index points behind the end of its data";
    }
    result.needsDecoder = true;
    return result;
}

bool looksLikeCodedPicture(Bytes head) {
    if (startsWith(head, kJxlSignature)) return true;
    const auto box = readBoxHeader(head);
    if (!box || box->type != fourCc("ftyp") || box->size < 16 || box->size > 4096) return false;
    return !formatOfBrand(ByteReader(slice(head, 8, 4)).u32()).empty();
}

}  // namespace

const Format& isoPictureFormat() {
    static const PlainFormat format("isopicture",
                                    {{"heic", Kind::Photo, "heic", {"heif", "hif"}},
                                     {"avif", Kind::Photo, "avif"},
                                     {"jxl", Kind::Photo, "jxl"}},
                                    looksLikeCodedPicture, makeMeasure<PictureMeasure>);
    return format;
}

}  // namespace dreskel
