// The inside of a scan: restart markers, MCUs, blocks and their codes (ITU-T T.81, Annexes F and G).
#include <algorithm>
#include <bit>
#include <optional>
#include <utility>

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
    if (scans_ == 1) return planes_->steps(codedDataAt_) + 1;
    auto& first = planes_->later.back().firstMark;
    if (first == 0) first = planes_->steps(offset_) + 1;
    return first;
}

StreamDecoder::Step StreamDecoder::entropy(Bytes window, std::size_t& at, bool last) {
    // Of no meaning between two calls; kept so that its memory is.
    static thread_local CodedSegment segment;
    const auto streamBase = offset_ - at;  // stream position of window[0]
    auto base = at;                        // of the segment in the window
    BitReader bits;
    auto* marks = marksOfScan();
    auto nextMark = marks == nullptr ? 0 : planes_->byteOf(firstMarkOfScan() + marks->size());
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
    const auto scan = sequentialScan();
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
        if (!frame_.progressive) {
            const auto most =
                std::min(mcus_ - mcu_,
                         restartInterval_ == 0 ? mcus_ : std::uint64_t{restartInterval_ - sinceRestart_});
            auto predictions = this->predictions();
            const auto run = passMcus(bits, scan, predictions, mcu_, most, std::min(markAt, blankAt));
            predict(predictions);
            passed(run);
            if (run > 0) continue;
        }
        // By itself: it is where something is noted, or wrong, or where the data at hand end.
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
        const bool good = mcu(bits, scan);
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
        passed(1);
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

bool StreamDecoder::mcu(BitReader& bits, const SequentialScan& scan) {
    if (frame_.progressive) {
        const auto at = static_cast<std::uint32_t>(mcu_);
        return progressiveMcu(bits, at % scanWide_, at / scanWide_);
    }
    auto predictions = this->predictions();
    const auto* wrong = passMcu(bits, scan, predictions, mcu_);
    predict(predictions);
    if (wrong != nullptr) reason_ = wrong;
    return wrong == nullptr;
}

SequentialScan StreamDecoder::sequentialScan() const {
    SequentialScan scan;
    if (frame_.progressive) return scan;
    scan.count = partCount_;
    scan.mcusWide = scanWide_;
    for (std::size_t i = 0; i < partCount_; ++i) {
        const auto& component = frame_.components[parts_[i].index];
        auto& part = scan.parts[i];
        part.dcTable = dcTables_[component.dcTable].get();
        part.acTable = acTables_[component.acTable].get();
        part.mostDc = parts_[i].mostDc;
        if (partCount_ > 1) {
            part.wide = component.h;
            part.high = component.v;
        }
        if (planes_ == nullptr) continue;
        auto& plane = planes_->planes[parts_[i].index];
        part.plane = plane.dc.data();
        part.planeWidth = plane.width;
    }
    return scan;
}

DcPredictions StreamDecoder::predictions() const {
    DcPredictions all{};
    for (std::size_t i = 0; i < partCount_; ++i) all[i] = parts_[i].dcPrediction;
    return all;
}

void StreamDecoder::predict(const DcPredictions& predictions) {
    for (std::size_t i = 0; i < partCount_; ++i) parts_[i].dcPrediction = predictions[i];
}

// Only blocks that hold samples count towards what of the picture is there.
std::uint64_t StreamDecoder::blocksIn(const Component& component, std::uint64_t mcus) const {
    if (partCount_ == 1) return mcus;
    const auto rows = std::min<std::uint64_t>(mcus / frame_.mcusWide * component.v, component.blocksHigh);
    const auto across = std::min<std::uint64_t>(mcus % frame_.mcusWide * component.h, component.blocksWide);
    return rows * component.blocksWide +
           across * std::min<std::uint64_t>(component.v, component.blocksHigh - rows);
}

void StreamDecoder::passed(std::uint64_t mcus) {
    const auto before = std::exchange(mcu_, mcu_ + mcus);
    sinceRestart_ += static_cast<std::uint32_t>(mcus);
    if (spectralStart_ > 0 || approxHigh_ > 0) return;
    for (std::size_t i = 0; i < partCount_; ++i) {
        const auto index = parts_[i].index;
        const auto& component = frame_.components[index];
        blocksDone_[index] += blocksIn(component, mcu_) - blocksIn(component, before);
    }
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
