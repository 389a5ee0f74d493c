// One file on the splice bench: how it looks with a given way through the card, and what could follow where a
// way ends. Joins are the technician's here; nothing is decided by this.
#pragma once

#include <chrono>
#include <functional>
#include <string>
#include <vector>

#include "base/control.h"
#include "base/range.h"
#include "formats/format.h"

namespace dreskel::rebuild {

// In a way, what is to stay empty: nothing of the file is known there.
constexpr std::uint64_t kNowhere = UINT64_MAX;
constexpr bool isNowhere(const ByteRange& place) {
    return place.offset == kNowhere;
}

// Of a way, bytes.
inline std::uint64_t total(const std::vector<ByteRange>& places) {
    std::uint64_t length = 0;
    for (const auto& place : places) length += place.length;
    return length;
}

// The way up to a byte of the file, on a cluster's border, and at least a cluster of each place it reaches.
std::vector<ByteRange> cutBefore(const std::vector<ByteRange>& places, std::uint64_t byte,
                                 std::uint64_t cluster);

// A way that something was taken out of.
struct Cut {
    std::vector<ByteRange> way;
    std::size_t before = 0;  // places of it that lie in front of that
};

// The way without these bytes of the file, out to the borders of their clusters; the first cluster of the
// file stays. What is behind moves up, or a gap takes their place.
enum class LeftBehind { Nothing, Gap };
Cut takeOut(const std::vector<ByteRange>& places, const ByteRange& bytes, std::uint64_t cluster,
            LeftBehind left);

// Places within a file are told as its users see them: rows of a photo, in pixels, or milliseconds of a clip.
struct SpliceLook {
    std::uint32_t extent = 0, reached = 0;  // of the file, and as far as it goes with this way
    std::vector<std::uint32_t> joinsAt;     // at each join between two places
    std::uint64_t length = 0;  // bytes of the way that make sense, to the end of the file if it is there
    bool complete = false;     // all of it, to its end
    bool soFar = false;        // more is being looked at; the picture is what was seen before from there on
    double share = 0;          // of what there is to see
    std::string why;           // it goes no further
    Picture picture;           // of a photo: what is decoded; the rest mid-grey
    struct Stretch {
        static constexpr std::uint32_t kToTheEnd = UINT32_MAX;
        std::uint32_t from = 0, to = 0;
    };
    std::vector<Stretch> wrong;  // of a clip: where its pictures do not decode
};

// What is known of a way while it takes longer to look at than a hand takes to move on; then again and again.
struct Glimpses {
    std::function<void(const SpliceLook&)> show;
    std::chrono::milliseconds every{60};
};

// A picture of a clip.
struct SpliceFrame {
    std::uint32_t at = 0;
    Picture picture;
};

// What could follow.
struct Follower {
    ByteRange place;         // as far as it makes sense
    std::int64_t moved = 0;  // by so many bytes the piece before ends later than it was given
    double score = 0;        // 0 to 1
    std::string why;
    bool complete = false;
    Picture picture;                    // how the whole would look; of a clip, the first picture behind it
    std::uint32_t at = 0, reached = 0;  // where it begins, and how far it goes
};

struct Followers {
    std::vector<Follower> best;
    std::size_t tried = 0;
};

// Not thread-safe. Remembers what it looked at last, so that a small change costs little.
class Splicer {
  public:
    enum class Measure { Rows, Milliseconds };
    virtual ~Splicer() = default;
    virtual Measure measure() const = 0;

    // `side`: of the picture, at most, pixels.
    virtual SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side,
                            const Glimpses& glimpses) = 0;
    SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side) {
        return look(places, side, Glimpses());
    }
    // Behind the last of these places, or some clusters before or behind its end: a join is seldom noticed
    // where it lies.
    virtual Followers followers(const std::vector<ByteRange>& places, std::size_t most, std::uint32_t side,
                                const Control& control) = 0;
    // The way looked at last without what is in this stretch, from one cluster's border to another's.
    virtual Cut without(const SpliceLook::Stretch& stretch) const = 0;
    // Pictures of a clip near these places in it, each empty where it cannot be had.
    virtual std::vector<SpliceFrame> frames(const std::vector<ByteRange>&, const std::vector<std::uint32_t>&,
                                            std::uint32_t) {
        return {};
    }
};

}  // namespace dreskel::rebuild
