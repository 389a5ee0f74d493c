// Whether the coded pictures of a clip are right where it lies in certain places: each is followed by its
// syntax to its last bit (H.264 and HEVC, formats/clip/picture_trail.h; JPEG), which needs neither the
// pictures before it nor a player's decoder. One that was followed before, in places that begin alike, is
// gone on with from where they part.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "formats/clip/picture_trail.h"
#include "rebuild/clip_index.h"

namespace dreskel::rebuild {

class SampleJudge {
  public:
    // The index must outlive it.
    SampleJudge(CardView& card, const LooseIndex& index);

    struct Verdict {
        bool wrong = false;         // a picture is
        std::uint64_t reached = 0;  // byte of the file up to which nothing is wrong, where something is
        double strain = 0;          // at the first join; see PictureTrail::strainAt
        bool certain = false;       // nothing is wrong, and a picture that was followed lies over every join
    };
    // Of the pictures that reach in between two bytes of the file.
    Verdict judge(const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to);

  private:
    struct Picture {
        const isobmff::SampleTrack* track = nullptr;
        isobmff::Sample sample;
        std::uint64_t end() const { return sample.offset + sample.size; }
    };
    struct Trail {
        std::unique_ptr<PictureTrail> trail;
        std::uint64_t used = 0;  // when it was last
    };
    // Bytes in front of the picture in its sample; nothing when it is none that can be followed.
    static std::optional<std::size_t> headOf(const Picture& picture, Bytes sample);
    PictureTrail& trailOf(const Picture& picture, std::size_t ahead);

    CardView& card_;
    std::vector<Picture> pictures_;          // by their place in the file
    std::map<std::uint64_t, Trail> trails_;  // of those that were followed last, by the same
    std::uint64_t uses_ = 0;
    std::vector<std::uint8_t> buffer_;
};

}  // namespace dreskel::rebuild
