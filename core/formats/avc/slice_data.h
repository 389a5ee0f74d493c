// Follows the data of slices through every syntax element (ITU-T H.264, 7.3.4 and 7.3.5), without rebuilding
// samples: a slice must end with its last macroblock and its last bit at once.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "formats/avc/syntax.h"
#include "formats/clip/picture_check.h"
#include "formats/clip/slice_stops.h"

namespace dreskel::avc {

// One for pictures (frames or fields) of one kind, one after the other; their slices in their order.
class SliceData {
  public:
    struct State {
        std::shared_ptr<const Syntax> syntax;
        std::size_t next = 0;
        std::uint32_t slices = 0;
        bool fieldTold = false, differed = false;
    };
    using Stops = SliceStops<State>;
    // Between two slices.
    struct Between {
        std::size_t next = 0;
        std::uint32_t slices = 0;
    };

    // `head`: of the first slice.
    SliceData(std::shared_ptr<const Sequence> sequence, std::shared_ptr<const PictureSet> picture,
              const SliceHead& head);

    bool isFor(const Sequence* sequence, const PictureSet* picture, const SliceHead& head) const {
        return sequence == sequence_.get() && picture == picture_.get() && head.field == field_;
    }
    // A new picture. What is left of the one before is of other slices, which nothing refers to.
    void begin() { next_ = 0; }
    // Of the same picture, to go back to.
    Between between() const { return {next_, slices_}; }
    void goBackTo(const Between& place) {
        next_ = place.next;
        slices_ = place.slices;
    }

    // `body`: unescaped, behind the unit's header. It is taken up from the last of the stops, if there are
    // any; the blocks of one picture only may be gone back to.
    std::optional<PictureFault> slice(const SliceHead& head, Bytes body, Stops* stops = nullptr);
    bool complete() const { return next_ == blocks_.size(); }

  private:
    // Blocks of four by four that are predicted together.
    struct Part {
        unsigned x = 0, y = 0, wide = 4, high = 4;
        bool first = true, second = false;  // the lists it refers to
    };

    std::optional<PictureFault> begin(const SliceHead& head, Bytes body);
    void takeUp(const State& state, Bytes body);
    State state(Bytes body) const { return {syntax_->goOnIn(body), next_, slices_, fieldTold_, differed_}; }
    Neighbours neighbours() const;
    Neighbours neighboursInPairs() const;
    // Of pairs of macroblocks: the one to the left or above, of the same slice, or null.
    const Macroblock* pairToTheLeft() const;
    const Macroblock* pairAbove() const;
    void beginMacroblock();
    void fieldOrFrame();
    void macroblock(const SliceHead& head);
    void intra(unsigned number);
    void inter(const SliceHead& head, unsigned number);
    void parts(const SliceHead& head, const std::vector<Part>& parts);
    bool quarters(const SliceHead& head, bool firstReference);
    void reference(const Part& part, unsigned list, unsigned count);
    void difference(const Part& part, unsigned list);
    void pattern(bool may8);
    void residual();
    void lumaBlocks();
    void chromaBlocks();

    std::shared_ptr<const Sequence> sequence_;
    std::shared_ptr<const PictureSet> picture_;
    bool field_;
    bool adaptive_;  // in pairs, the upper and the lower one after the other
    std::size_t wide_;
    std::vector<Macroblock> blocks_;
    std::size_t next_ = 0;
    std::uint32_t slices_ = 0;  // so far; the last one is in hand
    std::unique_ptr<Syntax> syntax_;
    Macroblock* now_ = nullptr;
    bool fieldTold_ = false;  // of the pair in hand, whether it is of fields
    bool differed_ = false;   // the quantisation, at the macroblock before
};

}  // namespace dreskel::avc
