#include "formats/jpeg/stream_decoder.h"

#include <algorithm>

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

bool StreamDecoder::toldAll() const {
    if (!frame_.progressive) return true;
    return std::all_of(bitsLeft_.begin(),
                       bitsLeft_.begin() + static_cast<std::ptrdiff_t>(frame_.components.size()),
                       [](const auto& left) { return left == std::array<std::uint8_t, 64>{}; });
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
        if (!toldAll()) return broken(here, "the end marker comes before the last of its detail");
        state_ = State::Ended;
        offset_ = byteAt(position);
        return Step::Stop;
    }
    if (code == 0xd8) return broken(here, "another photo begins");
    const bool known = (code >= 0xc0 && code <= 0xcf && code != 0xc8) || (code >= 0xda && code <= 0xdf) ||
                       (code >= 0xe0 && code <= 0xef) || code == 0xdb || code == 0xfe;
    if (!known) return broken(here, "an impossible marker");
    segmentAt_ = here;
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
    for (auto& left : bitsLeft_) left.fill(kUntold);
    if (planes_ != nullptr && !skim_) {
        planes_->planes.clear();
        planes_->goBackTo({});
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
    return eachHuffmanTable(body, [&](bool ac, std::size_t number, Bytes counts, Bytes symbols) {
        const auto table = HuffmanTable::make(counts, symbols);
        if (table) (ac ? acTables_ : dcTables_)[number] = std::make_shared<const HuffmanTable>(*table);
        return table.has_value();
    });
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
        parts_[partCount_++] = {static_cast<std::size_t>(found - frame_.components.begin()), 0, 0};
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
        history_.resize(frame_.components.size());
        if (spectralStart_ > spectralEnd_ || spectralEnd_ > 63 || approxLow_ > 13) return false;
        if (spectralStart_ == 0 ? spectralEnd_ != 0 : count != 1) return false;
    } else {
        spectralStart_ = 0;
        spectralEnd_ = 63;
        approxHigh_ = approxLow_ = 0;
    }
    for (std::size_t i = 0; i < partCount_ && frame_.progressive; ++i) {
        auto& left = bitsLeft_[parts_[i].index];
        std::fill(left.begin() + spectralStart_, left.begin() + spectralEnd_ + 1,
                  static_cast<std::uint8_t>(approxLow_));
    }
    for (std::size_t i = 0; i < partCount_; ++i) {
        auto& part = parts_[i];
        const auto& component = frame_.components[part.index];
        const bool needsDc = spectralStart_ == 0 && approxHigh_ == 0;
        const bool needsAc = spectralEnd_ > 0;
        why = "a table that the scan needs is missing";
        if (needsDc && !dcTables_[component.dcTable]) return false;
        if (needsAc && !acTables_[component.acTable]) return false;
        if (!hasQuant_[component.quantTable]) return false;
        const auto quant = quant_[component.quantTable][0];
        if (planes_ != nullptr) planes_->planes[part.index].quant = quant;
        // Give or take rounding and a margin.
        const int bound = (1 << (frame_.precision + 2)) * 3 / 2 + 2 * quant;
        part.mostDc = bound / (std::max<int>(quant, 1) << approxLow_);
    }
    noting_ = planes_ != nullptr && frame_.progressive && spectralStart_ > 0 && scans_ > 1 &&
              planes_->later.size() < DcPlanes::kMostLater;
    if (noting_) planes_->later.push_back({parts_[0].index, 0, {}, {}, {}});
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

}  // namespace dreskel::jpeg
