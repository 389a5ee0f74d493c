#include "formats/jpeg/stream_decoder.h"

#include <algorithm>
#include <bit>

#include "base/limits.h"

namespace dreskel::jpeg {
namespace {

// Bytes that a carried-over rest is stitched with: more than any segment, and more than any MCU.
constexpr std::size_t kStitch = 96 * 1024;
// Some encoders leave a few bytes between the last block and the next marker.
constexpr std::uint32_t kStrayBytesAllowed = 16;

}  // namespace

StreamDecoder::State StreamDecoder::feed(Bytes bytes, bool last) {
    if (state_ != State::Hungry) return state_;
    if (!carry_.empty()) {
        const auto carried = carry_.size();
        const auto borrowed = std::min(bytes.size(), kStitch);
        carry_.insert(carry_.end(), bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(borrowed));
        const bool all = borrowed == bytes.size();
        const auto consumed = run(carry_, last && all);
        if (state_ != State::Hungry) return state_;
        if (consumed < carried || all) {
            carry_.erase(carry_.begin(), carry_.begin() + static_cast<std::ptrdiff_t>(consumed));
            if (all) {
                if (last) broken(offset_, "the data ends early");
                return state_;
            }
            broken(offset_, "a segment is longer than any can be");
            return state_;
        }
        bytes = bytes.subspan(consumed - carried);
        carry_.clear();
    }
    const auto consumed = run(bytes, last);
    if (state_ != State::Hungry) return state_;
    carry_.assign(bytes.begin() + static_cast<std::ptrdiff_t>(consumed), bytes.end());
    if (last) broken(offset_, "the data ends early");
    return state_;
}

// Consumes what it can of the window and returns how much that was. `offset_` is kept in step.
std::size_t StreamDecoder::run(Bytes window, bool last) {
    std::size_t at = 0;
    const auto base = offset_;
    while (state_ == State::Hungry) {
        if (skip_ > 0) {
            const auto passed = static_cast<std::size_t>(std::min<std::uint64_t>(skip_, window.size() - at));
            at += passed;
            skip_ -= passed;
            offset_ = base + at;
            if (skip_ > 0) return at;
        }
        const auto step = !inScan_ ? marker(window, at, last)
                          : skim_  ? skim(window, at, last)
                                   : entropy(window, at, last);
        if (step == Step::Stop) break;
        offset_ = base + at;
        if (step == Step::More) return at;
    }
    return at;
}

StreamDecoder::Step StreamDecoder::broken(std::uint64_t byte, std::string why) {
    state_ = State::Broken;
    offset_ = byte;
    break_ = {byte, mcu_, scans_, std::move(why)};
    return Step::Stop;
}

double StreamDecoder::decodedShare() const {
    std::uint64_t done = 0;
    std::uint64_t all = 0;
    for (std::size_t i = 0; i < frame_.components.size(); ++i) {
        const auto& component = frame_.components[i];
        all += std::uint64_t{component.blocksWide} * component.blocksHigh;
        done += std::min(blocksDone_[i], std::uint64_t{component.blocksWide} * component.blocksHigh);
    }
    return all == 0 ? 0.0 : static_cast<double>(done) / static_cast<double>(all);
}

// ---- Between scans: markers and their segments (B.1.1) ----

StreamDecoder::Step StreamDecoder::marker(Bytes window, std::size_t& at, bool last) {
    const auto here = offset_;
    auto position = at;
    const auto byteAt = [&](std::size_t index) { return here + (index - at); };
    if (position + 2 > window.size())
        return last ? broken(here, "the data ends before its end marker") : Step::More;
    if (!started_) {
        if (window[position] != 0xff || window[position + 1] != 0xd8) return broken(here, "no start marker");
        started_ = true;
        at += 2;
        return Step::Again;
    }
    if (window[position] != 0xff && afterScan_ && strayBytes_ < kStrayBytesAllowed) {
        if (++strayBytes_ == 1) notes_.emplace_back("a few stray bytes before a marker");
        ++at;
        return Step::Again;
    }
    if (window[position] != 0xff) return broken(here, "no marker where a segment should begin");
    while (position < window.size() && window[position] == 0xff) ++position;
    if (position >= window.size()) return last ? broken(here, "the data ends in a marker") : Step::More;
    const auto code = window[position++];
    // One restart marker too many, behind the last block, is an encoder's habit and no damage.
    if (afterScan_ && restartInterval_ > 0 && code == 0xd0 + nextRestart_) {
        at = position;
        return Step::Again;
    }
    afterScan_ = false;
    strayBytes_ = 0;

    if (code == 0xd9) {
        const bool complete = hasFrame_ && scans_ > 0 && (skim_ || decodedShare() >= 1.0);
        if (!complete) return broken(here, "the end marker comes before the picture is complete");
        state_ = State::Ended;
        offset_ = byteAt(position);
        return Step::Stop;
    }
    if (code == 0xd8) return broken(here, "another photo begins");
    const bool known = (code >= 0xc0 && code <= 0xcf && code != 0xc8) || (code >= 0xda && code <= 0xdf) ||
                       (code >= 0xe0 && code <= 0xef) || code == 0xdb || code == 0xfe;
    if (!known) return broken(here, "an impossible marker");
    if (position + 2 > window.size()) return last ? broken(here, "the data ends in a marker") : Step::More;
    const std::size_t length = static_cast<std::size_t>(window[position]) << 8 | window[position + 1];
    if (length < 2) return broken(here, "a segment without a length");

    // Application data and comments mean nothing to the decoding; they are passed over, however long.
    if (code >= 0xe0 || code == 0xfe) {
        at = position;
        skip_ = length;
        return Step::Again;
    }
    if (position + length > window.size())
        return last ? broken(here, "the data ends in a segment") : Step::More;
    if (!segment(code, window.subspan(position + 2, length - 2))) return broken(here, reason_);
    if (code == 0xda && scans_ == 1) codedDataAt_ = byteAt(position + length);
    at = position + length;
    return Step::Again;
}

bool StreamDecoder::segment(std::uint8_t code, Bytes body) {
    switch (code) {
        case 0xc4: return readHuffman(body, reason_);
        case 0xdb: return readQuant(body, reason_);
        case 0xda: return readScan(body, reason_);
        case 0xdd:
            reason_ = "a damaged restart interval";
            if (body.size() != 2) return false;
            restartInterval_ = static_cast<std::uint32_t>(body[0]) << 8 | body[1];
            return true;
        case 0xcc:  // conditioning of arithmetic coding
        case 0xdc:  // number of lines, restated
        case 0xde:
        case 0xdf: return true;
        default: return readFrame(code, body, reason_);
    }
}

bool StreamDecoder::readFrame(std::uint8_t code, Bytes body, std::string& why) {
    why = "a damaged frame header";
    if (hasFrame_) {
        why = "a second frame header";
        return false;
    }
    ByteReader reader(body);
    Frame frame;
    frame.precision = reader.u8();
    frame.height = reader.u16();
    frame.width = reader.u16();
    const auto count = reader.u8();
    if (!reader.ok() || count == 0 || count > 4 || body.size() != 6U + 3U * count) return false;
    if (frame.precision < 2 || frame.precision > 16) return false;
    if (frame.width == 0 || frame.height == 0) {
        why = "a frame header without a size";
        return false;
    }
    if (std::uint64_t{frame.width} * frame.height > limits::kLargestPhotoPixels) {
        why = "limit exceeded: more pixels than are looked at";
        return false;
    }
    frame.progressive = code == 0xc2;
    skim_ = code != 0xc0 && code != 0xc1 && code != 0xc2;
    std::uint32_t hMost = 1;
    std::uint32_t vMost = 1;
    for (int i = 0; i < count; ++i) {
        Component component;
        component.id = reader.u8();
        const auto sampling = reader.u8();
        component.h = sampling >> 4;
        component.v = sampling & 15;
        component.quantTable = reader.u8();
        if (component.h < 1 || component.h > 4 || component.v < 1 || component.v > 4 ||
            component.quantTable > 3) {
            return false;
        }
        hMost = std::max<std::uint32_t>(hMost, component.h);
        vMost = std::max<std::uint32_t>(vMost, component.v);
        frame.components.push_back(component);
    }
    const auto ceilDiv = [](std::uint32_t a, std::uint32_t b) { return (a + b - 1) / b; };
    frame.mcusWide = ceilDiv(frame.width, 8 * hMost);
    frame.mcusHigh = ceilDiv(frame.height, 8 * vMost);
    for (auto& component : frame.components) {
        component.blocksWide = ceilDiv(ceilDiv(frame.width * component.h, hMost), 8);
        component.blocksHigh = ceilDiv(ceilDiv(frame.height * component.v, vMost), 8);
        component.paddedWide = frame.mcusWide * component.h;
        component.paddedHigh = frame.mcusHigh * component.v;
    }
    frame_ = frame;
    hasFrame_ = true;
    blocksDone_.assign(frame.components.size(), 0);
    if (frame.progressive) {
        for (const auto& component : frame.components) {
            history_.emplace_back(std::size_t{component.paddedWide} * component.paddedHigh, 0);
        }
    }
    if (planes_ != nullptr && !skim_) {
        planes_->planes.clear();
        planes_->marks.clear();
        for (const auto& component : frame.components) {
            DcPlanes::Plane plane{component.paddedWide, component.paddedHigh, {}, 1};
            plane.dc.resize(std::size_t{plane.width} * plane.height);
            planes_->planes.push_back(std::move(plane));
        }
    }
    return true;
}

bool StreamDecoder::readQuant(Bytes body, std::string& why) {
    why = "a damaged quantisation table";
    ByteReader reader(body);
    while (reader.left() > 0) {
        const auto head = reader.u8();
        if ((head >> 4) > 1 || (head & 15) > 3) return false;
        auto& table = quant_[head & 15];
        for (auto& value : table) value = (head >> 4) != 0 ? reader.u16() : reader.u8();
        if (!reader.ok() || table[0] == 0) return false;
        hasQuant_[head & 15] = true;
    }
    return true;
}

bool StreamDecoder::readHuffman(Bytes body, std::string& why) {
    why = "a damaged Huffman table";
    ByteReader reader(body);
    while (reader.left() > 0) {
        const auto head = reader.u8();
        const auto counts = reader.take(16);
        if (!reader.ok() || (head >> 4) > 1 || (head & 15) > 3) return false;
        std::size_t total = 0;
        for (const auto count : counts) total += count;
        const auto symbols = reader.take(total);
        if (!reader.ok()) return false;
        const auto table = HuffmanTable::make(counts, symbols);
        if (!table) return false;
        auto& slot = (head >> 4) != 0 ? acTables_[head & 15] : dcTables_[head & 15];
        slot = std::make_shared<const HuffmanTable>(*table);
    }
    return true;
}

bool StreamDecoder::readScan(Bytes body, std::string& why) {
    why = "a damaged scan header";
    if (!hasFrame_) return false;
    ByteReader reader(body);
    const auto count = reader.u8();
    if (count == 0 || count > 4 || body.size() != 4U + 2U * count) return false;
    partCount_ = 0;
    std::uint32_t blocks = 0;
    for (int i = 0; i < count; ++i) {
        const auto id = reader.u8();
        const auto tables = reader.u8();
        const auto found = std::find_if(frame_.components.begin(), frame_.components.end(),
                                        [id](const Component& component) { return component.id == id; });
        if (found == frame_.components.end() || (tables >> 4) > 3 || (tables & 15) > 3) return false;
        found->dcTable = tables >> 4;
        found->acTable = tables & 15;
        blocks += static_cast<std::uint32_t>(found->h) * found->v;
        parts_[partCount_++] = {static_cast<std::size_t>(found - frame_.components.begin()), 0};
    }
    spectralStart_ = reader.u8();
    spectralEnd_ = reader.u8();
    const auto approx = reader.u8();
    approxHigh_ = approx >> 4;
    approxLow_ = approx & 15;
    ++scans_;
    inScan_ = true;
    mcu_ = 0;
    sinceRestart_ = 0;
    nextRestart_ = 0;
    endOfBandRun_ = 0;
    bitsUsed_ = 0;
    if (skim_) return true;

    if (count > 1 && blocks > 10) return false;
    if (frame_.progressive) {
        if (spectralStart_ > spectralEnd_ || spectralEnd_ > 63 || approxLow_ > 13) return false;
        if (spectralStart_ == 0 ? spectralEnd_ != 0 : count != 1) return false;
    } else {
        spectralStart_ = 0;
        spectralEnd_ = 63;
        approxHigh_ = approxLow_ = 0;
    }
    for (std::size_t i = 0; i < partCount_; ++i) {
        const auto& part = parts_[i];
        const auto& component = frame_.components[part.index];
        const bool needsDc = spectralStart_ == 0 && approxHigh_ == 0;
        const bool needsAc = spectralEnd_ > 0;
        why = "a table that the scan needs is missing";
        if (needsDc && !dcTables_[component.dcTable]) return false;
        if (needsAc && !acTables_[component.acTable]) return false;
        if (!hasQuant_[component.quantTable]) return false;
        if (planes_ != nullptr) planes_->planes[part.index].quant = quant_[component.quantTable][0];
    }
    if (count == 1) {
        const auto& component = frame_.components[parts_[0].index];
        scanWide_ = component.blocksWide;
        mcus_ = std::uint64_t{component.blocksWide} * component.blocksHigh;
    } else {
        scanWide_ = frame_.mcusWide;
        mcus_ = std::uint64_t{frame_.mcusWide} * frame_.mcusHigh;
    }
    return true;
}

// ---- Inside a scan ----

StreamDecoder::Step StreamDecoder::skim(Bytes window, std::size_t& at, bool last) {
    while (at + 2 <= window.size()) {
        const auto* found =
            static_cast<const std::uint8_t*>(std::memchr(window.data() + at, 0xff, window.size() - at - 1));
        if (found == nullptr) {
            at = window.size() - 1;
            break;
        }
        at = static_cast<std::size_t>(found - window.data());
        const auto code = window[at + 1];
        if (code == 0x00 || (code >= 0xd0 && code <= 0xd7)) {
            at += 2;
        } else {
            inScan_ = false;
            return Step::Again;
        }
    }
    return last ? broken(offset_, "the data ends before its end marker") : Step::More;
}

StreamDecoder::Step StreamDecoder::entropy(Bytes window, std::size_t& at, bool last) {
    const auto streamBase = offset_ - at;  // stream position of window[0]
    auto base = at;                        // where the bit reader's own window begins
    BitReader bits(window.subspan(base));
    bits.fill();
    if (bitsUsed_ > 0) bits.drop(bitsUsed_);

    const auto leaveAt = [&](const BitReader& reader) {
        const auto mark = reader.mark();
        at = base + mark.byte;
        bitsUsed_ = mark.bitsUsed;
        return Step::More;
    };

    const bool marking = planes_ != nullptr && scans_ == 1;
    auto nextMark = (codedDataAt_ / DcPlanes::kMarkStep + 1 + (marking ? planes_->marks.size() : 0)) *
                    DcPlanes::kMarkStep;
    while (mcu_ < mcus_) {
        if (marking && streamBase + base + bits.position() >= nextMark) {
            planes_->marks.push_back(mcu_);
            nextMark += DcPlanes::kMarkStep;
        }
        if (restartInterval_ > 0 && sinceRestart_ == restartInterval_) {
            Step outcome = Step::Again;
            if (!restart(bits, window, base, last, outcome)) {
                if (outcome == Step::More) return leaveAt(bits);
                return broken(streamBase + base + bits.mark().byte, reason_);
            }
        }
        const auto savedBits = bits;
        const auto savedParts = parts_;
        const auto savedRun = endOfBandRun_;
        std::uint64_t* word = nullptr;
        std::uint64_t savedWord = 0;
        if (frame_.progressive && spectralStart_ > 0) {
            const auto index = parts_[0].index;
            const auto x = static_cast<std::size_t>(mcu_ % scanWide_);
            const auto y = static_cast<std::size_t>(mcu_ / scanWide_);
            word = &history_[index][y * frame_.components[index].paddedWide + x];
            savedWord = *word;
        }
        const bool good = mcu(bits);
        if (bits.overrun() || (!good && bits.available() < 32)) {
            if (!bits.atMarker() && !last) {
                parts_ = savedParts;
                endOfBandRun_ = savedRun;
                if (word != nullptr) *word = savedWord;
                return leaveAt(savedBits);
            }
            if (bits.overrun()) reason_ = "the data ends inside a block";
            return broken(streamBase + base + bits.mark().byte, reason_);
        }
        if (!good) return broken(streamBase + base + bits.mark().byte, reason_);
        ++mcu_;
        ++sinceRestart_;
    }
    at = base + bits.nextWholeByte();
    inScan_ = false;
    afterScan_ = true;
    bitsUsed_ = 0;
    return Step::Again;
}

// Passes a restart marker (E.1.4). On success `bits` stands behind it.
bool StreamDecoder::restart(BitReader& bits, Bytes window, std::size_t& base, bool last, Step& outcome) {
    outcome = Step::Again;
    auto position = base + bits.nextWholeByte();
    reason_ = "the data ends before a restart marker";
    while (position + 1 < window.size() && window[position] == 0xff && window[position + 1] == 0xff)
        ++position;
    if (position + 2 > window.size()) {
        outcome = last ? Step::Stop : Step::More;
        return false;
    }
    reason_ = "no restart marker where one is due";
    if (window[position] != 0xff) return false;
    const unsigned code = window[position + 1];
    if (code < 0xd0 || code > 0xd7) return false;
    reason_ = "a wrong restart number";
    if (code - 0xd0 != nextRestart_) return false;
    base = position + 2;
    bits = BitReader(window.subspan(base));
    nextRestart_ = (nextRestart_ + 1) & 7;
    sinceRestart_ = 0;
    endOfBandRun_ = 0;
    for (auto& part : parts_) part.dcPrediction = 0;
    return true;
}

bool StreamDecoder::mcu(BitReader& bits) {
    const auto x = static_cast<std::uint32_t>(mcu_ % scanWide_);
    const auto y = static_cast<std::uint32_t>(mcu_ / scanWide_);
    if (partCount_ == 1) {
        if (!block(bits, parts_[0], x, y)) return false;
        if (spectralStart_ == 0 && approxHigh_ == 0) ++blocksDone_[parts_[0].index];
        return true;
    }
    for (std::size_t i = 0; i < partCount_; ++i) {
        auto& part = parts_[i];
        const auto& component = frame_.components[part.index];
        for (std::uint32_t v = 0; v < component.v; ++v) {
            for (std::uint32_t h = 0; h < component.h; ++h) {
                if (!block(bits, part, x * component.h + h, y * component.v + v)) return false;
            }
        }
    }
    if (spectralStart_ == 0 && approxHigh_ == 0) {
        for (std::size_t i = 0; i < partCount_; ++i) {
            const auto& part = parts_[i];
            const auto& component = frame_.components[part.index];
            // Only blocks that hold samples count towards what of the picture is there.
            const auto left = component.blocksWide - std::min(component.blocksWide, x * component.h);
            const auto below = component.blocksHigh - std::min(component.blocksHigh, y * component.v);
            blocksDone_[part.index] += std::uint64_t{std::min<std::uint32_t>(component.h, left)} *
                                       std::min<std::uint32_t>(component.v, below);
        }
    }
    return true;
}

bool StreamDecoder::block(BitReader& bits, ScanComponent& part, std::uint32_t x, std::uint32_t y) {
    const auto& component = frame_.components[part.index];
    if (!frame_.progressive) {
        return dcFirst(bits, part, component, x, y) && acSequential(bits, component);
    }
    if (spectralStart_ == 0) {
        if (approxHigh_ == 0) return dcFirst(bits, part, component, x, y);
        bits.fill();
        const auto bit = bits.take(1);
        if (planes_ != nullptr && bit != 0) {
            auto& plane = planes_->planes[part.index];
            auto& value = plane.dc[std::size_t{y} * plane.width + x];
            value = static_cast<std::int16_t>(value | (1 << approxLow_));
        }
        return true;
    }
    auto& history = history_[part.index][std::size_t{y} * component.paddedWide + x];
    return approxHigh_ == 0 ? acFirst(bits, component, history) : acRefine(bits, component, history);
}

// F.2.2.1, and G.1.2.1 for progressive images.
bool StreamDecoder::dcFirst(BitReader& bits, ScanComponent& part, const Component& component, std::uint32_t x,
                            std::uint32_t y) {
    const auto& table = *dcTables_[component.dcTable];
    bits.fill();
    auto code = table.look(bits.top());
    if (code.length == 0) code = table.slow(bits.top());
    if (code.length == 0 || code.symbol > 15) {
        reason_ = "an impossible code";
        return false;
    }
    bits.drop(code.length);
    if (code.symbol > 0) {
        const auto raw = static_cast<int>(bits.take(code.symbol));
        part.dcPrediction += raw < (1 << (code.symbol - 1)) ? raw - (1 << code.symbol) + 1 : raw;
    }
    // A block cannot be brighter than white or darker than black, give or take rounding and a margin.
    const auto quant = quant_[component.quantTable][0];
    const auto value = static_cast<std::int64_t>(part.dcPrediction) << approxLow_;
    const auto bound = (std::int64_t{1} << (frame_.precision + 2)) * 3 / 2 + 2 * std::int64_t{quant};
    if (value * quant > bound || value * quant < -bound) {
        reason_ = "a brightness that no picture can have";
        return false;
    }
    if (planes_ != nullptr) {
        auto& plane = planes_->planes[part.index];
        plane.dc[std::size_t{y} * plane.width + x] = static_cast<std::int16_t>(value);
    }
    return true;
}

// F.2.2.2, without the values. Works on a copy of the reader, which the compiler can keep in registers.
bool StreamDecoder::acSequential(BitReader& reader, const Component& component) {
    const auto& table = *acTables_[component.acTable];
    BitReader bits = reader;
    const char* wrong = nullptr;
    unsigned k = 1;
    while (k < 64) {
        bits.fill();
        const auto step = table.step(bits.top());
        if (step.bits != 0) {
            bits.drop(step.bits);
            if (step.advance == 0) break;
            k += step.advance;
            continue;
        }
        auto code = table.look(bits.top());
        if (code.length == 0) code = table.slow(bits.top());
        const unsigned run = code.symbol >> 4;
        const unsigned size = code.symbol & 15;
        if (code.length == 0 || (size == 0 && run != 0 && run < 15)) {
            wrong = "an impossible code";
            break;
        }
        bits.drop(code.length + static_cast<int>(size));
        if (code.symbol == 0) break;
        k += run + 1;
    }
    reader = bits;
    if (k > 64) wrong = "more coefficients than a block can hold";
    if (wrong != nullptr) reason_ = wrong;
    return wrong == nullptr;
}

// G.1.2.2
bool StreamDecoder::acFirst(BitReader& bits, const Component& component, std::uint64_t& history) {
    if (endOfBandRun_ > 0) {
        --endOfBandRun_;
        return true;
    }
    const auto& table = *acTables_[component.acTable];
    for (int k = spectralStart_; k <= spectralEnd_;) {
        bits.fill();
        auto code = table.look(bits.top());
        if (code.length == 0) code = table.slow(bits.top());
        if (code.length == 0) {
            reason_ = "an impossible code";
            return false;
        }
        bits.drop(code.length);
        const int run = code.symbol >> 4;
        const int size = code.symbol & 15;
        if (size == 0) {
            if (run == 15) {
                k += 16;
                continue;
            }
            endOfBandRun_ = (1U << run) - 1;
            if (run > 0) endOfBandRun_ += bits.take(run);
            return true;
        }
        k += run;
        if (k > spectralEnd_) {
            reason_ = "more coefficients than a block can hold";
            return false;
        }
        bits.drop(size);
        history |= std::uint64_t{1} << k;
        ++k;
    }
    return true;
}

// G.1.2.3: a coefficient that is already not zero takes one correction bit wherever it is passed. The bits
// themselves do not matter here, only how many there are.
bool StreamDecoder::acRefine(BitReader& reader, const Component& component, std::uint64_t& history) {
    const auto& table = *acTables_[component.acTable];
    BitReader bits = reader;
    const auto before = history;
    int k = spectralStart_;
    const char* wrong = nullptr;
    if (endOfBandRun_ == 0) {
        for (; k <= spectralEnd_; ++k) {
            bits.fill();
            auto code = table.look(bits.top());
            if (code.length == 0) code = table.slow(bits.top());
            if (code.length == 0 || (code.symbol & 15) > 1) {
                wrong = "an impossible code";
                break;
            }
            bits.drop(code.length);
            int run = code.symbol >> 4;
            const bool fresh = (code.symbol & 15) == 1;
            if (fresh) {
                bits.drop(1);
            } else if (run < 15) {
                endOfBandRun_ = 1U << run;
                if (run > 0) endOfBandRun_ += bits.take(run);
                break;
            }
            int corrections = 0;
            for (; k <= spectralEnd_; ++k) {
                if ((before >> k & 1) != 0) {
                    ++corrections;
                } else if (run-- == 0) {
                    break;
                }
            }
            bits.dropMany(corrections);
            if (!fresh) continue;
            if (k > spectralEnd_) {
                wrong = "more coefficients than a block can hold";
                break;
            }
            history |= std::uint64_t{1} << k;
        }
    }
    if (wrong == nullptr && endOfBandRun_ > 0) {
        if (k <= spectralEnd_) {
            const auto band = before >> k << k & (~std::uint64_t{0} >> (63 - spectralEnd_));
            bits.dropMany(std::popcount(band));
        }
        --endOfBandRun_;
    }
    reader = bits;
    if (wrong != nullptr) reason_ = wrong;
    return wrong == nullptr;
}

}  // namespace dreskel::jpeg
