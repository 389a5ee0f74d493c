// Random access to a source for everything that comes after the sequential pass. Remembers what could not
// be read, so that a bad place is tried once and is zeros from then on.
#pragma once

#include <memory>
#include <mutex>

#include "base/words.h"
#include "source/source.h"

namespace dreskel {

// Safe to use from several threads.
class CardView {
  public:
    explicit CardView(std::shared_ptr<Source> source) : source_(std::move(source)) {}

    const Source& source() const { return *source_; }
    std::uint64_t size() const { return source_->size(); }

    // Fills `into`; zeros where the card cannot be read. Past the end of the source it gives fewer bytes.
    std::size_t read(std::uint64_t offset, MutableBytes into);

    void markUnreadable(ByteRange range);
    // What could not be read at first and now can.
    void markReadable(ByteRange range);
    RangeSet unreadable() const;
    std::vector<Piece> pieces(ByteRange range) const;

  private:
    std::shared_ptr<Source> source_;
    mutable std::mutex mutex_;
    RangeSet unreadable_;
};

// The bytes of a file, read through its pieces.
class PieceReader {
  public:
    PieceReader(CardView& card, std::vector<Piece> pieces);
    PieceReader(CardView& card, const std::vector<ByteRange>& places);

    std::uint64_t size() const { return size_; }
    // Fewer bytes than asked for at the end of the file only.
    std::size_t read(std::uint64_t at, MutableBytes into);

  private:
    CardView& card_;
    std::vector<Piece> pieces_;
    std::vector<std::uint64_t> starts_;
    std::uint64_t size_ = 0;
};

}  // namespace dreskel
