// Raw files with a head of their own: RAF, which states where its parts lie, and MRW, whose sensor data
// follow a block of facts.
#include <algorithm>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::string_view kRaf = "FUJIFILMCCD-RAW ";
constexpr std::size_t kRafSecond = 120;  // where the second set of cells is told of

class RawWalk : public Walk {
  public:
    RawWalk() : Walk(64 * 1024) {}

  private:
    void visit(Bytes bytes, bool) override {
        const auto length = startsWith(bytes, kRaf) ? raf(bytes) : mrw(bytes);
        if (length == 0) return;
        accept();
        advance(length);
        close();
    }
    // Three parts: a JPEG, a header of the sensor data, the sensor data; of sensors with a second set of
    // cells two more, a header and data.
    std::uint64_t raf(Bytes bytes) {
        format_ = "raf";
        camera_ = ByteReader(slice(bytes, 28, 32)).text(32);
        ByteReader reader(bytes);
        reader.skip(84);
        std::uint64_t end = 0;
        bool seconds = true;
        for (int part = 0; part < 3; ++part) {
            const std::uint64_t at = reader.u32();
            const std::uint64_t length = reader.u32();
            if (!reader.ok() || (part != 1 && (at < 108 || length == 0))) return 0;
            if (part == 0 && at < kRafSecond + 16) seconds = false;
            end = std::max(end, at + length);
            if (part == 2) media_.push_back({at, length});
        }
        if (!seconds) return end;
        reader.seek(kRafSecond);
        for (int part = 0; part < 2; ++part) {
            const std::uint64_t at = reader.u32();
            const std::uint64_t length = reader.u32();
            if (!reader.ok() || at < end || length == 0) return end;
            end = at + length;
            if (part == 1) media_.push_back({at, length});
        }
        return end;
    }
    // The first block inside, PRD, states the size of the sensor and the bits of a sample.
    std::uint64_t mrw(Bytes bytes) {
        format_ = "mrw";
        ByteReader reader(bytes);
        reader.skip(4);
        const std::uint64_t facts = reader.u32();
        const auto name = reader.take(4);
        reader.skip(4 + 8);
        const std::uint64_t height = reader.u16();
        const std::uint64_t width = reader.u16();
        reader.skip(4);
        const std::uint64_t bits = reader.u8();
        if (!reader.ok() || !startsWith(name, {"\0PRD", 4}) || width == 0 || height == 0 || bits < 8 ||
            bits > 16)
            return 0;
        media_.push_back({8 + facts, width * height * bits / 8});
        return media_.back().end();
    }
    void describe(Measured& into) override {
        into.format = format_;
        into.kind = Kind::Photo;
        into.description.camera = camera_;
        into.description.codec = "raw";
        into.mediaData = media_;
    }

    std::string format_, camera_;
    std::vector<ByteRange> media_;
};

}  // namespace

const Format& rawFormat() {
    static const PlainFormat format(
        "raw", {{"raf", Kind::Photo, "raf"}, {"mrw", Kind::Photo, "mrw"}},
        [](Bytes head) {
            return startsWith(head, kRaf) ||
                   (startsWith(head, {"\0MRM", 4}) && startsWith(slice(head, 8, 4), {"\0PRD", 4}));
        },
        makeMeasure<RawWalk>);
    return format;
}

}  // namespace dreskel
