#include "formats/jpeg/own_thumbnail.h"

#include <algorithm>

#include "formats/jpeg/metadata.h"
#include "formats/jpeg/small_picture.h"

namespace dreskel::jpeg {

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
      match_(small, frame.components[0].blocksWide, frame.components[0].blocksHigh,
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

std::optional<ThumbnailMatch::Learnt> OwnThumbnail::learn(const DcPlanes& planes, std::uint64_t to) const {
    if (planes.planes.empty() || frame_.mcusWide == 0) return std::nullopt;
    return match_.learn(means(planes), lastRow(to));
}

std::uint32_t OwnThumbnail::firstRow(std::uint64_t mcu) const {
    return blockRow((mcu + frame_.mcusWide - 1) / frame_.mcusWide);
}

std::uint32_t OwnThumbnail::lastRow(std::uint64_t mcu) const {
    return blockRow(mcu / frame_.mcusWide);
}

std::optional<double> OwnThumbnail::strain(const DcPlanes& planes, const ThumbnailMatch::Learnt& learnt,
                                           std::uint64_t from, std::uint64_t to) const {
    return match_.strain(means(planes), learnt, firstRow(from), lastRow(to));
}

bool OwnThumbnail::isAnother(const DcPlanes& planes, const ThumbnailMatch::Learnt& learnt, std::uint64_t from,
                             std::uint64_t to) const {
    return match_.isAnother(means(planes), learnt, firstRow(from), lastRow(to));
}

bool OwnThumbnail::showsEdge(const ThumbnailMatch::Learnt& learnt, std::uint64_t mcu) const {
    const auto row = mcu / frame_.mcusWide;
    return match_.showsEdge(learnt, blockRow(row)) || match_.showsEdge(learnt, blockRow(row + 1));
}

std::optional<std::uint32_t> OwnThumbnail::strangeFrom(const DcPlanes& planes) const {
    if (planes.planes.empty()) return std::nullopt;
    const auto row = match_.strangeFrom(means(planes));
    return row ? std::optional(*row / frame_.components[0].v) : std::nullopt;
}

}  // namespace dreskel::jpeg
