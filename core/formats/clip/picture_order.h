// What the head of a coded picture tells without decoding it: whether a new picture begins, whether decoding
// can begin with it, and its place in the order of showing (ITU-T H.264, 7.3.2.1, 7.3.3 and 8.2.1; H.265,
// 7.3.2.2, 7.3.6.1 and 8.3.1).
#pragma once

#include <cstdint>
#include <optional>

#include "base/bytes.h"

namespace dreskel {

enum class PictureCoding { Avc, Hevc };

// What a NAL unit is, by its first bytes.
enum class UnitKind { Impossible, Slice, Leading, Other };  // Leading: stands in front of a picture's slices

// `unit`: without its length or start code.
UnitKind unitKind(PictureCoding coding, Bytes unit);

struct SliceHead {
    bool first = false;   // of its picture
    bool sync = false;    // decoding can begin here
    bool resets = false;  // the order of showing is counted anew from here
    bool field = false, bottom = false;
    std::uint32_t frame = 0;           // of a field: its frame's number
    std::optional<std::uint32_t> lsb;  // of the order of showing; nothing where it is that of coding
};

// The parameter sets of one stream, as far as slices need them.
class PictureOrder {
  public:
    explicit PictureOrder(PictureCoding coding) : coding_(coding) {}
    // A parameter set; others are passed over. Sets of several numbers are not told apart: recorders use one.
    void learn(Bytes unit);
    bool ready() const { return haveSequence_ && (coding_ == PictureCoding::Avc || havePicture_); }
    // Nothing when the unit is no slice. Without parameter sets `first` and `sync` are still told.
    std::optional<SliceHead> read(Bytes unit) const;
    unsigned lsbBits() const { return lsbBits_; }
    PictureCoding coding() const { return coding_; }

  private:
    void learnAvc(Bytes unit);
    void learnHevc(Bytes unit);

    PictureCoding coding_;
    bool haveSequence_ = false, havePicture_ = false;
    unsigned lsbBits_ = 0;  // 0: shown in the order of coding
    unsigned frameBits_ = 4;
    bool separatePlanes_ = false, framesOnly_ = true;  // of H.264, and of H.265 the first
    unsigned extraBits_ = 0;                           // of H.265's slices
    bool outputFlag_ = false;
};

}  // namespace dreskel
