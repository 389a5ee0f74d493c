#include <algorithm>
#include <array>
#include <vector>

#include "formats/webp/bool_decoder.h"
#include "formats/webp/coded_picture.h"
#include "formats/webp/vp8_tables.h"

namespace dreskel::webp {
namespace {

// What encoders write behind the last bit of a partition; and how far the decoder looks ahead of it.
constexpr std::uint64_t kMostPadding = 5, kMostLookAhead = 2;

enum BlockKind : std::size_t { LumaBehindDc = 0, LumaDc = 1, Chroma = 2, LumaAll = 3 };

// Which blocks beside and above have coefficients, and the modes of luma subblocks, of one macroblock.
struct Neighbour {
    std::array<std::uint8_t, 4> modes{};  // B_DC_PRED
    std::array<std::uint8_t, 4> luma{};
    std::array<std::array<std::uint8_t, 2>, 2> chroma{};
    std::uint8_t dc = 0;
};

// One frame, front to back. The header's fields are those of RFC 6386, 9.2 to 9.11 and 19.2.
class KeyFrame {
  public:
    KeyFrame(Bytes first, Bytes behind, std::uint32_t width, std::uint32_t height)
        : head_(first),
          firstLength_(first.size()),
          behind_(behind),
          columns_((width + 15) / 16),
          rows_((height + 15) / 16),
          above_(columns_) {}

    std::string follow();

  private:
    void segments();
    void filters();
    void chances();
    bool partitions();
    void macroblock(Neighbour& above, Neighbour& left, BoolDecoder& data);
    bool modes(Neighbour& above, Neighbour& left);  // whether there is one for each subblock
    void coefficients(Neighbour& above, Neighbour& left, bool bySubblock, BoolDecoder& data);
    bool block(BlockKind kind, std::size_t beside, std::size_t first, BoolDecoder& data) const;
    static bool endsWith(const BoolDecoder& data, std::uint64_t length) {
        return data.needed() <= length + kMostLookAhead && length <= data.needed() + kMostPadding;
    }

