#include "formats/photo/crx_rows.h"

#include <algorithm>
#include <optional>
#include <vector>

#include "formats/photo/crx_line.h"

namespace dreskel {
namespace {

constexpr std::uint32_t kWidestCrx = 40000;      // samples
constexpr std::uint32_t kLargestHead = 1 << 20;  // bytes
constexpr std::size_t kMostTiles = 64;
constexpr std::uint64_t kMostBehindPlanes = 16 * 1024;  // bytes
constexpr std::uint16_t kTile = 0x01, kPlane = 0x02, kBand = 0x03;

struct CodedPlane {
    std::uint64_t length = 0, filling = 0;  // bytes, and how many of them are only to fill it up
    std::uint32_t width = 0, height = 0;    // samples
};

// One of the records that the data begin with: a mark, how long the rest is, the length of what it is about.
std::optional<std::uint64_t> record(ByteReader& reader, std::uint16_t what, std::uint32_t& facts) {
    const auto mark = reader.u16();
    const auto rest = reader.u16();
    const std::uint64_t length = reader.u32();
    facts = reader.u32();
    if ((mark != (0xff00 | what) && mark != (0xff10 | what)) || rest < 8) return std::nullopt;
    reader.skip(rest - 8U);
    return reader.ok() ? std::optional(length) : std::nullopt;
}

std::uint32_t partOf(std::uint32_t all, std::uint32_t each, std::uint32_t which) {
    return std::min(each, all - which * each);
}

// What the records say, in the order of the data; empty when they are not as they should be.
std::vector<CodedPlane> readHead(Bytes head, const CrxCoding& coding) {
    std::vector<CodedPlane> planes;
    const auto columns = (coding.width + coding.tileWidth - 1) / coding.tileWidth;
    const auto rows = (coding.height + coding.tileHeight - 1) / coding.tileHeight;
    if (std::uint64_t{columns} * rows > kMostTiles) return planes;
    const auto colours = coding.planes == 4 ? 2U : 1U;
    ByteReader reader(head);
    for (std::uint32_t tile = 0; tile < columns * rows; ++tile) {
        std::uint32_t facts = 0;
        const auto size = record(reader, kTile, facts);
        std::uint64_t held = 0;
        for (unsigned i = 0; size && i < coding.planes; ++i) {
            const auto plane = record(reader, kPlane, facts);
            if (!plane || facts >> 28 != i) return {};
            const auto band = record(reader, kBand, facts);
            // A band that is coded in another way says so.
            if (!band || *band != *plane || (facts & 0x8000000U) == 0) return {};
            const std::uint64_t filling = facts & 0x7ffff;
            if (filling >= *band) return {};
            const CodedPlane coded{*band, filling,
                                   partOf(coding.width, coding.tileWidth, tile % columns) / colours,
                                   partOf(coding.height, coding.tileHeight, tile / columns) / colours};
            if (coded.width == 0 || coded.height == 0) return {};
            planes.push_back(coded);
            held += *band;
        }
        if (!size || held > *size) return {};
    }
    return planes;
}

class CrxRows final : public SensorRows {
  public:
    CrxRows(const CrxCoding& coding, std::uint64_t at) : coding_(coding), at_(at) {
        if (coding.wavelets) state_ = State::NotUnderstood;
    }
    std::unique_ptr<SensorRows> clone() const override { return std::make_unique<CrxRows>(*this); }
    State feed(Bytes bytes, bool last) override;
    void lookClosely(bool closely) override {
        closely_ = closely;
        if (rows_) rows_->lookClosely(closely);
    }
    std::uint64_t offset() const override { return offset_; }
    const std::string& why() const override { return why_; }

  private:
    void readPlanes();
    void followPlane(Bytes bytes, bool last);
    void broken(std::uint64_t byte, const std::string& why) {
        state_ = State::Broken;
        offset_ = byte;
        why_ = why;
    }

