#include "formats/photo/nikon_rows.h"

#include <utility>

namespace dreskel::tiff {
namespace {

// How many codes there are of each length, and what they stand for: bits of a difference, in the upper half
// how many of them are left out.
using Codes = std::array<std::uint8_t, 32>;
constexpr std::array<Codes, 6> kCodes{{
    {0, 1, 5, 1, 1, 1, 1, 1, 1, 2, 0, 0, 0, 0, 0, 0, 5, 4, 3, 6, 2, 7, 1, 0, 8, 9, 11, 10, 12},
    {0, 1,    5,    1,    1,    1,    1, 1, 1, 2, 0, 0, 0,  0,  0,
     0, 0x39, 0x5a, 0x38, 0x27, 0x16, 5, 4, 3, 2, 1, 0, 11, 12, 12},
    {0, 1, 4, 2, 3, 1, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 5, 4, 6, 3, 7, 2, 8, 1, 9, 0, 10, 11, 12},
    {0, 1, 4, 3, 1, 1, 1, 1, 1, 2, 0, 0, 0, 0, 0, 0, 5, 6, 4, 7, 8, 3, 9, 2, 1, 0, 10, 11, 12, 13, 14},
    {0, 1,    5,    1,    1,    1, 1, 1, 1, 1, 2, 0, 0, 0,  0, 0,
     8, 0x5c, 0x4b, 0x3a, 0x29, 7, 6, 5, 4, 3, 2, 1, 0, 13, 14},
    {0, 1, 4, 2, 2, 3, 1, 2, 0, 0, 0, 0, 0, 0, 0, 0, 7, 6, 8, 5, 9, 4, 10, 3, 11, 12, 2, 0, 1, 13, 14},
}};

std::shared_ptr<const jpeg::HuffmanTable> tableOf(std::size_t which) {
    const Bytes all(kCodes[which]);
    std::size_t count = 0;
    for (const auto length : all.first(16)) count += length;
    const auto table = jpeg::HuffmanTable::make(all.first(16), all.subspan(16, count));
    return table ? std::make_shared<const jpeg::HuffmanTable>(*table) : nullptr;
}

constexpr std::size_t kNoteHead = 10;  // a TIFF of its own follows, from which its places are counted
constexpr std::size_t kSplitAt = 562;  // in what is said of the coding
constexpr std::uint16_t kWay = 0x93, kCodingFacts = 0x96;
constexpr int kRaised = 16;             // samples behind the split may be so far below zero
constexpr std::uint32_t kFewRows = 16;  // what goes wrong in those is not understood
constexpr std::uint64_t kMostBehindRows = 1024;
constexpr std::size_t kCodeBytes = 4;

}  // namespace

bool isNikonNote(Bytes note) {
    return startsWith(note, {"Nikon\0\2", 7});
}

std::optional<NikonCoding> readNikonCoding(Bytes note, std::uint32_t width, std::uint32_t height,
                                           unsigned bits) {
    if (!isNikonNote(note) || note.size() < kNoteHead + 8 || (bits != 12 && bits != 14)) return std::nullopt;
    const auto inner = note.subspan(kNoteHead);
    const auto endian = inner[0] == 'I' ? Endian::Little : Endian::Big;
    ByteReader directory(inner, endian);
    directory.skip(4);
    directory.seek(directory.u32());
    Bytes facts;
    const auto count = directory.u16();
    for (unsigned i = 0; i < count && directory.left() >= 12; ++i) {
        const auto tag = directory.u16();
        directory.skip(2);
        const auto length = directory.u32();
        ByteReader value(directory.take(4), endian);
        if (tag == kCodingFacts) facts = slice(inner, value.u32(), length);
        // With losses, without, with losses in another way; others are not coded so.
        if (tag == kWay) {
            const auto way = value.u16();
            if (way != 1 && way != 3 && way != 4) return std::nullopt;
        }
    }
    ByteReader reader(facts, endian);
    const auto kind = reader.u8(), version = reader.u8();
    if (kind == 0x49 || version == 0x58) reader.skip(2110);
    NikonCoding coding;
    coding.width = width;
    coding.height = height;
    coding.bits = bits;
    const std::size_t deep = bits == 14 ? 3 : 0;
    const bool lossless = kind == 0x46;
    for (auto& each : coding.first) each = reader.u16();
    coding.beyond = 1 << bits;
    const int curve = reader.u16();
    if (!reader.ok()) return std::nullopt;
    const int step = curve > 1 ? coding.beyond / (curve - 1) : 0;
    if (kind == 0x44 && step > 0 && (version == 0x20 || (version == 0x40 && step > 3))) {
        if (version == 0x40) coding.beyond /= 4;
        coding.split = ByteReader(slice(facts, kSplitAt, 2), endian).u16();
    } else if (!lossless && curve <= 0x4001) {
        coding.beyond = curve;
    }
    coding.codes = tableOf((lossless ? 2 : 0) + deep);
    coding.codesBehindSplit = tableOf((lossless ? 2 : 1) + deep);
    return coding;
}

NikonRows::NikonRows(std::shared_ptr<const NikonCoding> coding)
    : coding_(std::move(coding)), above_(coding_->width), twoAbove_(coding_->width) {
    for (std::size_t i = 0; i < 4; ++i) down_[i / 2][i % 2] = coding_->first[i];
    continuity_.setPrecision(static_cast<int>(coding_->bits));
}

void NikonRows::broken(std::uint64_t byte, const char* why) {
    if (row_ < kFewRows) {
        state_ = State::NotUnderstood;
        return;
    }
    state_ = State::Broken;
    offset_ = byte;
    why_ = why;
}

NikonRows::State NikonRows::feed(Bytes bytes, bool last) {
    if (state_ == State::Hungry) {
        carry_.insert(carry_.end(), bytes.begin(), bytes.end());
        const auto all = std::exchange(carry_, {});
        const auto consumed = run(all, last);
        carry_.assign(all.begin() + static_cast<std::ptrdiff_t>(consumed), all.end());
        if (state_ == State::Hungry && last) broken(offset_, "the data end before the picture does");
        if (state_ == State::Ended) behind_ = std::exchange(carry_, {}).size();
    } else if (state_ == State::Ended) {
        behind_ += bytes.size();
    }
    if (state_ == State::Ended && last && behind_ > kMostBehindRows)
        broken(offset_, "the picture ends before its data do");
    return state_;
}

// Consumes what it can of the window and returns how much that was.
std::size_t NikonRows::run(Bytes window, bool last) {
    jpeg::BitReader bits(window);
    bits.fill();
    bits.drop(bitsUsed_);
    const auto base = offset_;
    const auto place = [&] { return base + bits.mark().byte; };
    while (row_ < coding_->height) {
        if (!last && bits.position() + kCodeBytes + 8 > window.size()) {
            const auto mark = bits.mark();
            offset_ = base + mark.byte;
            bitsUsed_ = mark.bitsUsed;
            return mark.byte;
        }
        const auto* wrong = sample(bits);
        if (wrong == nullptr && bits.overrun()) wrong = "the data end inside a row";
        if (wrong != nullptr) {
            broken(place(), wrong);
            return window.size();
        }
        if (++column_ < coding_->width) continue;
        column_ = 0;
        ++row_;
        const auto row = continuity_.endRow();
        if (row == jpeg::RowContinuity::Row::Follows) lastThatFollowed_ = place();
        if (row == jpeg::RowContinuity::Row::Foreign) {
            broken(lastThatFollowed_, "its rows have nothing to do with those above");
            return window.size();
        }
    }
    state_ = State::Ended;
    offset_ = base + bits.nextWholeByte();
    return std::min(window.size(), bits.nextWholeByte());
}

const char* NikonRows::sample(jpeg::BitReader& bits) {
    const bool behindSplit = coding_->split > 0 && row_ >= coding_->split;
    const auto& codes = behindSplit ? *coding_->codesBehindSplit : *coding_->codes;
    bits.fill();
    const auto code = codes.look(bits.top());
    if (code.length == 0) return "an impossible code";
    bits.drop(code.length);
    const int length = code.symbol & 15, leftOut = code.symbol >> 4;
    const int raw = length > leftOut ? static_cast<int>(bits.take(length - leftOut)) : 0;
    int difference = ((raw << 1) + 1) << leftOut >> 1;
    if (length > 0 && (difference & 1 << (length - 1)) == 0)
        difference -= (1 << length) - (leftOut == 0 ? 1 : 0);
    const auto side = column_ & 1;
    auto& along = along_[side];
    const int left = along;
    along = column_ < 2 ? down_[row_ & 1][side] += difference : along + difference;
    const int raised = behindSplit ? kRaised : 0;
    if (along + raised < 0 || along + raised >= coding_->beyond + 2 * raised)
        return "a sample beyond those that can be";
    const auto value = static_cast<std::uint16_t>(along + kRaised);
    const auto above = above_[column_];
    continuity_.add(value, column_ < 2 ? value : left + kRaised, twoAbove_[column_]);
    twoAbove_[column_] = above;
    above_[column_] = value;
    return nullptr;
}

}  // namespace dreskel::tiff
