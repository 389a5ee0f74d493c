#include "formats/jpeg/lossless_decoder.h"

#include <algorithm>
#include <bit>
#include <utility>

namespace dreskel::jpeg {
namespace {

constexpr std::uint32_t kStrayBytesAllowed = 16;  // some encoders pad the data before a marker
constexpr std::size_t kLongestCarry = 96 * 1024;  // more than any segment
constexpr std::uint32_t kMostUnits = 16;          // samples of an MCU
constexpr std::uint32_t kAlike = 2;               // rows from one to the next of the same colours
constexpr std::size_t kCodeBytes = 4;             // a code and its extra bits are 32 bits at most
constexpr int kDiffersByHalf = 16;                // a category without extra bits (H.1.2.2)

}  // namespace

LosslessDecoder::State LosslessDecoder::feed(Bytes bytes, bool last) {
    if (state_ != State::Hungry) return state_;
    if (!carry_.empty()) {
        carry_.insert(carry_.end(), bytes.begin(), bytes.end());
        const auto all = std::exchange(carry_, {});
        const auto consumed = run(all, last);
        carry_.assign(all.begin() + static_cast<std::ptrdiff_t>(consumed), all.end());
    } else {
        const auto consumed = run(bytes, last);
        carry_.assign(bytes.begin() + static_cast<std::ptrdiff_t>(consumed), bytes.end());
    }
    if (state_ == State::Hungry && carry_.size() > kLongestCarry)
        broken(offset_, "a segment is longer than any can be");
    if (state_ == State::Hungry && last) broken(offset_, "the data ends early");
    return state_;
}

// Consumes what it can of the window and returns how much that was. `offset_` is kept in step.
std::size_t LosslessDecoder::run(Bytes window, bool last) {
    std::size_t at = 0;
    const auto base = offset_;
    while (state_ == State::Hungry) {
        const auto step = inScan_ ? entropy(window, at, last) : marker(window, at, last);
        if (step == Step::Stop) break;
        offset_ = base + at;
        if (step == Step::More) break;
    }
    return std::min(at, window.size());
}

LosslessDecoder::Step LosslessDecoder::broken(std::uint64_t byte, const char* why) {
    state_ = State::Broken;
    offset_ = byte;
    why_ = why;
    return Step::Stop;
}

LosslessDecoder::Step LosslessDecoder::marker(Bytes window, std::size_t& at, bool last) {
    const auto here = offset_;
    const auto start = at;
    auto position = at;
    const bool done = height_ > 0 && row_ >= height_;
    const auto more = [&](const char* why) { return last ? broken(here, why) : Step::More; };
    if (position + 2 > window.size()) return more("the data ends before its end marker");
    if (!started_) {
        if (window[position] != 0xff || window[position + 1] != 0xd8) return broken(here, "no start marker");
        started_ = true;
        at += 2;
        return Step::Again;
    }
    if (window[position] != 0xff) {
        if (!done || ++strayBytes_ > kStrayBytesAllowed)
            return broken(here, "no marker where a segment should begin");
        ++at;
        return Step::Again;
    }
    while (position < window.size() && window[position] == 0xff) ++position;
    if (position >= window.size()) return more("the data ends in a marker");
    const auto code = window[position++];
    if (code == 0xd9) {
        if (!done) return broken(here, "the end marker comes before the last sample");
        state_ = State::Ended;
        offset_ = here + (position - start);
        return Step::Stop;
    }
    if (done) return broken(here, "more follows where the data should end");
    const bool known = code == 0xc3 || code == 0xc4 || code >= 0xda;
    if (!known || code == 0xff) return broken(here, "an impossible marker");
    if (position + 2 > window.size()) return more("the data ends in a marker");
    const std::size_t length = static_cast<std::size_t>(window[position]) << 8 | window[position + 1];
    if (length < 2) return broken(here, "a segment without a length");
    if (position + length > window.size()) return more("the data ends in a segment");
    if (!segment(code, window.subspan(position + 2, length - 2))) return broken(here, "a damaged header");
    at = position + length;
    return Step::Again;
}

bool LosslessDecoder::segment(std::uint8_t code, Bytes body) {
    switch (code) {
        case 0xc3: return readFrame(body);
        case 0xc4: return readHuffman(body);
        case 0xda: return readScan(body);
        case 0xdd:
            if (body.size() != 2) return false;
            restartInterval_ = static_cast<std::uint32_t>(body[0]) << 8 | body[1];
            return true;
        default: return true;
    }
}

bool LosslessDecoder::readFrame(Bytes body) {
    ByteReader reader(body);
    precision_ = reader.u8();
    const std::uint32_t height = reader.u16();
    const std::uint32_t width = reader.u16();
    const auto count = reader.u8();
    if (!reader.ok() || !parts_.empty() || count == 0 || count > 4 || body.size() != 6U + 3U * count)
        return false;
    if (precision_ < 2 || precision_ > 16 || width == 0 || height == 0) return false;
    std::uint32_t across = 1;
    std::uint32_t down = 1;
    std::uint32_t units = 0;
    for (int i = 0; i < count; ++i) {
        const auto id = reader.u8();
        const unsigned sampling = reader.u8();
        reader.skip(1);
        const unsigned h = sampling >> 4;
        const unsigned v = sampling & 15;
        if (h < 1 || h > 4 || v < 1 || v > 4) return false;
        across = std::max(across, h);
        down = std::max(down, v);
        units += h * v;
        parts_.push_back({id, 0, static_cast<std::uint8_t>(h * v), {}, {}});
    }
    if (units > kMostUnits) return false;
    valuesKnown_ = units == count;
    width_ = (width + across - 1) / across;
    height_ = (height + down - 1) / down;
    for (auto& part : parts_) {
        part.above.resize(valuesKnown_ ? width_ : 0);
        part.twoAbove = part.above;
    }
    continuity_.setPrecision(std::min(precision_, static_cast<int>(std::bit_width(most_))));
    if (valuesKnown_) seams_.setRow(width_ * count, kAlike * width_ * count);
    return true;
}

bool LosslessDecoder::readHuffman(Bytes body) {
    return eachHuffmanTable(body, [&](bool ac, std::size_t number, Bytes counts, Bytes symbols) {
        const auto table = HuffmanTable::make(counts, symbols);
        if (table && !ac) tables_[number] = std::make_shared<const HuffmanTable>(*table);
        return table.has_value();
    });
}

// All components in one scan: nobody writes them one after another.
bool LosslessDecoder::readScan(Bytes body) {
    ByteReader reader(body);
    const auto count = reader.u8();
    if (count == 0 || count != parts_.size() || body.size() != 4U + 2U * count) return false;
    for (std::size_t i = 0; i < count; ++i) {
        const auto id = reader.u8();
        const unsigned table = reader.u8() >> 4;
        const auto from = parts_.begin() + static_cast<std::ptrdiff_t>(i);
        const auto found = std::find_if(from, parts_.end(), [id](const Part& part) { return part.id == id; });
        if (found == parts_.end() || table > 3 || !tables_[table]) return false;
        std::iter_swap(from, found);
        parts_[i].table = static_cast<std::uint8_t>(table);
    }
    predictor_ = reader.u8();
    reader.skip(1);
    pointShift_ = reader.u8() & 15;
    inScan_ = true;
    beyond_ = static_cast<int>(std::min((1U << precision_) - 1, most_) >> std::min(pointShift_, 15)) + 1;
    return predictor_ >= 1 && predictor_ <= 7 && pointShift_ < precision_;
}

LosslessDecoder::Step LosslessDecoder::entropy(Bytes window, std::size_t& at, bool last) {
    static thread_local CodedSegment segment;  // of no meaning between two calls; kept so that its memory is
    const auto streamBase = offset_ - at;
    auto base = at;
    segment.load(window.subspan(base));
    BitReader bits(segment.clean());
    bits.fill();
    if (bitsUsed_ > 0) bits.drop(bitsUsed_);
    const auto place = [&] { return streamBase + base + segment.inWindow(bits.mark().byte); };
    const auto leave = [&] {
        const auto mark = bits.mark();
        at = base + segment.inWindow(mark.byte);
        bitsUsed_ = mark.bitsUsed;
        return Step::More;
    };
    const auto borderIn = [&] {
        while (nextBorder_ < streamBase + base) nextBorder_ += RowSeams::kSmallestCluster;
        return segment.fromWindow(static_cast<std::size_t>(nextBorder_ - streamBase - base));
    };
    auto border = borderIn();
    while (row_ < height_) {
        // Complete MCUs only, unless it is known that no more bytes come.
        const bool all = last || segment.endsAtMarker();
        if (!all && bits.position() + kMostUnits * kCodeBytes + 8 > segment.clean().size()) return leave();
        if (restartInterval_ > 0 && sinceRestart_ == restartInterval_) {
            auto position = base + segment.inWindow(bits.nextWholeByte());
            if (!last && position + 2 > window.size()) return leave();
            if (!restart(window, position)) return broken(place(), "no restart marker where one is due");
            base = position;
            segment.load(window.subspan(base));
            bits = BitReader(segment.clean());
            bits.fill();
            border = borderIn();
            continue;
        }
        if (bits.position() >= border && bits.mark().byte >= border) {
            seams_.border(nextBorder_);
            nextBorder_ += RowSeams::kSmallestCluster;
            border = borderIn();
        }
        const char* wrong = mcu(bits);
        if (wrong == nullptr && bits.overrun()) wrong = "the data ends inside a row";
        if (wrong != nullptr) return broken(place(), wrong);
        if (seams_.foreign()) return broken(*seams_.foreign(), RowSeams::kForeign);
        ++sinceRestart_;
        if (++column_ < width_) continue;
        column_ = 0;
        ++row_;
        firstRow_ = false;
        if (!valuesKnown_) continue;
        const auto row = continuity_.endRow();
        if (row == RowContinuity::Row::Follows) lastThatFollowed_ = place();
        if (row == RowContinuity::Row::Foreign)
            return broken(lastThatFollowed_, "its rows have nothing to do with those above");
    }
    at = base + segment.inWindow(bits.nextWholeByte());
    inScan_ = false;
    return Step::Again;
}

// Passes the restart marker (E.1.4) that should stand at `position` of the window.
bool LosslessDecoder::restart(Bytes window, std::size_t& position) {
    if (position + 2 > window.size() || window[position] != 0xff) return false;
    if (window[position + 1] != 0xd0 + nextRestart_) return false;
    position += 2;
    nextRestart_ = (nextRestart_ + 1) & 7;
    sinceRestart_ = 0;
    firstRow_ = true;
    return true;
}

// H.1.2.1
inline int LosslessDecoder::foretell(const Part& part) const {
    const auto index = static_cast<std::size_t>(&part - parts_.data());
    const int left = left_[index];
    if (column_ == 0) return firstRow_ ? 1 << (precision_ - pointShift_ - 1) : part.above[0];
    if (firstRow_) return left;
    const int above = part.above[column_];
    const int corner = aboveLeft_[index];
    switch (predictor_) {
        case 1: return left;
        case 2: return above;
        case 3: return corner;
        case 4: return left + above - corner;
        case 5: return left + ((above - corner) >> 1);
        case 6: return above + ((left - corner) >> 1);
        default: return (left + above) >> 1;
    }
}

inline const char* LosslessDecoder::sample(BitReader& bits, Part& part, int& value) const {
    bits.fill();
    const auto& table = *tables_[part.table];
    const auto step = table.dcStep(bits.top());
    if (step.bits != 0) [[likely]] {
        bits.drop(step.bits);
        value = step.difference;
        return nullptr;
    }
    auto code = table.look(bits.top());
    if (code.length == 0) code = table.slow(bits.top());
    if (code.length == 0 || code.symbol > kDiffersByHalf) return "an impossible code";
    bits.drop(code.length);
    if (code.symbol == kDiffersByHalf) {
        value = 1 << 15;
    } else {
        value = code.symbol == 0 ? 0 : difference(static_cast<int>(bits.take(code.symbol)), code.symbol);
    }
    return nullptr;
}

const char* LosslessDecoder::mcu(BitReader& bits) {
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        auto& part = parts_[i];
        for (unsigned unit = 0; unit < part.units; ++unit) {
            int value = 0;
            if (const auto* wrong = sample(bits, part, value)) return wrong;
            if (!valuesKnown_) continue;
            value = (value + foretell(part)) & 0xffff;
            if (value >= beyond_) return "a sample brighter than any can be";
            const auto above = part.above[column_];
            continuity_.add(value, column_ > 0 ? left_[i] : value, part.twoAbove[column_]);
            seams_.add(value - part.twoAbove[column_]);
            part.twoAbove[column_] = above;
            part.above[column_] = static_cast<std::uint16_t>(value);
            aboveLeft_[i] = above;
            left_[i] = value;
        }
    }
    return nullptr;
}

}  // namespace dreskel::jpeg
