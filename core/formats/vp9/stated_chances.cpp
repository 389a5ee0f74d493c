#include "formats/vp9/stated_chances.h"

namespace dreskel::vp9 {
namespace {

// Section 6.3.5, inv_map_table: differences that are mostly stated come first.
std::uint32_t differenceOf(std::uint32_t index) {
    constexpr std::uint32_t kCoarse = 20, kFirst = 7, kStep = 13, kLast = 253;
    if (index < kCoarse) return kFirst + kStep * index;
    // The others in order, without those; the last is there twice.
    std::uint32_t value = index - kCoarse + 1;
    for (std::uint32_t i = 0; i < kCoarse && kFirst + kStep * i <= value; ++i) ++value;
    return value > kLast ? kLast : value;
}

std::uint32_t recentred(std::uint32_t value, std::uint32_t around) {
    if (value > 2 * around) return value;
    return (value & 1) != 0 ? around - (value + 1) / 2 : around + value / 2;
}

class ChancesReader {
  public:
    ChancesReader(Bytes bytes, const FrameHead& head, Chances& chances)
        : bits_(bytes), head_(head), chances_(chances) {}
    std::optional<Stated> read();

  private:
    std::uint32_t index();
    void take(std::uint8_t& chance);
    template <class T>
    void take(T& chances) {
        for (auto& each : chances) take(each);
    }
    void transforms();
    void coefficients();
    void references();
    void takeMotion(std::uint8_t& chance);
    template <class T>
    void takeMotion(T& chances) {
        for (auto& each : chances) takeMotion(each);
    }
    void motion();

    BoolDecoder bits_;
    const FrameHead& head_;
    Chances& chances_;
    Stated stated_;
};

std::uint32_t ChancesReader::index() {
    if (!bits_.flag()) return bits_.number(4);
    if (!bits_.flag()) return bits_.number(4) + 16;
    if (!bits_.flag()) return bits_.number(5) + 32;
    const auto value = bits_.number(7);
    return value < 65 ? value + 64 : (value << 1) - 1 + (bits_.flag() ? 1 : 0);
}

void ChancesReader::take(std::uint8_t& chance) {
    if (!bits_.bit(252)) return;
    const auto difference = differenceOf(index());
    const std::uint32_t before = chance - 1U;
    const auto now =
        2 * before <= 255 ? 1 + recentred(difference, before) : 255 - recentred(difference, 254 - before);
    chance = static_cast<std::uint8_t>(now);
}

void ChancesReader::transforms() {
    if (head_.lossless) return;
    auto mode = bits_.number(2);
    if (mode == 3 && bits_.flag()) {
        stated_.selectsTransform = true;
        take(chances_.transforms8);
        take(chances_.transforms16);
        take(chances_.transforms32);
    }
    stated_.largestTransform = static_cast<std::uint8_t>(mode);
}

void ChancesReader::coefficients() {
    for (std::size_t transform = 0; transform <= stated_.largestTransform; ++transform) {
        if (!bits_.flag()) continue;
        for (auto& plane : chances_.coefficients[transform]) {
            for (auto& inter : plane) {
                for (std::size_t band = 0; band < inter.size(); ++band) {
                    for (std::size_t beside = 0; beside < (band == 0 ? 3U : 6U); ++beside)
                        take(inter[band][beside]);
                }
            }
        }
    }
}

void ChancesReader::references() {
    const bool both = head_.turned[2] != head_.turned[1] || head_.turned[3] != head_.turned[1];
    if (both && bits_.flag()) stated_.references = bits_.flag() ? References::Selected : References::Compound;
    if (stated_.references == References::Selected) take(chances_.compound);
    if (stated_.references != References::Compound) take(chances_.single);
    if (stated_.references != References::Single) take(chances_.second);
}

void ChancesReader::takeMotion(std::uint8_t& chance) {
    if (bits_.bit(252)) chance = static_cast<std::uint8_t>(bits_.number(7) << 1 | 1U);
}

void ChancesReader::motion() {
    takeMotion(chances_.joints);
    for (auto& part : chances_.motion) {
        takeMotion(part.sign);
        takeMotion(part.classes);
        takeMotion(part.nearPixels);
        takeMotion(part.bits);
    }
    for (auto& part : chances_.motion) {
        takeMotion(part.nearFractions);
        takeMotion(part.fractions);
    }
    if (!head_.eighths) return;
    for (auto& part : chances_.motion) {
        takeMotion(part.nearEighth);
        takeMotion(part.eighth);
    }
}

std::optional<Stated> ChancesReader::read() {
    if (bits_.flag()) return std::nullopt;
    transforms();
    coefficients();
    take(chances_.skipped);
    if (head_.inter()) {
        take(chances_.motionModes);
        if (head_.switchableFilter) take(chances_.filters);
        take(chances_.inter);
        references();
        take(chances_.lumaModes);
        take(chances_.partitions);
        motion();
    }
    return bits_.endsHere() ? std::optional(stated_) : std::nullopt;
}

}  // namespace

std::optional<Stated> readStatedChances(Bytes bytes, const FrameHead& head, Chances& chances) {
    return ChancesReader(bytes, head, chances).read();
}

}  // namespace dreskel::vp9
