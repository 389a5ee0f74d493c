#include "formats/vp8/frame.h"

#include <algorithm>
#include <vector>

#include "formats/bool_decoder.h"
#include "formats/vp8/motion.h"

namespace dreskel::vp8 {
namespace {

constexpr const char* kEndsEarly = "its coded data end before the picture does";
constexpr const char* kEndsLate = "its picture ends before the coded data do";

enum BlockKind : std::size_t { LumaBehindDc = 0, LumaDc = 1, Chroma = 2, LumaAll = 3 };
enum LumaMode : std::uint8_t { Dc, TrueMotion, Vertical, Horizontal, BySubblock };

// Which blocks beside and above have coefficients, and the modes of luma subblocks, of one macroblock.
struct Neighbour {
    std::array<std::uint8_t, 4> modes{};  // B_DC_PRED
    std::array<std::uint8_t, 4> luma{};
    std::array<std::array<std::uint8_t, 2>, 2> chroma{};
    std::uint8_t dc = 0;
};

// One frame, front to back. The header's fields are those of 9.2 to 9.11 and 19.2.
class Frame {
  public:
    Frame(const FrameHead& head, std::uint32_t width, std::uint32_t height, Kept& kept)
        : key_(head.key),
          head_(head.first),
          behind_(head.behind),
          columns_((width + 15) / 16),
          rows_((height + 15) / 16),
          kept_(kept),
          above_(columns_),
          motion_(key_ ? 0 : columns_, rows_) {}

    std::optional<FrameFault> follow();

  private:
    void segments();
    void filters();
    void references();
    void chances();
    void modeChances();
    bool partitions();
    std::optional<FrameFault> macroblocks();
    void macroblock(std::uint32_t column, Neighbour& left, BoolDecoder& data);
    LumaMode keyLumaMode();
    LumaMode lumaMode();
    bool modes(Neighbour& above, Neighbour& left);  // whether there is one for each subblock
    bool moves(std::uint32_t column);               // the same of how it moves
    void coefficients(Neighbour& above, Neighbour& left, bool bySubblock, BoolDecoder& data);
    bool block(BlockKind kind, std::size_t beside, std::size_t first, BoolDecoder& data) const;
    std::uint8_t subblockMode(const std::array<std::uint8_t, 9>& chances);

