// Canon's CR3: boxes of ISO/IEC 14496-12 whose index stands in front and says, as that of a clip does, where
// a photo, the sensor data and notes lie. These are then followed from the front to the back, so that such a
// file can be put together from pieces.
#include <algorithm>
#include <array>
#include <utility>

#include "base/limits.h"
#include "formats/exif.h"
#include "formats/families.h"
#include "formats/isobmff/boxes.h"
#include "formats/photo/area_walk.h"
#include "formats/photo/crx_rows.h"
#include "formats/plain_format.h"

namespace dreskel {
namespace {

using namespace isobmff;

constexpr std::size_t kBoxHead = 64;
constexpr int kMostBoxes = 64;
constexpr std::uint64_t kLargestMovie = 16U << 20;
constexpr std::size_t kPictureEntry = 82;  // bytes of a sample entry in front of its boxes
constexpr std::string_view kShown{"\xea\xf4\x2b\x5e\x1c\x98\x4b\x88\xb9\xfb\xb7\xdc\x40\x6e\x4d\x16", 16};
constexpr std::size_t kShownPreview = 24;  // in such a box, where the preview's own box begins

bool standsOnTop(std::uint32_t type) {
    constexpr std::array known{fourCc("ftyp"), fourCc("moov"), fourCc("uuid"),
                               fourCc("mdat"), fourCc("free"), fourCc("skip")};
    return std::find(known.begin(), known.end(), type) != known.end();
}

// ISO/IEC 14496-12, 8.7.3 and 8.7.5. Nothing when it is empty, or reaches beyond what there is.
std::optional<ByteRange> onlySample(Bytes table) {
    const auto sizes = findBox(table, fourCc("stsz"));
    const auto offsets32 = findBox(table, fourCc("stco")), offsets64 = findBox(table, fourCc("co64"));
    if (!sizes || (!offsets32 && !offsets64)) return std::nullopt;
    ByteReader size(sizes->body), offset(offsets64 ? offsets64->body : offsets32->body);
    size.skip(4);
    offset.skip(8);
    std::uint64_t length = size.u32();
    const auto samples = size.u32();
    if (length == 0) length = size.u32();
    const auto at = offsets64 ? offset.u64() : std::uint64_t{offset.u32()};
    const bool sane = size.ok() && offset.ok() && samples == 1 && length > 0 && checkedAdd(at, length);
    return sane ? std::optional(ByteRange{at, length}) : std::nullopt;
}

// Where its directories say that its data lie.
struct Cr3Plan {
    Areas areas;
    std::uint64_t end = 0;
    std::uint32_t width = 0, height = 0;
    Description about;
};

class Cr3Measure : public AreaMeasure {
  public:
    std::optional<Want> want() const override;
    void give(Bytes bytes) override;
    bool giveSome(Bytes bytes) override { return plan_ && walk_.giveSome(bytes); }
    Measured finish() override;

    std::unique_ptr<Measure> clone() const override { return std::make_unique<Cr3Measure>(*this); }

  private:
    void header(Bytes bytes);
    void movie(Bytes body);
    void track(Bytes table);
    void shown(Bytes head);
    void begin();
    void end();

