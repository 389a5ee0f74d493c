#include "formats/vp9/frame_head.h"

#include "formats/clip/nal_bits.h"

namespace dreskel::vp9 {
namespace {

class HeadReader {
  public:
    HeadReader(Bytes frame, Kept& kept) : bits_(frame), kept_(kept) {}
    std::optional<FrameHead> read();

  private:
    bool start();
    bool colours();
    Size size();
    void shownSize() {
        if (bits_.flag()) bits_.u(32);
    }
    void passSigned(unsigned bits) {
        if (bits_.flag()) bits_.u(bits + 1);
    }
    bool references();
    void loopFilter();
    void quantisers();
    void segmentation();
    void parts();

    NalBits bits_;
    Kept& kept_;
    FrameHead head_;
};

bool HeadReader::start() {
    return bits_.u(24) == 0x498342;
}

bool HeadReader::colours() {
    kept_.bits = kept_.profile < 2 ? 8 : bits_.flag() ? 12 : 10;
    constexpr std::uint32_t kRgb = 7;
    const bool rgb = bits_.u(3) == kRgb;
    const bool odd = kept_.profile == 1 || kept_.profile == 3;
    if (!rgb) bits_.flag();
    kept_.halfWidth = odd ? !rgb && bits_.flag() : !rgb;
    kept_.halfHeight = odd ? !rgb && bits_.flag() : !rgb;
    if (odd) bits_.flag();
    return odd || !rgb;
}

Size HeadReader::size() {
    Size size;
    size.width = bits_.u(16) + 1;
    size.height = bits_.u(16) + 1;
    return size;
}

bool HeadReader::references() {
    head_.refreshes = static_cast<std::uint8_t>(bits_.u(8));
    std::array<Size, 3> sizes{};
    for (std::size_t i = 0; i < 3; ++i) {
        sizes[i] = kept_.sizes[bits_.u(3)];
        head_.turned[i + 1] = bits_.flag();
        if (sizes[i].width == 0) return false;
    }
    for (const auto& size : sizes) {
        if (!bits_.flag()) continue;
        head_.size = size;
        break;
    }
    if (head_.size.width == 0) head_.size = size();
    shownSize();
    head_.eighths = bits_.flag();
    head_.switchableFilter = bits_.flag();
    if (!head_.switchableFilter) bits_.u(2);
    return true;
}

void HeadReader::loopFilter() {
    bits_.u(6 + 3);
    if (!bits_.flag() || !bits_.flag()) return;
    for (int i = 0; i < 4 + 2; ++i) passSigned(6);
}

void HeadReader::quantisers() {
    bool zero = bits_.u(8) == 0;
    for (int i = 0; i < 3; ++i) {
        if (!bits_.flag()) continue;
        zero = bits_.u(4) == 0 && zero;
        bits_.flag();
    }
    head_.lossless = zero;
}

void HeadReader::segmentation() {
    auto& segments = kept_.segmentation;
    segments.updatesMap = segments.foretold = false;
    segments.enabled = bits_.flag();
    if (!segments.enabled) return;
    const auto chance = [&] { return static_cast<std::uint8_t>(bits_.flag() ? bits_.u(8) : 255); };
    segments.updatesMap = bits_.flag();
    if (segments.updatesMap) {
        for (auto& each : segments.chances) each = chance();
        segments.foretold = bits_.flag();
        for (auto& each : segments.foretoldChances) each = segments.foretold ? chance() : 255;
    }
    if (!bits_.flag()) return;
    bits_.flag();
    for (auto& rule : segments.rules) {
        rule = {};
        passSigned(8);
        passSigned(6);
        if (bits_.flag()) rule.reference = static_cast<std::uint8_t>(bits_.u(2));
        rule.skipped = bits_.flag();
    }
}

void HeadReader::parts() {
    const auto columns = head_.size.wideColumns();
    std::uint32_t least = 0, most = 1;
    while ((64U << least) < columns) ++least;
    while (columns >> most >= 4) ++most;
    --most;
    head_.columnParts = least;
    while (head_.columnParts < most && bits_.flag()) ++head_.columnParts;
    head_.rowParts = bits_.flag() ? (bits_.flag() ? 2 : 1) : 0;
}

std::optional<FrameHead> HeadReader::read() {
    if (bits_.u(2) != 2) return std::nullopt;
    const std::uint32_t low = bits_.u(1), high = bits_.u(1);
    const auto profile = high << 1 | low;
    if (profile == 3 && bits_.flag()) return std::nullopt;
    head_.showsAnother = bits_.flag();
    if (head_.showsAnother) {
        const bool known = kept_.sizes[bits_.u(3)].width > 0;
        head_.length = (bits_.position() + 7) / 8;
        return known && bits_.ok() ? std::optional(head_) : std::nullopt;
    }
    kept_.profile = profile;
    head_.key = !bits_.flag();
    head_.shown = bits_.flag();
    head_.resilient = bits_.flag();
    if (head_.key) {
        if (!start() || !colours()) return std::nullopt;
        head_.size = size();
        shownSize();
        head_.refreshes = 0xff;
    } else {
        head_.intraOnly = !head_.shown && bits_.flag();
        head_.reset = head_.resilient ? 0 : bits_.u(2);
        if (head_.intraOnly) {
            if (!start()) return std::nullopt;
            if (profile > 0) {
                if (!colours()) return std::nullopt;
            } else {
                kept_.bits = 8;
                kept_.halfWidth = kept_.halfHeight = true;
            }
            head_.refreshes = static_cast<std::uint8_t>(bits_.u(8));
            head_.size = size();
            shownSize();
        } else if (!references()) {
            return std::nullopt;
        }
    }
    head_.keepsChances = !head_.resilient && bits_.flag();
    head_.inParallel = head_.resilient || bits_.flag();
    head_.context = bits_.u(2);
    if (head_.anew()) kept_.segmentation.rules = {};
    loopFilter();
    quantisers();
    segmentation();
    parts();
    head_.statedLength = bits_.u(16);
    head_.length = (bits_.position() + 7) / 8;
    if (!bits_.ok() || head_.statedLength == 0) return std::nullopt;
    return head_;
}

}  // namespace

std::optional<FrameHead> readFrameHead(Bytes frame, Kept& kept) {
    return HeadReader(frame, kept).read();
}

}  // namespace dreskel::vp9
