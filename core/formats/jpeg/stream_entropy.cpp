// The inside of a scan: restart markers, MCUs, blocks and their codes (ITU-T T.81, Annexes F and G).
#include <bit>

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

StreamDecoder::Step StreamDecoder::entropy(Bytes window, std::size_t& at, bool last) {
    // Of no meaning between two calls; kept so that its memory is.
    static thread_local CodedSegment segment;
    const auto streamBase = offset_ - at;  // stream position of window[0]
    auto base = at;                        // of the segment in the window
    BitReader bits;
    const bool marking = planes_ != nullptr && scans_ == 1;
    auto nextMark = (codedDataAt_ / DcPlanes::kMarkStep + 1 + (marking ? planes_->marks.size() : 0)) *
                    DcPlanes::kMarkStep;
    std::size_t markAt = 0;  // in the segment
    const bool blankEnds = !frame_.progressive && !zerosAreEven();
    std::size_t blankAt = SIZE_MAX;
    const auto placeMark = [&] {
        const auto from = streamBase + base;
        markAt = !marking           ? SIZE_MAX
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
        auto& history = history_[parts_[0].index];
        const auto& component = frame_.components[parts_[0].index];
        if (!history) {
            history = std::make_shared<std::vector<std::uint64_t>>(std::size_t{component.paddedWide} *
                                                                   component.paddedHigh);
        } else if (history.use_count() > 1) {
            history = std::make_shared<std::vector<std::uint64_t>>(*history);
        }
        blocks_ = history->data();
    }
    begin();
    bits.fill();
    if (bitsUsed_ > 0) bits.drop(bitsUsed_);

    while (mcu_ < mcus_) {
        if (bits.position() >= markAt) {
            planes_->marks.push_back(mcu_);
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
            word = &blocks_[y * frame_.components[index].paddedWide + x];
            savedWord = *word;
        }
        const bool good = mcu(bits);
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
    auto& history = blocks_[std::size_t{y} * component.paddedWide + x];
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

// F.2.2.2, without the values. Works on a copy of the reader, which the compiler can keep in registers. What
// costs time are the chain from one look-up to the next and branches that cannot be foreseen: a look-up
// passes several codes, and there is one branch for each, which tells the end of the block.
bool StreamDecoder::acSequential(BitReader& reader, const Component& component) {
    const auto& table = *acTables_[component.acTable];
    BitReader bits = reader;
    const char* wrong = nullptr;
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
            break;
        }
        // One code by itself: a long one, the one that fills the block, or what is wrong.
        bits.fill();
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