    std::uint64_t position_ = 0;  // of the box in hand
    std::optional<BoxHeader> movieBox_;
    int boxes_ = 0;
    bool movie_ = false, over_ = false;
    ByteRange data_;  // the media data
    Cr3Plan reading_;
    std::shared_ptr<const Cr3Plan> plan_;  // once the boxes were walked; copies of the measure share it
};

std::optional<Measure::Want> Cr3Measure::want() const {
    if (plan_) {
        if (const auto want = walk_.want()) return want;
        return walk_.sound() && !over_ ? std::optional(Want{position_, kBoxHead}) : std::nullopt;
    }
    if (movieBox_) return Want{position_, static_cast<std::size_t>(movieBox_->size)};
    return Want{position_, kBoxHead};
}

void Cr3Measure::give(Bytes bytes) {
    if (plan_ && walk_.want()) return walk_.give(bytes);
    if (!movieBox_) return header(bytes);
    const auto box = *std::exchange(movieBox_, std::nullopt);
    if (bytes.size() < box.size) return end();
    movie(bytes.subspan(box.headerSize));
    position_ += box.size;
}

// Boxes in front of the media data, and behind them.
void Cr3Measure::header(Bytes bytes) {
    const auto box = readBoxHeader(bytes);
    const bool first = position_ == 0;
    if (!box || box->size == 0 || !standsOnTop(box->type) || (box->type == fourCc("ftyp")) != first ||
        ++boxes_ > kMostBoxes || (plan_ && box->type == fourCc("mdat")))
        return end();
    if (box->type == fourCc("moov")) {
        if (movie_ || box->size > kLargestMovie) return end();
        movieBox_ = box;
        return;
    }
    if (box->type == fourCc("uuid")) shown(bytes);
    const auto at = position_;
    const auto next = checkedAdd(at, box->size);
    if (!next) return end();
    position_ = *next;
    if (box->type != fourCc("mdat")) return;
    // Its data are followed before anything behind them is asked for, which may lie elsewhere.
    data_ = {at, box->size};
    begin();
}

// No further box.
void Cr3Measure::end() {
    over_ = true;
    if (!plan_) begin();
}

// The preview in a box of its own: its size, then the photo.
void Cr3Measure::shown(Bytes head) {
    if (!startsWith(slice(head, 8, kShown.size()), kShown)) return;
    const auto box = readBoxHeader(slice(head, 8 + kShownPreview, head.size()));
    ByteReader reader(slice(head, 8 + kShownPreview + 8 + 12, 4));
    const std::uint64_t length = reader.u32();
    constexpr std::uint64_t kPhoto = 8 + kShownPreview + 8 + 16;
    if (!box || box->type != fourCc("PRVW") || length == 0 || length + 24 > box->size) return;
    reading_.areas.push_back({{position_ + kPhoto, length}, Area::Coding::Preview});
}

void Cr3Measure::movie(Bytes body) {
    movie_ = true;
    // Canon's facts: TIFF blocks in a box of its own.
    const auto own = findBox(body, fourCc("uuid"));
    const auto facts =
        own && own->body.size() > 16 ? findBox(own->body.subspan(16), fourCc("CMT1")) : std::nullopt;
    if (facts) readExif(facts->body, reading_.about);
    BoxWalk walk(body);
    while (const auto box = walk.next()) {
        if (box->type != fourCc("trak")) continue;
        const auto media = findBox(box->body, fourCc("mdia"));
        const auto information = media ? findBox(media->body, fourCc("minf")) : std::nullopt;
        if (const auto table = information ? findBox(information->body, fourCc("stbl")) : std::nullopt)
            track(table->body);
    }
}

// A track holds one sample: a photo, sensor data, notes.
void Cr3Measure::track(Bytes table) {
    const auto description = findBox(table, fourCc("stsd"));
    const auto range = onlySample(table);
    if (!description || !range || reading_.areas.size() >= limits::kMostMediaRanges) return;
    BoxWalk entries(slice(description->body, 8, description->body.size()));
    const auto entry = entries.next();
    Area area;
    if (entry && entry->type == fourCc("CRAW")) {
        const auto boxes = slice(entry->body, kPictureEntry, entry->body.size());
        if (findBox(boxes, fourCc("JPEG"))) area.coding = Area::Coding::Preview;
        const auto coding = findBox(boxes, fourCc("CMP1"));
        if (const auto crx = coding ? readCrxCoding(coding->body) : std::nullopt) {
            area.coding = Area::Coding::Sensor;
            area.sensor = std::make_shared<const CrxCoding>(*crx);
            if (crx->width > reading_.width) {
                reading_.width = crx->width;
                reading_.height = crx->height;
            }
        }
    }
    area.range = *range;
    reading_.areas.push_back(area);
    reading_.end = std::max(reading_.end, range->end());
}

// Where two stretches share bytes, one of them is not what it is said to be; and nothing may be said of any.
void Cr3Measure::begin() {
    auto& areas = reading_.areas;
    std::sort(areas.begin(), areas.end(),
              [](const Area& a, const Area& b) { return a.range.offset < b.range.offset; });
    for (std::size_t i = 1; i < areas.size(); ++i) {
        if (!areas[i].range.overlaps(areas[i - 1].range)) continue;
        areas.clear();
        break;
    }
    const auto inData = [&](const Area& area) { return area.range.overlaps(data_); };
    if (data_.length > 0 && std::none_of(areas.begin(), areas.end(), inData))
        areas.push_back({data_, Area::Coding::Unknown});
    plan_ = std::make_shared<const Cr3Plan>(std::move(reading_));
    walk_.start({plan_, &plan_->areas});
}

Measured Cr3Measure::finish() {
    Measured result;
    result.kind = Kind::Photo;
    if (!plan_ || !movie_) return result;
    result.accepted = true;
    result.format = "cr3";
    result.length = result.proven = std::max(plan_->end, position_);
    result.description = plan_->about;
    result.description.codec = "raw";
    if (plan_->width > 0) {
        result.description.width = plan_->width;
        result.description.height = plan_->height;
    }
    result.needsDecoder = true;
    if (data_.length == 0) {
        result.condition = Condition::Broken;
        result.why = "its index points behind the end of its data";
    }
    walk_.describe(result);
    return result;
}

bool looksLikeCr3(Bytes head) {
    const auto box = readBoxHeader(head);
    return box && box->type == fourCc("ftyp") && box->size >= 16 && box->size <= 4096 &&
           ByteReader(slice(head, 8, 4)).u32() == fourCc("crx ");
}

}  // namespace

const Format& cr3Format() {
    static const PlainFormat format("cr3", {{"cr3", Kind::Photo, "cr3"}}, looksLikeCr3,
                                    makeMeasure<Cr3Measure>);
    return format;
}

}  // namespace dreskel