    BoolDecoder head_;
    std::uint64_t firstLength_;
    Bytes behind_;
    std::uint32_t columns_, rows_;
    std::vector<Neighbour> above_;
    std::vector<BoolDecoder> data_;
    std::vector<std::uint64_t> lengths_;
    CoefficientChances chances_ = kUsualChances;
    bool segmentMap_ = false, maySkip_ = false;
    std::array<std::uint32_t, 3> segmentChances_{255, 255, 255};
    std::uint32_t skipChance_ = 0;
};

void KeyFrame::segments() {
    if (!head_.flag()) return;
    segmentMap_ = head_.flag();
    if (head_.flag()) {
        head_.flag();
        for (const int bits : {7, 6}) {
            for (int i = 0; i < 4; ++i) {
                if (head_.flag()) head_.number(bits + 1);
            }
        }
    }
    for (auto& chance : segmentChances_) {
        if (segmentMap_ && head_.flag()) chance = head_.number(8);
    }
}

void KeyFrame::filters() {
    head_.number(1 + 6 + 3);
    if (!head_.flag() || !head_.flag()) return;
    for (int i = 0; i < 8; ++i) {
        if (head_.flag()) head_.number(7);
    }
}

bool KeyFrame::partitions() {
    const auto count = std::size_t{1} << head_.number(2);
    std::uint64_t at = 3 * (count - 1);
    if (at > behind_.size()) return false;
    for (std::size_t i = 0; i < count; ++i) {
        const auto left = behind_.size() - at;
        std::uint64_t length = left;
        if (i + 1 < count) length = ByteReader(behind_.subspan(3 * i, 3), Endian::Little).u24();
        if (length > left) return false;
        data_.emplace_back(slice(behind_, at, length));
        lengths_.push_back(length);
        at += length;
    }
    return true;
}

void KeyFrame::chances() {
    for (std::size_t kind = 0; kind < 4; ++kind) {
        for (std::size_t band = 0; band < 8; ++band) {
            for (std::size_t beside = 0; beside < 3; ++beside) {
                for (std::size_t i = 0; i < 11; ++i) {
                    if (head_.bit(kChangeChances[kind][band][beside][i]))
                        chances_[kind][band][beside][i] = static_cast<std::uint8_t>(head_.number(8));
                }
            }
        }
    }
    maySkip_ = head_.flag();
    if (maySkip_) skipChance_ = head_.number(8);
}

bool KeyFrame::modes(Neighbour& above, Neighbour& left) {
    enum : std::uint8_t { Dc, TrueMotion, Vertical, Horizontal };
    const bool bySubblock = !head_.bit(145);
    if (!bySubblock) {
        const auto mode =
            head_.bit(156) ? (head_.bit(128) ? TrueMotion : Horizontal) : (head_.bit(163) ? Vertical : Dc);
        above.modes.fill(mode);
        left.modes.fill(mode);
    } else {
        // Section 11.2: below zero the mode, otherwise where the two branches stand.
        constexpr std::array<std::int8_t, 18> tree{0,  2,  -1, 4,  -2, 6,  8,  12, -3,
                                                   10, -5, -6, -4, 14, -7, 16, -8, -9};
        for (auto& beside : left.modes) {
            for (auto& over : above.modes) {
                const auto& chances = kSubblockModes[over][beside];
                std::size_t at = 0;
                int next = 0;
                do {
                    next = tree[at + (head_.bit(chances[at >> 1]) ? 1 : 0)];
                    at = static_cast<std::size_t>(std::max(next, 0));
                } while (next > 0);
                over = beside = static_cast<std::uint8_t>(-next);
            }
        }
    }
    if (head_.bit(142) && head_.bit(114)) head_.bit(183);  // how colours are predicted
    return bySubblock;
}

// Section 13.2 and 13.3. Whether the block has coefficients.
bool KeyFrame::block(BlockKind kind, std::size_t beside, std::size_t first, BoolDecoder& data) const {
    constexpr std::array<std::uint8_t, 17> bands{0, 1, 2, 3, 6, 4, 5, 6, 6, 6, 6, 6, 6, 6, 6, 7, 0};
    constexpr std::array<std::array<std::uint8_t, 12>, 4> further{{
        {173, 148, 140, 0},
        {176, 155, 140, 135, 0},
        {180, 157, 141, 134, 130, 0},
        {254, 254, 243, 230, 196, 177, 153, 140, 133, 130, 129, 0},
    }};
    const auto& all = chances_[kind];
    const std::uint8_t* chance = all[bands[first]][beside].data();
    for (auto at = first; at < 16; ++at) {
        if (!data.bit(chance[0])) return at > first;
        while (!data.bit(chance[1])) {
            if (++at == 16) return true;
            chance = all[bands[at]][0].data();
        }
        const auto& next = all[bands[at + 1]];
        if (!data.bit(chance[2])) {
            chance = next[1].data();
        } else {
            if (!data.bit(chance[3])) {
                if (data.bit(chance[4])) data.bit(chance[5]);
            } else if (!data.bit(chance[6])) {
                if (!data.bit(chance[7])) {
                    data.bit(159);
                } else {
                    data.bit(165);
                    data.bit(145);
                }
            } else {
                const std::size_t high = data.bit(chance[8]) ? 1 : 0;
                const std::size_t low = data.bit(chance[9 + high]) ? 1 : 0;
                for (const auto* extra = further[2 * high + low].data(); *extra != 0; ++extra)
                    data.bit(*extra);
            }
            chance = next[2].data();
        }
        data.flag();  // the sign
    }
    return true;
}

void KeyFrame::coefficients(Neighbour& above, Neighbour& left, bool bySubblock, BoolDecoder& data) {
    auto kind = LumaAll;
    if (!bySubblock) {
        above.dc = left.dc =
            block(LumaDc, std::size_t{above.dc} + left.dc, 0, data) ? std::uint8_t{1} : std::uint8_t{0};
        kind = LumaBehindDc;
    }
    for (auto& beside : left.luma) {
        for (auto& over : above.luma) {
            over = beside = block(kind, std::size_t{over} + beside, bySubblock ? 0 : 1, data) ? 1 : 0;
        }
    }
    for (std::size_t plane = 0; plane < 2; ++plane) {
        for (auto& beside : left.chroma[plane]) {
            for (auto& over : above.chroma[plane])
                over = beside = block(Chroma, std::size_t{over} + beside, 0, data) ? 1 : 0;
        }
    }
}

void KeyFrame::macroblock(Neighbour& above, Neighbour& left, BoolDecoder& data) {
    if (segmentMap_) head_.bit(segmentChances_[head_.bit(segmentChances_[0]) ? 2 : 1]);
    const bool skipped = maySkip_ && head_.bit(skipChance_);
    const bool bySubblock = modes(above, left);
    if (!skipped) return coefficients(above, left, bySubblock, data);
    for (auto* beside : {&above, &left}) {
        beside->luma = {};
        beside->chroma = {};
        if (!bySubblock) beside->dc = 0;
    }
}

std::string KeyFrame::follow() {
    head_.number(2);  // colour space, clamping
    segments();
    filters();
    if (!partitions()) return "its parts reach over its end";
    head_.number(7);
    for (int i = 0; i < 5; ++i) {
        if (head_.flag()) head_.number(5);
    }
    head_.flag();
    chances();
    for (std::uint32_t row = 0; row < rows_; ++row) {
        const auto part = row % data_.size();
        Neighbour left;
        for (auto& above : above_) macroblock(above, left, data_[part]);
        if (head_.needed() > firstLength_ + kMostLookAhead ||
            data_[part].needed() > lengths_[part] + kMostLookAhead)
            return "its coded data end before the picture does, in row " + std::to_string(row + 1) + " of " +
                   std::to_string(rows_);
    }
    if (!endsWith(head_, firstLength_)) return "its picture ends before the coded data do";
    for (std::size_t i = 0; i < data_.size(); ++i) {
        if (!endsWith(data_[i], lengths_[i])) return "its picture ends before the coded data do";
    }
    return {};
}

}  // namespace

Followed followLossy(Bytes frame, std::uint64_t most) {
    Followed found;
    ByteReader reader(frame, Endian::Little);
    const auto tag = reader.u24();
    const auto start = reader.take(3);
    const auto width = reader.u16() & 0x3fffU;
    const auto height = reader.u16() & 0x3fffU;
    const auto firstLength = tag >> 5;
    if (!reader.ok() || (tag & 1U) != 0 || (tag >> 1 & 7U) > 3 || !startsWith(start, "\x9d\x01\x2a") ||
        width == 0 || height == 0) {
        found.wrong = "it holds no key frame";
        return found;
    }
    found.width = width;
    found.height = height;
    if (std::uint64_t{width} * height > most) {
        found.tooLarge = true;
        return found;
    }
    if (firstLength > reader.left()) {
        found.wrong = "its parts reach over its end";
        return found;
    }
    const auto first = reader.take(firstLength);
    found.wrong = KeyFrame(first, reader.take(reader.left()), width, height).follow();
    return found;
}

}  // namespace dreskel::webp
