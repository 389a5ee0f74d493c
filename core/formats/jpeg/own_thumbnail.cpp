#include "formats/jpeg/own_thumbnail.h"

#include <algorithm>
#include <array>

#include "formats/jpeg/metadata.h"
#include "formats/jpeg/small_picture.h"

namespace dreskel::jpeg {
namespace {

// A picture is gone through in so many steps, and what it has in common with its thumbnail is learnt from the
// first of these shares that is enough.
constexpr std::uint32_t kSteps = 32;
constexpr std::array kLearntFrom{0.125, 0.25, 0.5};
// Strains. A stretch that is not the photo's begins with a step of more than the one, and strains by more
// than the other over so many steps. Measured: docs/measures.md, "What thumbnails tell".
constexpr double kDoubtful = 1.2, kStrange = 2.0;
constexpr std::uint32_t kStrangeSteps = 3;

}  // namespace

std::shared_ptr<const OwnThumbnail> OwnThumbnail::in(Bytes head, const Frame& frame) {
    if (frame.components.empty() || frame.height == 0) return nullptr;
    const auto thumbnail = readMetadata(head).thumbnail;
    if (thumbnail.empty()) return nullptr;
    const auto small = decodeSmall(thumbnail);
    if (!small) return nullptr;
    return std::make_shared<const OwnThumbnail>(*small, frame);
}

OwnThumbnail::OwnThumbnail(const Grey& small, const Frame& frame)
    : frame_(frame),
      likeness_(small, frame.components[0].blocksWide, frame.components[0].blocksHigh,
                static_cast<double>(frame.width) / frame.height) {}

BlockMeans OwnThumbnail::means(const DcPlanes& planes) const {
    const auto& luma = frame_.components[0];
    const auto& plane = planes.planes[0];
    const auto steps = static_cast<float>(8 << (frame_.precision > 8 ? frame_.precision - 8 : 0));
    return {plane.dc.data(),
            plane.width,
            luma.blocksWide,
            luma.blocksHigh,
            static_cast<float>(plane.quant) / steps,
            128};
}

std::uint32_t OwnThumbnail::blockRow(std::uint64_t mcuRow) const {
    const auto& luma = frame_.components[0];
    return static_cast<std::uint32_t>(std::min<std::uint64_t>(mcuRow * luma.v, luma.blocksHigh));
}

std::optional<Likeness::Learnt> OwnThumbnail::learn(const DcPlanes& planes, std::uint64_t to) const {
    if (planes.planes.empty() || frame_.mcusWide == 0) return std::nullopt;
    return likeness_.learn(means(planes), blockRow(to / frame_.mcusWide));
}

std::optional<double> OwnThumbnail::strain(const DcPlanes& planes, const Likeness::Learnt& learnt,
                                           std::uint64_t from, std::uint64_t to) const {
    const auto first = (from + frame_.mcusWide - 1) / frame_.mcusWide;
    return likeness_.strain(means(planes), learnt, blockRow(first), blockRow(to / frame_.mcusWide));
}

std::optional<std::uint32_t> OwnThumbnail::strangeFrom(const DcPlanes& planes) const {
    const std::uint64_t wide = frame_.mcusWide, high = frame_.mcusHigh;
    const auto step = std::max<std::uint64_t>(1, high / kSteps);
    std::optional<Likeness::Learnt> learnt;
    std::uint64_t row = 0;
    for (auto share = kLearntFrom.begin(); !learnt && share != kLearntFrom.end(); ++share) {
        row = static_cast<std::uint64_t>(static_cast<double>(high) * *share);
        learnt = learn(planes, row * wide);
    }
    if (!learnt) return std::nullopt;
    const auto strainOf = [&](std::uint64_t from, std::uint64_t to) {
        return strain(planes, *learnt, from * wide, std::min(to, high) * wide).value_or(0);
    };
    for (; row + kStrangeSteps * step <= high; row += step) {
        if (strainOf(row, row + step) <= kDoubtful) continue;
        if (strainOf(row, row + kStrangeSteps * step) > kStrange) return static_cast<std::uint32_t>(row);
    }
    return std::nullopt;
}

}  // namespace dreskel::jpeg
