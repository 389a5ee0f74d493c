// Bounded views over bytes that come from a stranger's card. Nothing here owns memory and nothing
// here can read outside the view it was given. Safe to use from any thread.
#pragma once

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace dreskel {

using Bytes = std::span<const std::uint8_t>;
using MutableBytes = std::span<std::uint8_t>;

// `count` bytes from `offset`, or fewer where the view ends first; never outside the view.
inline Bytes slice(Bytes all, std::uint64_t offset, std::uint64_t count) {
    if (offset >= all.size()) return {};
    const auto left = all.size() - static_cast<std::size_t>(offset);
    return all.subspan(static_cast<std::size_t>(offset),
                       count < left ? static_cast<std::size_t>(count) : left);
}

inline bool startsWith(Bytes all, std::string_view text) {
    return all.size() >= text.size() && std::memcmp(all.data(), text.data(), text.size()) == 0;
}

enum class Endian { Little, Big };

// Reads numbers one after the other. Once a read would leave the view, `ok()` is false and every later
// read gives zero, so that a parser can check once at the end of a record.
class ByteReader {
  public:
    explicit ByteReader(Bytes bytes, Endian endian = Endian::Big) : bytes_(bytes), endian_(endian) {}

    bool ok() const { return ok_; }
    std::size_t position() const { return position_; }
    std::size_t left() const { return bytes_.size() - position_; }

    void seek(std::uint64_t position) {
        if (position > bytes_.size()) {
            fail();
        } else {
            position_ = static_cast<std::size_t>(position);
        }
    }
    void skip(std::uint64_t count) {
        if (count > left()) {
            fail();
        } else {
            position_ += static_cast<std::size_t>(count);
        }
    }

    std::uint8_t u8() { return static_cast<std::uint8_t>(number(1)); }
    std::uint16_t u16() { return static_cast<std::uint16_t>(number(2)); }
    std::uint32_t u24() { return static_cast<std::uint32_t>(number(3)); }
    std::uint32_t u32() { return static_cast<std::uint32_t>(number(4)); }
    std::uint64_t u64() { return number(8); }

    Bytes take(std::uint64_t count) {
        if (count > left()) {
            fail();
            return {};
        }
        const auto taken = bytes_.subspan(position_, static_cast<std::size_t>(count));
        position_ += taken.size();
        return taken;
    }

    // Text up to `count` bytes; stops at the first NUL, and keeps printable ASCII only.
    std::string text(std::uint64_t count) {
        std::string out;
        for (const auto byte : take(count)) {
            if (byte == 0) break;
            if (byte >= 0x20 && byte < 0x7f) out.push_back(static_cast<char>(byte));
        }
        while (!out.empty() && out.back() == ' ') out.pop_back();
        return out;
    }

  private:
    void fail() {
        ok_ = false;
        position_ = bytes_.size();
    }
    std::uint64_t number(std::size_t count) {
        if (count > left()) {
            fail();
            return 0;
        }
        std::uint64_t value = 0;
        for (std::size_t i = 0; i < count; ++i) {
            const std::uint64_t byte = bytes_[position_ + i];
            value |= endian_ == Endian::Big ? byte << (8 * (count - 1 - i)) : byte << (8 * i);
        }
        position_ += count;
        return value;
    }

    Bytes bytes_;
    Endian endian_;
    std::size_t position_ = 0;
    bool ok_ = true;
};

// Sum and product that say so when they do not fit, for sizes that a card states.
inline std::optional<std::uint64_t> checkedAdd(std::uint64_t a, std::uint64_t b) {
    std::uint64_t sum = 0;
    if (__builtin_add_overflow(a, b, &sum)) return std::nullopt;
    return sum;
}
inline std::optional<std::uint64_t> checkedMultiply(std::uint64_t a, std::uint64_t b) {
    std::uint64_t product = 0;
    if (__builtin_mul_overflow(a, b, &product)) return std::nullopt;
    return product;
}

}  // namespace dreskel