    bool key_;
    BoolDecoder head_;
    Bytes behind_;
    std::uint32_t columns_, rows_;
    Kept& kept_;
    std::vector<Neighbour> above_;
    MotionField motion_;
    std::vector<BoolDecoder> data_;
    bool segmentMap_ = false, maySkip_ = false;
    std::array<std::uint32_t, 3> segmentChances_{255, 255, 255};
    std::uint32_t skipChance_ = 0;
    std::uint32_t insideChance_ = 0, lastChance_ = 0, goldenChance_ = 0;
};

void Frame::segments() {
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

void Frame::filters() {
    head_.number(1 + 6 + 3);
    if (!head_.flag() || !head_.flag()) return;
    for (int i = 0; i < 8; ++i) {
        if (head_.flag()) head_.number(7);
    }
}

bool Frame::partitions() {
    const auto count = std::size_t{1} << head_.number(2);
    std::uint64_t at = 3 * (count - 1);
    if (at > behind_.size()) return false;
    for (std::size_t i = 0; i < count; ++i) {
        const auto left = behind_.size() - at;
        std::uint64_t length = left;
        if (i + 1 < count) length = ByteReader(behind_.subspan(3 * i, 3), Endian::Little).u24();
        if (length > left) return false;
        data_.emplace_back(slice(behind_, at, length));
        at += length;
    }
    return true;
}

void Frame::chances() {
    for (std::size_t kind = 0; kind < 4; ++kind) {
        for (std::size_t band = 0; band < 8; ++band) {
            for (std::size_t beside = 0; beside < 3; ++beside) {
                for (std::size_t i = 0; i < 11; ++i) {
                    if (head_.bit(kChangeChances[kind][band][beside][i]))
                        kept_.coefficients[kind][band][beside][i] =
                            static_cast<std::uint8_t>(head_.number(8));
                }
            }
        }
    }
    maySkip_ = head_.flag();
    if (maySkip_) skipChance_ = head_.number(8);
}

LumaMode Frame::keyLumaMode() {
    if (!head_.bit(145)) return BySubblock;
    if (head_.bit(156)) return head_.bit(128) ? TrueMotion : Horizontal;
    return head_.bit(163) ? Vertical : Dc;
}

LumaMode Frame::lumaMode() {
    const auto& chances = kept_.lumaModes;
    if (!head_.bit(chances[0])) return Dc;
    if (!head_.bit(chances[1])) return head_.bit(chances[2]) ? Horizontal : Vertical;
    return head_.bit(chances[3]) ? BySubblock : TrueMotion;
}

std::uint8_t Frame::subblockMode(const std::array<std::uint8_t, 9>& chances) {
    // Section 11.2: below zero the mode, otherwise where the two branches stand.
    constexpr std::array<std::int8_t, 18> tree{0,  2,  -1, 4,  -2, 6,  8,  12, -3,
                                               10, -5, -6, -4, 14, -7, 16, -8, -9};
    std::size_t at = 0;
    int next = 0;
    do {
        next = tree[at + (head_.bit(chances[at >> 1]) ? 1 : 0)];
        at = static_cast<std::size_t>(std::max(next, 0));
    } while (next > 0);
    return static_cast<std::uint8_t>(-next);
}

bool Frame::modes(Neighbour& above, Neighbour& left) {
    const auto mode = key_ ? keyLumaMode() : lumaMode();
    if (mode != BySubblock) {
        above.modes.fill(mode);
        left.modes.fill(mode);
    } else {
        for (auto& beside : left.modes) {
            for (auto& over : above.modes)
                over = beside = subblockMode(key_ ? kSubblockModes[over][beside] : kPlainSubblockModes);
        }
    }
    constexpr std::array<std::uint8_t, 3> ofKeys{142, 114, 183};
    const auto& colours = key_ ? ofKeys : kept_.chromaModes;
    if (head_.bit(colours[0]) && head_.bit(colours[1])) head_.bit(colours[2]);
    return mode == BySubblock;
}

bool Frame::moves(std::uint32_t column) {
    const auto reference = !head_.bit(lastChance_) ? Last : !head_.bit(goldenChance_) ? Golden : Other;
    return motion_.read(column, reference, kept_.turned, kept_.motion, head_);
}

// Section 13.2 and 13.3. Whether the block has coefficients.
bool Frame::block(BlockKind kind, std::size_t beside, std::size_t first, BoolDecoder& data) const {
    constexpr std::array<std::uint8_t, 17> bands{0, 1, 2, 3, 6, 4, 5, 6, 6, 6, 6, 6, 6, 6, 6, 7, 0};
    constexpr std::array<std::array<std::uint8_t, 12>, 4> further{{
        {173, 148, 140, 0},
        {176, 155, 140, 135, 0},
        {180, 157, 141, 134, 130, 0},
        {254, 254, 243, 230, 196, 177, 153, 140, 133, 130, 129, 0},
    }};
    const auto& all = kept_.coefficients[kind];
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

void Frame::coefficients(Neighbour& above, Neighbour& left, bool bySubblock, BoolDecoder& data) {
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

void Frame::macroblock(std::uint32_t column, Neighbour& left, BoolDecoder& data) {
    auto& above = above_[column];
    if (segmentMap_) head_.bit(segmentChances_[head_.bit(segmentChances_[0]) ? 2 : 1]);
    const bool skipped = maySkip_ && head_.bit(skipChance_);
    bool bySubblock = false;
    if (!key_ && head_.bit(insideChance_)) {
        bySubblock = moves(column);
    } else {
        if (!key_) motion_.takeInside(column);
        bySubblock = modes(above, left);
    }
    if (!skipped) return coefficients(above, left, bySubblock, data);
    for (auto* beside : {&above, &left}) {
        beside->luma = {};
        beside->chroma = {};
        if (!bySubblock) beside->dc = 0;
    }
}

// Section 9.7: what the frame takes the place of.
void Frame::references() {
    const bool golden = head_.flag(), other = head_.flag();
    if (!golden) head_.number(2);
    if (!other) head_.number(2);
    kept_.turned[Golden] = head_.flag();
    kept_.turned[Other] = head_.flag();
}

// Sections 9.10 and 9.11.
void Frame::modeChances() {
    insideChance_ = head_.number(8);
    lastChance_ = head_.number(8);
    goldenChance_ = head_.number(8);
    const auto restate = [&](auto& chances) {
        if (!head_.flag()) return;
        for (auto& chance : chances) chance = static_cast<std::uint8_t>(head_.number(8));
    };
    restate(kept_.lumaModes);
    restate(kept_.chromaModes);
    for (std::size_t part = 0; part < 2; ++part) {
        auto& chances = kept_.motion[part].chances;
        for (std::size_t i = 0; i < chances.size(); ++i) {
            if (!head_.bit(kChangeMotion[part].chances[i])) continue;
            const auto stated = head_.number(7);
            chances[i] = static_cast<std::uint8_t>(stated == 0 ? 1 : stated << 1);
        }
    }
}

std::optional<FrameFault> Frame::follow() {
    if (key_) {
        kept_ = {};
        head_.number(2);  // colour space, clamping
    }
    segments();
    filters();
    if (!partitions()) return FrameFault{"its parts reach over its end"};
    head_.number(7);
    for (int i = 0; i < 5; ++i) {
        if (head_.flag()) head_.number(5);
    }
    if (!key_) references();
    const bool forOthers = head_.flag();
    const auto before = kept_;
    if (!key_) head_.flag();
    chances();
    if (!key_) modeChances();
    const auto fault = macroblocks();
    if (!forOthers) kept_ = before;
    return fault;
}

std::optional<FrameFault> Frame::macroblocks() {
    for (std::uint32_t row = 0; row < rows_; ++row) {
        const auto part = row % data_.size();
        Neighbour left;
        motion_.beginRow(row);
        for (std::uint32_t column = 0; column < columns_; ++column) macroblock(column, left, data_[part]);
        if (head_.overrun() || data_[part].overrun()) return FrameFault{kEndsEarly, row + 1, rows_};
    }
    if (!head_.endsHere()) return FrameFault{kEndsLate};
    for (const auto& data : data_) {
        if (!data.endsHere()) return FrameFault{kEndsLate};
    }
    return std::nullopt;
}

}  // namespace

std::optional<FrameHead> readFrameHead(Bytes frame) {
    FrameHead head;
    ByteReader reader(frame, Endian::Little);
    const auto tag = reader.u24();
    head.key = (tag & 1U) == 0;
    if ((tag >> 1 & 7U) > 3) return std::nullopt;
    if (head.key) {
        const auto start = reader.take(3);
        head.width = reader.u16() & 0x3fffU;
        head.height = reader.u16() & 0x3fffU;
        if (!startsWith(start, "\x9d\x01\x2a") || head.width == 0 || head.height == 0) return std::nullopt;
    }
    const auto firstLength = tag >> 5;
    if (!reader.ok() || firstLength > reader.left()) return std::nullopt;
    head.first = reader.take(firstLength);
    head.behind = reader.take(reader.left());
    return head;
}

std::optional<FrameFault> followFrame(const FrameHead& head, std::uint32_t width, std::uint32_t height,
                                      Kept& kept) {
    return Frame(head, width, height, kept).follow();
}

}  // namespace dreskel::vp8
