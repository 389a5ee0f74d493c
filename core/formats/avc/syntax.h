// The elements of macroblocks in one of the two entropy codings (ITU-T H.264, 9.1 to 9.3). Once something is
// read that cannot be, `wrong()` says what.
#pragma once

#include <cstdint>
#include <memory>

#include "base/bytes.h"
#include "formats/avc/macroblock.h"
#include "formats/avc/slice_head.h"

namespace dreskel::avc {

class Syntax {
  public:
    struct Type {
        bool intra = false;
        unsigned number = 0;  // of Tables 7-11, 7-13 and 7-14
    };

    virtual ~Syntax() = default;

    // mb_field_decoding_flag; whether the pairs to the left and above are of fields.
    virtual bool fieldPair(bool left, bool above) = 0;
    virtual bool skipped(const Neighbours& near) = 0;
    virtual Type type(const Neighbours& near) = 0;
    virtual unsigned subType() = 0;
    virtual bool transform8(const Neighbours& near) = 0;
    virtual void intraMode() = 0;  // prev_intra4x4_pred_mode_flag and rem_intra4x4_pred_mode
    virtual unsigned chromaMode(const Neighbours& near) = 0;
    // Below `count`, which is two or more.
    virtual unsigned reference(const Macroblock& now, const Neighbours& near, unsigned list, unsigned quarter,
                               unsigned count) = 0;
    // How far it differs, without its sign; `index` in rows of blocks of four by four.
    virtual unsigned difference(const Macroblock& now, const Neighbours& near, unsigned list, unsigned index,
                                unsigned direction) = 0;
    struct Pattern {
        unsigned luma = 0, chroma = 0;
    };
    virtual Pattern pattern(const Macroblock& now, const Neighbours& near) = 0;
    virtual int qpDelta(bool beforeDiffered) = 0;
    virtual void plain(std::size_t bits) = 0;  // pcm_alignment_zero_bits and the samples
    // How many coefficients there are.
    virtual unsigned coefficients(const Macroblock& now, const Neighbours& near, const BlockPlace& place) = 0;
    // After a macroblock: the slice is over.
    virtual bool ends() = 0;
    // And it ended with its last bit and its last byte.
    virtual bool endsClean() const = 0;

    // For going on from here with other bytes behind the first `needed()`, which stay the same.
    virtual std::unique_ptr<Syntax> goOnIn(Bytes body) const = 0;
    virtual std::size_t needed() const = 0;
    virtual std::size_t position() const = 0;  // bytes
    virtual bool overrun() const = 0;
    const char* wrong() const { return wrong_; }

  protected:
    void fail(const char* why) {
        if (wrong_ == nullptr) wrong_ = why;
    }

  private:
    const char* wrong_ = nullptr;
};

// `body` must outlive it.
std::unique_ptr<Syntax> arithmeticSyntax(Bytes body, const Sequence& sequence, const SliceHead& head);
std::unique_ptr<Syntax> variableLengthSyntax(Bytes body, const Sequence& sequence, const SliceHead& head);

}  // namespace dreskel::avc
