// The small picture in a photo's header (Exif, CIPA DC-008, 4.5.8), held against what decodes of the photo.
#pragma once

#include <memory>
#include <optional>

#include "formats/jpeg/stream_decoder.h"
#include "formats/thumbnail_match.h"

namespace dreskel::jpeg {

class OwnThumbnail {
  public:
    // `head`: the beginning of the file. Null when it holds none that can be decoded.
    static std::shared_ptr<const OwnThumbnail> in(Bytes head, const Frame& frame);
    // `small`: the same, decoded.
    OwnThumbnail(const Grey& small, const Frame& frame);

    // See ThumbnailMatch. Places are MCUs of the first scan; of the rows that they begin or end in nothing is
    // taken.
    std::optional<ThumbnailMatch::Learnt> learn(const DcPlanes& planes, std::uint64_t to) const;
    std::optional<double> strain(const DcPlanes& planes, const ThumbnailMatch::Learnt& learnt,
                                 std::uint64_t from, std::uint64_t to) const;
    bool isAnother(const DcPlanes& planes, const ThumbnailMatch::Learnt& learnt, std::uint64_t from,
                   std::uint64_t to) const;
    // Whether it has an edge from side to side where the row of MCUs behind one begins, or the next.
    bool showsEdge(const ThumbnailMatch::Learnt& learnt, std::uint64_t mcu) const;
    // From which row of MCUs on a complete picture is not what is shown any more, about; nothing where all of
    // it may be.
    std::optional<std::uint32_t> strangeFrom(const DcPlanes& planes) const;

  private:
    BlockMeans means(const DcPlanes& planes) const;
    std::uint32_t blockRow(std::uint64_t mcuRow) const;
    std::uint32_t firstRow(std::uint64_t mcu) const;  // that begins there or behind
    std::uint32_t lastRow(std::uint64_t mcu) const;   // the row behind those that are complete there

    Frame frame_;
    ThumbnailMatch match_;
};

}  // namespace dreskel::jpeg
