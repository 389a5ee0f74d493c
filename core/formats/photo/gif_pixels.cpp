#include "formats/photo/gif_pixels.h"

#include <algorithm>

namespace dreskel {

GifPixels::GifPixels(unsigned codeSize, std::uint64_t pixels)
    : codeSize_(codeSize), bits_(codeSize + 1), next_(clear() + 2), left_(pixels) {
    std::fill_n(lengths_.begin(), clear(), 1U);
}

const char* GifPixels::code(unsigned code) {
    if (code == clear()) {
        bits_ = codeSize_ + 1;
        next_ = clear() + 2;
        before_ = 0;
        return nullptr;
    }
    if (code == clear() + 1) {
        ended_ = true;
        return left_ > 0 ? "a picture of it ends too early" : nullptr;
    }
    // One that is not known yet stands for what came before and its first pixel once more.
    const bool coming = code == next_ && before_ > 0 && next_ < lengths_.size();
    if (code >= next_ && !coming) return "a code that cannot stand there";
    const auto length = coming ? before_ + 1 : lengths_[code];
    if (before_ > 0 && next_ < lengths_.size()) {
        lengths_[next_++] = before_ + 1;
        if (next_ == 1U << bits_ && bits_ < kLongest) ++bits_;
    }
    before_ = length;
    if (length > left_) return "more pixels than its picture has";
    left_ -= length;
    return nullptr;
}

const char* GifPixels::feed(Bytes bytes) {
    if (wrong_) return nullptr;
    const char* why = nullptr;
    for (const auto byte : bytes) {
        // Encoders fill up with zeros, and some write one byte of them more.
        if (ended_ && (byte != 0 || ++behind_ > 1)) why = "its data go on behind a picture's end";
        pending_ |= std::uint32_t{byte} << have_;
        have_ += 8;
        while (have_ >= bits_ && !ended_ && why == nullptr) {
            if (left_ == 0 && pending_ == 0) {  // filling, and the code for the end was left out
                ended_ = true;
                break;
            }
            const auto next = pending_ & ((1U << bits_) - 1);
            pending_ >>= bits_;
            have_ -= bits_;
            why = code(next);
        }
        if (ended_ && why == nullptr && pending_ != 0) why = "its data go on behind a picture's end";
        if (ended_) have_ = 0;
        if (why != nullptr) break;
    }
    wrong_ = why != nullptr;
    return why;
}

const char* GifPixels::finish() {
    // An encoder may leave out the code that ends a picture whose pixels have all come.
    if (wrong_ || left_ == 0) return nullptr;
    return "a picture of it ends too early";
}

}  // namespace dreskel
