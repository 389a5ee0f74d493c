// The inside of a scan: restart markers, MCUs, blocks and their codes (ITU-T T.81, Annexes F and G).
#include <bit>
#include <optional>

#include "formats/jpeg/stream_decoder.h"

namespace dreskel::jpeg {

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

bool StreamDecoder::zerosAreEven() const {
    for (std::size_t i = 0; i < partCount_; ++i) {
        const auto& component = frame_.components[parts_[i].index];
        const auto dc = dcTables_[component.dcTable]->look(0);
        const auto ac = acTables_[component.acTable]->look(0);
        if (dc.length == 0 || dc.symbol != 0 || ac.length == 0 || ac.symbol != 0) return false;
    }
    return true;
}

std::vector<std::uint64_t>* StreamDecoder::marksOfScan() {
    if (planes_ == nullptr) return nullptr;
    if (scans_ == 1) return &planes_->marks;
    return noting_ ? &planes_->later.back().marks : nullptr;
}

std::uint64_t StreamDecoder::firstMarkOfScan() {
    if (scans_ == 1) return codedDataAt_ / DcPlanes::kMarkStep + 1;
    auto& first = planes_->later.back().firstMark;
    if (first == 0) first = offset_ / DcPlanes::kMarkStep + 1;
    return first;
}

StreamDecoder::Step StreamDecoder::entropy(Bytes window, std::size_t& at, bool last) {
    // Of no meaning between two calls; kept so that its memory is.
    static thread_local CodedSegment segment;
    const auto streamBase = offset_ - at;  // stream position of window[0]
    auto base = at;                        // of the segment in the window
    BitReader bits;
    auto* marks = marksOfScan();
    auto nextMark = marks == nullptr ? 0 : firstMarkOfScan() * DcPlanes::kMarkStep;
    if (marks != nullptr) nextMark += marks->size() * DcPlanes::kMarkStep;
    std::size_t markAt = 0;  // in the segment
    const bool blankEnds = !frame_.progressive && !zerosAreEven();
    std::size_t blankAt = SIZE_MAX;
    const auto placeMark = [&] {
        const auto from = streamBase + base;
        markAt = marks == nullptr   ? SIZE_MAX
                 : nextMark <= from ? 0
                                    : segment.fromWindow(static_cast<std::size_t>(nextMark - from));
    };
    const auto begin = [&] {
        segment.load(window.subspan(base));
        bits = BitReader(segment.clean());
        if (blankEnds) blankAt = segment.blankFrom();
        placeMark();
    };
    const auto streamPlace = [&](std::size_t clean) { return streamBase + base + segment.inWindow(clean); };
    const auto leaveAt = [&](const BitReader& reader) {
        const auto mark = reader.mark();
        at = base + segment.inWindow(mark.byte);
        bitsUsed_ = mark.bitsUsed;
        return Step::More;
    };
    if (frame_.progressive && spectralStart_ > 0) {
        const auto& component = frame_.components[parts_[0].index];
        auto& history = history_[parts_[0].index];
        if (!history) history.emplace(std::size_t{component.paddedWide} * component.paddedHigh);
    }
    begin();
    bits.fill();
    if (bitsUsed_ > 0) bits.drop(bitsUsed_);

    while (mcu_ < mcus_) {
        if (bits.position() >= markAt) {
            marks->push_back(mcu_);
            nextMark += DcPlanes::kMarkStep;
            placeMark();
        }
        if (bits.position() >= blankAt)
            return broken(streamPlace(blankAt), "nothing but zeros where its data should go on");
        if (restartInterval_ > 0 && sinceRestart_ == restartInterval_) {
            auto position = base + segment.inWindow(bits.nextWholeByte());
            const auto outcome = restart(window, position, last);
            if (outcome == Step::More) return leaveAt(bits);
            if (outcome == Step::Stop) return broken(streamPlace(bits.mark().byte), reason_);
            base = position;
            begin();
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
            word = &(*history_[index])[y * frame_.components[index].paddedWide + x];
            savedWord = *word;
        }
        const bool good = mcu(bits);
        // What is wrong may have been found with few bits at hand and more to come.
        if (!good) bits.fill();
        if (bits.overrun() || (!good && bits.available() < 32)) {
            if (!segment.endsAtMarker() && !last) {
                parts_ = savedParts;
                endOfBandRun_ = savedRun;
                if (word != nullptr) *word = savedWord;
                return leaveAt(savedBits);
            }
            if (bits.overrun()) reason_ = "the data ends inside a block";
            return broken(streamPlace(bits.mark().byte), reason_);
        }
        if (!good) return broken(streamPlace(bits.mark().byte), reason_);
        ++mcu_;
        ++sinceRestart_;
    }
    at = base + segment.inWindow(bits.nextWholeByte());
    inScan_ = false;
    afterScan_ = true;
    bitsUsed_ = 0;
    return Step::Again;
}

// Passes a restart marker (E.1.4) that should stand at `position` of the window; on success (Step::Again)
// `position` is behind it.
StreamDecoder::Step StreamDecoder::restart(Bytes window, std::size_t& position, bool last) {
    reason_ = "the data ends before a restart marker";
    while (position + 1 < window.size() && window[position] == 0xff && window[position + 1] == 0xff)
        ++position;
    if (position + 2 > window.size()) return last ? Step::Stop : Step::More;
    reason_ = "no restart marker where one is due";
    if (window[position] != 0xff) return Step::Stop;
    const unsigned code = window[position + 1];
    if (code < 0xd0 || code > 0xd7) return Step::Stop;
    reason_ = "a wrong restart number";
    if (code - 0xd0 != nextRestart_) return Step::Stop;
    position += 2;
    nextRestart_ = (nextRestart_ + 1) & 7;
    sinceRestart_ = 0;
    endOfBandRun_ = 0;
    for (auto& part : parts_) part.dcPrediction = 0;
    return Step::Again;
}

bool StreamDecoder::mcu(BitReader& bits) {
    const auto x = static_cast<std::uint32_t>(mcu_) % scanWide_;
    const auto y = static_cast<std::uint32_t>(mcu_) / scanWide_;
    if (frame_.progressive ? !progressiveMcu(bits, x, y) : !sequentialMcu(bits, x, y)) return false;
    if (spectralStart_ > 0 || approxHigh_ > 0) return true;
    if (partCount_ == 1) {
        ++blocksDone_[parts_[0].index];
        return true;
    }
    const bool inside = x + 1 < frame_.mcusWide && y + 1 < frame_.mcusHigh;
    for (std::size_t i = 0; i < partCount_; ++i) {
        const auto& component = frame_.components[parts_[i].index];
        if (inside) {
            blocksDone_[parts_[i].index] += std::uint64_t{component.h} * component.v;
            continue;
        }
        // Only blocks that hold samples count towards what of the picture is there.
        const auto left = component.blocksWide - std::min(component.blocksWide, x * component.h);
        const auto below = component.blocksHigh - std::min(component.blocksHigh, y * component.v);
        blocksDone_[parts_[i].index] += std::uint64_t{std::min<std::uint32_t>(component.h, left)} *
                                        std::min<std::uint32_t>(component.v, below);
    }
    return true;
}

namespace {

constexpr const char* kNoCode = "an impossible code";
constexpr const char* kTooBright = "a brightness that no picture can have";
constexpr const char* kTooMany = "more coefficients than a block can hold";

// A DC code whose bits are too many for one look-up. Nothing when there is no such code.
std::optional<int> longDifference(BitReader& bits, const HuffmanTable& table) {
    auto code = table.look(bits.top());
    if (code.length == 0) code = table.slow(bits.top());
    if (code.length == 0 || code.symbol > 15) return std::nullopt;
    bits.drop(code.length);
    if (code.symbol == 0) return 0;
    return difference(static_cast<int>(bits.take(code.symbol)), code.symbol);
}

// F.2.2.2, without the values. What costs time are the chain from one look-up to the next and branches that
// cannot be foreseen: a look-up passes several codes, and there is one branch for each, which tells the end
// of the block. Gives what is wrong, or null.
inline const char* passCoefficients(BitReader& bits, const HuffmanTable& table) {
    unsigned k = 1;
    while (k < 64) {
        // One fill serves two steps.
        static_assert(2 * HuffmanTable::kMostBits <= 56);
        bits.fill();
        auto step = table.step(bits.top());
        if (step.bits != 0 && k + step.advance < 64) [[likely]] {
            bits.drop(step.bits);
            k += step.advance;
            step = table.step(bits.top());
            if (step.bits != 0 && k + step.advance < 64) [[likely]] {
                bits.drop(step.bits);
                k += step.advance;
                continue;
            }
        }
        // The end of the block, if no coefficient of the step lies beyond it.
        if (step.advance >= HuffmanTable::kEndOfBlock && k + step.advance < HuffmanTable::kEndOfBlock + 64U) {
            bits.drop(step.bits);
            return nullptr;
        }
        // One code by itself: a long one, the one that fills the block, or what is wrong.
        bits.fill();
        auto code = table.look(bits.top());
        if (code.length == 0) code = table.slow(bits.top());
        const unsigned run = code.symbol >> 4;
        const unsigned size = code.symbol & 15;
        if (code.length == 0 || (size == 0 && run != 0 && run < 15)) return kNoCode;
        bits.drop(code.length + static_cast<int>(size));
        if (code.symbol == 0) return nullptr;
        k += run + 1;
    }
    return k > 64 ? kTooMany : nullptr;
}

}  // namespace

// Works on a copy of the reader, which the compiler can keep in registers.
bool StreamDecoder::sequentialMcu(BitReader& reader, std::uint32_t x, std::uint32_t y) {
    const bool alone = partCount_ == 1;
    BitReader bits = reader;
    const char* wrong = nullptr;
    for (std::size_t i = 0; i < partCount_ && wrong == nullptr; ++i) {
        auto& part = parts_[i];
        const auto& component = frame_.components[part.index];
        const std::size_t wide = alone ? 1 : component.h;
        const std::size_t blocks = alone ? 1 : wide * component.v;
        const auto& dcTable = *dcTables_[component.dcTable];
        const auto& acTable = *acTables_[component.acTable];
        std::int16_t* kept = nullptr;
        std::size_t width = 0;
        if (planes_ != nullptr) {
            auto& plane = planes_->planes[part.index];
            width = plane.width;
            kept = plane.dc.data() + blocks / wide * y * width + wide * x;
        }
        int value = part.dcPrediction;
        const int most = part.mostDc;
        for (std::size_t at = 0, column = 0; at < blocks; ++at) {
            bits.fill();
            const auto step = dcTable.dcStep(bits.top());
            if (step.bits != 0) [[likely]] {
                bits.drop(step.bits);
                value += step.difference;
            } else if (const auto further = longDifference(bits, dcTable)) {
                value += *further;
            } else {
                wrong = kNoCode;
                break;
            }
            if (value > most || value < -most) {
                wrong = kTooBright;
                break;
            }
            if (kept != nullptr) kept[column] = static_cast<std::int16_t>(value);
            wrong = passCoefficients(bits, acTable);
            if (wrong != nullptr) break;
            if (++column == wide) {
                column = 0;
                if (kept != nullptr) kept += width;
            }
        }
        part.dcPrediction = value;
    }
    reader = bits;
    if (wrong != nullptr) reason_ = wrong;
    return wrong == nullptr;
}

bool StreamDecoder::progressiveMcu(BitReader& bits, std::uint32_t x, std::uint32_t y) {
    if (partCount_ == 1) return block(bits, parts_[0], x, y);
    for (std::size_t i = 0; i < partCount_; ++i) {
        auto& part = parts_[i];
        const auto& component = frame_.components[part.index];
        for (std::uint32_t v = 0; v < component.v; ++v) {
            for (std::uint32_t h = 0; h < component.h; ++h) {
                if (!block(bits, part, x * component.h + h, y * component.v + v)) return false;
            }
        }
    }
    return true;
}

bool StreamDecoder::block(BitReader& bits, ScanComponent& part, std::uint32_t x, std::uint32_t y) {
    const auto& component = frame_.components[part.index];
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
    auto& history = (*history_[part.index])[std::size_t{y} * component.paddedWide + x];
    const auto before = history;
    const bool refines = approxHigh_ > 0;
    if (!(refines ? acRefine(bits, component, history) : acFirst(bits, component, history))) return false;
    if (!noting_) return true;
    auto& scan = planes_->later.back();
    const auto keep = [this](std::vector<std::uint8_t>& kept, std::uint64_t coefficients) {
        kept.resize(std::max<std::size_t>(kept.size(), mcu_ + 1));
        kept[mcu_] = static_cast<std::uint8_t>(std::popcount(coefficients));
    };
    keep(scan.busy, history ^ before);
    if (refines) keep(scan.known, before);
    return true;
}

// G.1.2.1
bool StreamDecoder::dcFirst(BitReader& bits, ScanComponent& part, const Component& component, std::uint32_t x,
                            std::uint32_t y) {
    bits.fill();
    const auto further = longDifference(bits, *dcTables_[component.dcTable]);
    if (!further) {
        reason_ = kNoCode;
        return false;
    }
    part.dcPrediction += *further;
    if (part.dcPrediction > part.mostDc || part.dcPrediction < -part.mostDc) {
        reason_ = kTooBright;
        return false;
    }
    if (planes_ != nullptr) {
        auto& plane = planes_->planes[part.index];
        plane.dc[std::size_t{y} * plane.width + x] =
            static_cast<std::int16_t>(part.dcPrediction << approxLow_);
    }
    return true;
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
            reason_ = kNoCode;
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
            reason_ = kTooMany;
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
                wrong = kNoCode;
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
                wrong = kTooMany;
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
