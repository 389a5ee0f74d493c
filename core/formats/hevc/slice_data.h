// Follows the data of slice segments through every syntax element (ITU-T H.265, 7.3.8), without rebuilding
// samples. Decoders take foreign bytes for coded blocks as long as they decode to something; what tells them
// is that a segment must end with its last block, its last bit and its last byte at once.
#pragma once

#include <memory>
#include <optional>
#include <utility>

#include "formats/clip/picture_check.h"
#include "formats/clip/slice_stops.h"
#include "formats/hevc/contexts.h"
#include "formats/hevc/picture_grid.h"
#include "formats/hevc/slice_head.h"

namespace dreskel::hevc {

// The arithmetic decoder with its contexts, and what else is learnt along the way.
struct Entropy {
    Contexts contexts{};
    std::array<std::uint8_t, 4> rice{};  // StatCoeff of 9.3.4.2.6
};

// One for pictures of one kind, one after the other; their segments in their order.
class SliceData {
  public:
    struct State {
        ArithmeticDecoder arithmetic;
        Entropy entropy, afterRow, afterSegment;
        std::uint32_t next = 0, slices = 0;
        bool starts = false, dependent = false;
    };
    using Stops = SliceStops<State>;
    // Between two segments.
    struct Between {
        Entropy afterRow, afterSegment;
        std::uint32_t next = 0, slices = 0;
    };

    SliceData(std::shared_ptr<const Sequence> sequence, std::shared_ptr<const PictureSet> picture,
              const SliceHead&)
        : keptSequence_(std::move(sequence)),
          keptPicture_(std::move(picture)),
          sequence_(*keptSequence_),
          picture_(*keptPicture_),
          grid_(sequence_, picture_) {}

    bool isFor(const Sequence* sequence, const PictureSet* picture, const SliceHead&) const {
        return sequence == keptSequence_.get() && picture == keptPicture_.get();
    }
    // A new picture. What is left of the one before is of other slices, which nothing refers to.
    void begin() { next_ = 0; }
    // Of the same picture, to go back to.
    Between between() const { return {afterRow_, afterSegment_, next_, slices_}; }
    void goBackTo(const Between& place) {
        afterRow_ = place.afterRow;
        afterSegment_ = place.afterSegment;
        next_ = place.next;
        slices_ = place.slices;
    }
    // `body`: unescaped, behind the unit's header, its padding cut off. It is taken up from the last of the
    // stops, if there are any; the blocks of one picture only may be gone back to.
    std::optional<PictureFault> slice(const SliceHead& head, Bytes body, Stops* stops = nullptr);
    // Every tree block has come.
    bool complete() const { return next_ == grid_.count(); }

  private:
    struct CodingBlock {
        int x = 0, y = 0;
        unsigned size = 0;                                 // logarithm
        bool intra = true, bypass = false, split = false;  // split: into four parts
        bool plainShape = true;                            // one part
        std::array<std::uint8_t, 4> luma{}, chroma{};      // directions of intra prediction
        std::array<std::uint8_t, 4> chromaMode{};          // intra_chroma_pred_mode
    };
    struct Coded {
        std::array<bool, 2> cb{}, cr{};
        bool any() const { return cb[0] || cb[1] || cr[0] || cr[1]; }
    };
    struct Transform {
        int x = 0, y = 0, baseX = 0, baseY = 0;
        unsigned size = 0, depth = 0, index = 0;
    };

    // Whether contexts are started with the next block.
    bool takeUp(const State& state, Bytes body);
    State state(bool starts) const {
        return {arithmetic_, entropy_, afterRow_, afterSegment_, next_, slices_, starts, head_.dependent};
    }
    void startContexts(std::uint32_t inRows);
    std::optional<PictureFault> fault(const char* why) const {
        return PictureFault{arithmetic_.position(), why};
    }
    bool bit(std::size_t place) { return arithmetic_.decide(entropy_.contexts[place]); }
    std::uint32_t exponentialGolomb(unsigned order);
    void wrong(const char* why) {
        if (wrong_ == nullptr) wrong_ = why;
    }

    void treeBlock(std::uint32_t inRows);
    void sampleOffsets(std::uint32_t inRows);
    void quadtree(int x, int y, unsigned size, unsigned depth);
    void codingBlock(int x, int y, unsigned size, unsigned depth);
    unsigned partMode(const CodingBlock& block);
    void interParts(const CodingBlock& block, unsigned mode, unsigned depth, bool& merged);
    bool interPart(unsigned wide, unsigned high, unsigned depth);
    void vectorDifference();
    unsigned counted(std::size_t place, unsigned contexts, unsigned most);
    void mergeIndex();
    void intraParts(CodingBlock& block);
    std::uint8_t lumaDirection(int x, int y, unsigned predicted, unsigned remaining) const;
    std::uint8_t chromaDirection(std::uint8_t luma, unsigned mode) const;
    void plainSamples(unsigned size);
    void transformTree(const CodingBlock& block, const Transform& at, const Coded& above, unsigned maxDepth);
    void transformUnit(const CodingBlock& block, const Transform& at, const Coded& coded, bool luma);
    void quantisation(const CodingBlock& block, const Coded& coded);
    void chromaResiduals(const CodingBlock& block, const Transform& at, const Coded& coded, bool luma);
    void residual(const CodingBlock& block, unsigned size, unsigned colour, std::uint8_t direction);
    unsigned lastPrefix(std::size_t place, unsigned size, unsigned colour);
    std::uint32_t remainingLevel(ArithmeticDecoder& arithmetic, unsigned rice);

    std::shared_ptr<const Sequence> keptSequence_;
    std::shared_ptr<const PictureSet> keptPicture_;
    const Sequence& sequence_;
    const PictureSet& picture_;
    PictureGrid grid_;
    SliceHead head_;
    ArithmeticDecoder arithmetic_;
    Entropy entropy_, afterRow_, afterSegment_;
    std::uint32_t next_ = 0;    // tree block that comes next, in the order of tiles
    std::uint32_t slices_ = 0;  // so far; the last one is in hand
    std::uint32_t current_ = 0;
    bool qpDeltaCoded_ = false, chromaOffsetCoded_ = false;
    const char* wrong_ = nullptr;
};

}  // namespace dreskel::hevc