    CrxCoding coding_;
    std::uint64_t at_;
    State state_ = State::Hungry;
    std::vector<std::uint8_t> head_;
    std::vector<CodedPlane> planes_;
    std::size_t plane_ = 0;
    std::optional<CodedRows<CrxSamples>> rows_;  // of the plane in hand
    std::uint64_t begins_ = 0, given_ = 0;       // where that begins, and how much of it was given
    std::uint64_t offset_ = 0, behind_ = 0;
    bool closely_ = false;
    std::string why_;
};

void CrxRows::readPlanes() {
    planes_ = readHead(head_, coding_);
    begins_ = offset_ = coding_.head;
    if (planes_.empty()) state_ = State::NotUnderstood;
}

void CrxRows::followPlane(Bytes bytes, bool last) {
    const auto& plane = planes_[plane_];
    if (!rows_) {
        rows_.emplace(CrxSamples(plane.width, plane.height, coding_.bits), at_ + begins_);
        rows_->lookClosely(closely_);
        if (plane_ > 0) rows_->beSure();
    }
    const auto coded = plane.length - plane.filling;
    const auto before = given_;
    given_ += bytes.size();
    if (before < coded) {
        const auto state = rows_->feed(
            bytes.first(static_cast<std::size_t>(std::min<std::uint64_t>(bytes.size(), coded - before))),
            given_ >= coded || last);
        if (state == State::Broken) return broken(begins_ + rows_->offset(), rows_->why());
        if (state == State::NotUnderstood) {
            state_ = state;
            return;
        }
        offset_ = begins_ + rows_->offset();
    }
    if (given_ < plane.length) return;
    begins_ += plane.length;
    offset_ = begins_;
    given_ = 0;
    rows_.reset();
    if (++plane_ == planes_.size()) state_ = State::Ended;
}

SensorRows::State CrxRows::feed(Bytes bytes, bool last) {
    if (state_ == State::Hungry && planes_.empty()) {
        const auto some = std::min<std::size_t>(bytes.size(), coding_.head - head_.size());
        head_.insert(head_.end(), bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(some));
        bytes = bytes.subspan(some);
        if (head_.size() == coding_.head) readPlanes();
    }
    while (state_ == State::Hungry && !planes_.empty() && !bytes.empty()) {
        const auto some =
            static_cast<std::size_t>(std::min<std::uint64_t>(bytes.size(), planes_[plane_].length - given_));
        followPlane(bytes.first(some), last && some == bytes.size());
        bytes = bytes.subspan(some);
    }
    if (state_ == State::Hungry && last) broken(offset_, "the data end before the picture does");
    behind_ += state_ == State::Ended ? bytes.size() : 0;
    if (state_ == State::Ended && behind_ > kMostBehindPlanes)
        broken(offset_, "the picture ends before its data do");
    return state_;
}

}  // namespace

std::optional<CrxCoding> readCrxCoding(Bytes box) {
    ByteReader reader(box);
    CrxCoding coding;
    reader.skip(4);
    const auto version = reader.u16();
    reader.skip(2);
    coding.width = reader.u32();
    coding.height = reader.u32();
    coding.tileWidth = reader.u32();
    coding.tileHeight = reader.u32();
    coding.bits = reader.u8();
    coding.planes = reader.u8() >> 4;
    const auto way = reader.u8();
    reader.skip(1);
    coding.head = reader.u32();
    coding.wavelets = way != 0;
    const bool sized = coding.width > 0 && coding.height > 0 && coding.width <= kWidestCrx &&
                       coding.height <= kWidestCrx && coding.tileWidth > 1 && coding.tileHeight > 1;
    const bool coded = (version == 0x100 || version == 0x200) && coding.bits >= 8 && coding.bits <= 14 &&
                       (coding.planes == 4 || coding.planes == 1);
    if (!reader.ok() || !sized || !coded || coding.head == 0 || coding.head > kLargestHead)
        return std::nullopt;
    return coding;
}

std::unique_ptr<SensorRows> CrxCoding::rows(std::uint64_t at) const {
    return std::make_unique<CrxRows>(*this, at);
}

}  // namespace dreskel
