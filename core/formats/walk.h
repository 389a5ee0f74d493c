// A walk over a file from its front to its back, record by record, for formats whose records say how long
// they are or whose frames follow one another. A format derives from it and says what a record looks like.
#pragma once

#include <algorithm>

#include "formats/format.h"

namespace dreskel {

class Walk : public Measure {
  public:
    std::optional<Want> want() const final;
    void give(Bytes bytes) final;
    Measured finish() final;
    bool giveSome(Bytes bytes) final;
    bool sound() const final { return why_.empty(); }
    std::uint64_t reached() const final { return std::min(position_, rightUpTo_); }
    std::uint64_t wrongAt() const final { return std::max(position_, wrongAt_); }

  protected:
    explicit Walk(std::size_t portion) : portion_(portion) {}

    // `bytes` begin at position(); they are fewer than asked for only at the end of the source (`last`).
    // Takes in whole records and moves on; one that does not move on, or calls close() or breakOff(), ends
    // the walk.
    virtual void visit(Bytes bytes, bool last) = 0;
    // What is known at the end, once the file was accepted: format, kind, description.
    virtual void describe(Measured& into) = 0;

    // Whether visit() takes in the whole records of any number of bytes; otherwise it counts on as many as
    // were asked for.
    virtual bool takesAny() const { return false; }
    // Whether the file may be over at position(), should the source be over there.
    virtual bool mayEnd() const { return false; }

    std::uint64_t position() const { return position_; }
    void advance(std::uint64_t count);
    // From here on so many bytes are asked for at once.
    void ask(std::size_t portion) { portion_ = portion; }
    // There is a file here, whatever becomes of it.
    void accept() { accepted_ = true; }
    bool accepted() const { return accepted_; }
    // It ends here, as it should.
    void close() { closed_ = over_ = true; }
    // It ends here as far as one can tell, and `rest` stands at position(). Records that fill clusters
    // without regard to their borders rarely end at one, but do where the further clusters are others'; the
    // last record of `record` bytes is then half another's. Blank slack behind it says that this is the end
    // after all, and so does nothing at all, but at a border.
    void closeRun(std::uint64_t record, Bytes rest);
    // It does not go on as it should; `at`: where in the record that shows, if that is known.
    void breakOff(const std::string& why, std::uint64_t at = 0);
    // The same, but what follows further on is looked for.
    void goAstray(const std::string& why, std::uint64_t at);
    // It goes on, but is not whole: the record at position() is not what it should be, or the one at
    // `rightUpTo`.
    void damage(const std::string& why) { damage(why, position_); }
    void damage(const std::string& why, std::uint64_t rightUpTo);

  private:
    std::uint64_t position_ = 0, wrongAt_ = 0, rightUpTo_ = UINT64_MAX;
    std::size_t portion_;
    bool accepted_ = false, closed_ = false, over_ = false;
    std::string why_;
};

}  // namespace dreskel
