// A photo on the splice bench.
#pragma once

#include <vector>

#include "formats/jpeg/stream_decoder.h"
#include "rebuild/photo_joiner.h"
#include "rebuild/splice.h"
#include "rebuild/thumbnail_witness.h"

namespace dreskel::rebuild {

// JPEG (ITU-T T.81). A way that begins like the one before is gone on with from there.
class PhotoSplice : public Splicer {
  public:
    // `cluster`: bytes. The pool must outlive it.
    PhotoSplice(CardView& card, const Pool& pool, std::uint32_t cluster)
        : card_(card), pool_(pool), cluster_(cluster) {}

    Measure measure() const override { return Measure::Rows; }
    using Splicer::look;
    SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side,
                    const Glimpses& glimpses) override;
    Followers followers(const std::vector<ByteRange>& places, std::size_t most, std::uint32_t side,
                        const Control& control) override;
    Cut without(const SpliceLook::Stretch& rows) const override;

  private:
    struct Point {
        jpeg::StreamDecoder decoder;
        std::uint64_t at = 0;  // bytes fed
        jpeg::DcPlanes::Place place;
    };
    // `onTheWay` is called after each portion.
    void decode(const std::vector<ByteRange>& places, const std::function<void()>& onTheWay = {});
    SpliceLook lookOf(const std::vector<ByteRange>& places) const;
    void clearBehind(const jpeg::StreamDecoder& decoder);
    std::uint32_t rowOf(std::uint64_t byte) const;
    // The last known one in front of a row.
    std::uint64_t byteBefore(std::uint32_t row) const;
    Picture picture(const jpeg::StreamDecoder& decoder, std::uint32_t side);
    // Follows a candidate for so many bytes; tells how far it went.
    Follower follow(jpeg::StreamDecoder decoder, std::uint64_t at, std::uint64_t joinAt, std::uint64_t most,
                    jpeg::StreamDecoder& into);
    // What the thumbnail, which has learnt from what is before the join, says of one that was just followed.
    void hear(const ThumbnailWitness& witness, const jpeg::StreamDecoder& after, Follower& follower) const;

    CardView& card_;
    const Pool& pool_;
    std::uint32_t cluster_;
    jpeg::DcPlanes planes_;
    std::vector<ByteRange> places_;
    std::vector<Point> points_;
    jpeg::StreamDecoder decoder_;
};

}  // namespace dreskel::rebuild
