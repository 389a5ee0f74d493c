// Bits of entropy-coded JPEG data (ITU-T T.81, F.2.2.5), in two steps: a segment is freed of its byte
// stuffing, then read without looking for it again.
#pragma once

#include <algorithm>
#include <cstdint>
#include <vector>

#include "base/bytes.h"

namespace dreskel::jpeg {

// Coded data up to the next marker, or up to the end of the window, without the zero behind each 0xff.
class CodedSegment {
  public:
    // From the start of `window`. The bytes are copied; memory is kept from one use to the next.
    void load(Bytes window) {
        clean_.clear();
        stuffed_.clear();
        marker_ = false;
        std::size_t at = 0;
        while (at < window.size()) {
            const auto* found =
                static_cast<const std::uint8_t*>(std::memchr(window.data() + at, 0xff, window.size() - at));
            const auto end =
                found == nullptr ? window.size() : static_cast<std::size_t>(found - window.data());
            clean_.insert(clean_.end(), window.begin() + static_cast<std::ptrdiff_t>(at),
                          window.begin() + static_cast<std::ptrdiff_t>(end));
            // A lone 0xff at the end of the window may be either; what follows will tell.
            if (found == nullptr || end + 1 >= window.size()) return;
            if (window[end + 1] != 0) {
                marker_ = true;
                return;
            }
            stuffed_.push_back(clean_.size());
            clean_.push_back(0xff);
            at = end + 2;
        }
    }
    Bytes clean() const { return clean_; }
    // Where in the clean data the first run of zero bytes begins that is longer than what a reader fills in
    // for a place that it could not read; SIZE_MAX when there is none.
    std::size_t blankFrom() const {
        constexpr std::size_t kLong = 16384;
        constexpr std::size_t kStep = 4096;  // a long run holds one that is zero throughout
        for (std::size_t at = 0; at + kStep <= clean_.size(); at += kStep) {
            const auto zero = [](std::uint8_t byte) { return byte == 0; };
            const auto step = clean_.begin() + static_cast<std::ptrdiff_t>(at);
            if (*step != 0 || !std::all_of(step, step + kStep, zero)) continue;
            auto from = at;
            while (from > 0 && clean_[from - 1] == 0) --from;
            const auto end = std::find_if_not(step, clean_.end(), zero);
            if (static_cast<std::size_t>(end - clean_.begin()) - from >= kLong) return from;
        }
        return SIZE_MAX;
    }
    // It ends at a marker; otherwise the window has run out.
    bool endsAtMarker() const { return marker_; }
    // Where in the window a byte of the clean data stands.
    std::size_t inWindow(std::size_t clean) const { return clean + stuffedBefore(clean); }
    // The first byte of the clean data that stands at or behind a place in the window.
    std::size_t fromWindow(std::size_t place) const {
        std::size_t low = place - std::min(place, stuffed_.size());
        std::size_t high = place;
        while (low < high) {
            const auto middle = low + (high - low) / 2;
            if (inWindow(middle) < place) {
                low = middle + 1;
            } else {
                high = middle;
            }
        }
        return low;
    }

  private:
    std::size_t stuffedBefore(std::size_t clean) const {
        return static_cast<std::size_t>(std::lower_bound(stuffed_.begin(), stuffed_.end(), clean) -
                                        stuffed_.begin());
    }

    std::vector<std::uint8_t> clean_;
    std::vector<std::size_t> stuffed_;  // places in clean_ of each 0xff
    bool marker_ = false;
};

// Reads the clean bytes of a segment, which must outlive it. A plain value: a copy is a place to go back to.
class BitReader {
  public:
    BitReader() = default;
    explicit BitReader(Bytes clean) : data_(clean.data()), size_(clean.size()) {}

    // Makes at least 32 bits available, padded with zeros where the data end; see overrun(). No branch but
    // the one that tells the end: bits that are loaded again are the same bits.
    void fill() {
        if (next_ + 8 > size_) {
            *this = filledAtEnd(*this);  // a copy: the compiler keeps in registers what nothing points at
            return;
        }
        std::uint64_t word = 0;
        std::memcpy(&word, data_ + next_, 8);
        bits_ |= __builtin_bswap64(word) >> count_;
        next_ += static_cast<std::size_t>((63 - count_) >> 3);
        count_ |= 56;
    }
    std::uint32_t top() const { return static_cast<std::uint32_t>(bits_ >> 32); }
    void drop(int count) {
        bits_ <<= count;
        count_ -= count;
    }
    std::uint32_t take(int count) {  // 1 to 16 bits, after fill()
        const auto value = static_cast<std::uint32_t>(bits_ >> (64 - count));
        drop(count);
        return value;
    }
    void dropMany(int count) {  // any number
        for (; count > 32; count -= 32) {
            fill();
            drop(32);
        }
        fill();
        drop(count);
    }

    // More bits were used than there are: the data ended inside a block.
    bool overrun() const { return count_ < 0; }
    // Bits at hand; fewer than 32 after fill() only where the data end.
    int available() const { return count_; }
    // About: up to eight bytes ahead of the bit that is read next.
    std::size_t position() const { return next_; }

    // Where decoding can be taken up again: the byte that holds the next bit, and how many of its bits are
    // used.
    struct Mark {
        std::size_t byte = 0;
        int bitsUsed = 0;
    };
    Mark mark() const {
        if (count_ <= 0) return {next_, 0};
        const auto used = next_ * 8 - static_cast<std::size_t>(count_);
        return {used / 8, static_cast<int>(used % 8)};
    }
    // The first byte no bit of which has been used.
    std::size_t nextWholeByte() const {
        const auto here = mark();
        return here.byte + (here.bitsUsed > 0 ? 1 : 0);
    }

  private:
    static BitReader filledAtEnd(BitReader reader) {
        while (reader.count_ >= 0 && reader.count_ <= 56 && reader.next_ < reader.size_) {
            reader.bits_ |= static_cast<std::uint64_t>(reader.data_[reader.next_]) << (56 - reader.count_);
            ++reader.next_;
            reader.count_ += 8;
        }
        return reader;
    }

    const std::uint8_t* data_ = nullptr;
    std::size_t size_ = 0;
    std::size_t next_ = 0;
    std::uint64_t bits_ = 0;
    int count_ = 0;
};

}  // namespace dreskel::jpeg
