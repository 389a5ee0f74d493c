// One photo on the splice bench: how it looks with a given way through the card, and what could follow where
// a way ends. Joins are the technician's here; nothing is decided by this.
#pragma once

#include <string>
#include <vector>

#include "formats/format.h"
#include "formats/jpeg/stream_decoder.h"
#include "rebuild/photo_joiner.h"

namespace dreskel::rebuild {

struct SpliceLook {
    Picture picture;                          // what is decoded; the rest mid-grey
    std::uint32_t rows = 0, decodedRows = 0;  // of the photo, pixels
    std::vector<std::uint32_t> joinRows;      // at each join between two places
    std::uint64_t length = 0;  // bytes of the way that make sense, to the end marker if it is there
    bool complete = false;     // to the end marker with the last block
    double share = 0;          // of the picture
    std::string why;           // it goes no further
};

// What could follow.
struct Follower {
    ByteRange place;         // as far as it makes sense
    std::int64_t moved = 0;  // by so many bytes the piece before ends later than it was given
    double score = 0;        // 0 to 1
    std::string why;
    bool complete = false;
    Picture picture;                         // how the whole would look
    std::uint32_t row = 0, decodedRows = 0;  // of the photo: where it begins, and how far it goes
};

struct Followers {
    std::vector<Follower> best;
    std::size_t tried = 0;
};

// JPEG (ITU-T T.81). Not thread-safe. Remembers what it decoded last: a way that begins like the one before
// is gone on with from there.
class PhotoSplice {
  public:
    // `cluster`: bytes.
    PhotoSplice(CardView& card, std::uint32_t cluster) : card_(card), cluster_(cluster) {}

    // `side`: of the picture, at most, pixels.
    SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side);
    // Behind the last of these places, or some clusters before or behind its end: a join is seldom noticed
    // where it lies.
    Followers followers(const std::vector<ByteRange>& places, const Pool& pool, std::size_t most,
                        std::uint32_t side, const Control& control);
    // The way cut where a row of the picture begins, on a cluster's border; of the way looked at last.
    std::vector<ByteRange> cutAtRow(std::uint32_t row) const;

  private:
    struct Point {
        jpeg::StreamDecoder decoder;
        std::uint64_t at = 0;  // bytes fed
        jpeg::DcPlanes::Place place;
    };
    void decode(const std::vector<ByteRange>& places);
    void clearBehind(const jpeg::StreamDecoder& decoder);
    std::uint32_t rowOf(std::uint64_t byte) const;
    Picture picture(const jpeg::StreamDecoder& decoder, std::uint32_t side);
    // Follows a candidate for so many bytes; tells how far it went.
    Follower follow(jpeg::StreamDecoder decoder, std::uint64_t at, std::uint64_t joinAt, std::uint64_t most,
                    const Pool& pool, jpeg::StreamDecoder& into);

    CardView& card_;
    std::uint32_t cluster_;
    jpeg::DcPlanes planes_;
    std::vector<ByteRange> places_;
    std::vector<Point> points_;
    jpeg::StreamDecoder decoder_;
};

}  // namespace dreskel::rebuild
