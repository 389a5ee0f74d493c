// Whether the coded pictures of a clip are right where it lies in certain places: each is followed by its
// syntax to its last bit (H.264 and HEVC, formats/clip/picture_check.h; JPEG), which needs neither the
// pictures before it nor a player's decoder.
#pragma once

#include <map>
#include <memory>
#include <vector>

#include "formats/clip/picture_check.h"
#include "rebuild/clip_index.h"

namespace dreskel::rebuild {

class SampleJudge {
  public:
    // The index must outlive it.
    SampleJudge(CardView& card, const LooseIndex& index);

    struct Verdict {
        bool wrong = false;         // a picture is
        std::uint64_t reached = 0;  // byte of the file up to which nothing is wrong, where something is
        bool certain = false;       // nothing is wrong, and no join in between could have gone unnoticed
    };
    // Of the pictures that reach in between two bytes of the file, whose pieces end at multiples of
    // `cluster`.
    Verdict judge(const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to,
                  std::uint64_t cluster);

  private:
    struct Picture {
        const isobmff::SampleTrack* track = nullptr;
        isobmff::Sample sample;
        std::uint64_t end() const { return sample.offset + sample.size; }
    };
    enum class Outcome { Right, Wrong, NotFollowed };
    Outcome follow(const Picture& picture, Bytes coded, std::uint64_t& fault);

    CardView& card_;
    std::vector<Picture> pictures_;  // by their place in the file
    std::map<const isobmff::SampleTrack*, std::unique_ptr<PictureCheck>> checks_;
    std::vector<std::uint8_t> buffer_;
};

}  // namespace dreskel::rebuild
