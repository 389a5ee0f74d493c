#include "source/card_view.h"

#include <algorithm>

#include "source/tolerant_read.h"

namespace dreskel {

std::size_t CardView::read(std::uint64_t offset, MutableBytes into) {
    if (offset >= size()) return 0;
    const auto count = static_cast<std::size_t>(std::min<std::uint64_t>(into.size(), size() - offset));
    const ByteRange wanted{offset, count};
    std::vector<ByteRange> readable;
    {
        const std::lock_guard lock(mutex_);
        if (!unreadable_.intersects(wanted)) {
            readable.push_back(wanted);
        } else {
            readable = unreadable_.gaps(wanted);
            std::fill_n(into.begin(), count, std::uint8_t{0});
        }
    }
    for (const auto& range : readable) {
        const auto part = into.subspan(static_cast<std::size_t>(range.offset - offset),
                                       static_cast<std::size_t>(range.length));
        if (source_->read(range.offset, part).count == part.size()) continue;
        for (const auto& bad : readTolerant(*source_, range.offset, part)) markUnreadable(bad);
    }
    return count;
}

void CardView::markUnreadable(ByteRange range) {
    const std::lock_guard lock(mutex_);
    unreadable_.add(range);
}

void CardView::markReadable(ByteRange range) {
    const std::lock_guard lock(mutex_);
    unreadable_.remove(range);
}

RangeSet CardView::unreadable() const {
    const std::lock_guard lock(mutex_);
    return unreadable_;
}

std::vector<Piece> CardView::pieces(ByteRange range) const {
    const std::lock_guard lock(mutex_);
    return piecesOf(range, unreadable_);
}

namespace {

std::vector<Piece> piecesAt(const std::vector<ByteRange>& places) {
    std::vector<Piece> pieces;
    for (const auto& place : places) pieces.push_back({PieceFrom::Card, place.offset, place.length, {}});
    return pieces;
}

}  // namespace

PieceReader::PieceReader(CardView& card, const std::vector<ByteRange>& places)
    : PieceReader(card, piecesAt(places)) {}

PieceReader::PieceReader(CardView& card, std::vector<Piece> pieces)
    : card_(card), pieces_(std::move(pieces)) {
    for (const auto& piece : pieces_) {
        starts_.push_back(size_);
        size_ += piece.length;
    }
}

std::size_t PieceReader::read(std::uint64_t at, MutableBytes into) {
    std::size_t filled = 0;
    while (filled < into.size() && at < size_) {
        const auto next = std::upper_bound(starts_.begin(), starts_.end(), at);
        const auto index = static_cast<std::size_t>(next - starts_.begin()) - 1;
        const auto& piece = pieces_[index];
        const auto inside = at - starts_[index];
        const auto count =
            static_cast<std::size_t>(std::min<std::uint64_t>(piece.length - inside, into.size() - filled));
        const auto part = into.subspan(filled, count);
        if (piece.from == PieceFrom::Card) {
            if (card_.read(piece.offset + inside, part) < count) return filled;
        } else if (piece.made && piece.made->size() >= inside + count) {
            std::copy_n(piece.made->begin() + static_cast<std::ptrdiff_t>(inside), count, part.begin());
        } else {
            std::fill(part.begin(), part.end(), std::uint8_t{0});
        }
        filled += count;
        at += count;
    }
    return filled;
}

}  // namespace dreskel
