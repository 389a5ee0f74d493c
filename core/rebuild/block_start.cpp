#include "rebuild/block_start.h"

#include <algorithm>
#include <string>

#include "formats/jpeg/stream_decoder.h"

namespace dreskel::rebuild {
namespace {

using jpeg::Filling;
using jpeg::Lender;
using jpeg::StreamDecoder;

constexpr std::size_t kMostBits = 2500;   // in which the first block is looked for
constexpr std::size_t kFirstBytes = 256;  // of a try; in a wrong place most stumble in them

// One coding, as several photos may share it: finds where blocks begin.
class Search {
  public:
    Search(Bytes run, const Lender& lender) : run_(run), lender_(lender) {
        if (lender.restartInterval() > 0) return;
        headed_.feed(lender.header(lender.height()), false);
        scan_ = headed_.sequentialScan();
        // What the first block of each component counts from is not known: the others may differ from it by
        // all there is.
        for (auto& part : scan_.parts) part.mostDc *= 2;
        coded_.load(run.first(std::min(run.size(), kMostBits / 8 + 2 * kLeastCoded)));
        leadsNowhere_.resize(coded_.clean().size() * 8 + 64);
    }

    std::optional<BlockStart> find(const Control& control) {
        if (lender_.restartInterval() > 0) return atRestart();
        if (scan_.count == 0) return std::nullopt;  // no picture comes of what the lender says
        const auto bytes = coded_.clean();
        for (std::size_t at = 0; at < kMostBits && at / 8 + kLeastCoded < bytes.size(); ++at) {
            if (control.stopped()) return std::nullopt;
            const auto place = coded_.inWindow(at / 8);
            for (int phase = 0; phase < lender_.blocksOfMcu(); ++phase) {
                const BlockStart start{place, static_cast<int>(at % 8), phase};
                if (mayHold(at, phase) && holds(start)) return start;
            }
        }
        return std::nullopt;
    }

  private:
    // A place among the bits where an MCU begins, and what the brightness of the next one is told from.
    struct Step {
        std::size_t bit = 0;
        jpeg::DcPredictions predictions{};
    };

    // What can be told without a guess at the brightness, which is nearly all. Decodings from different
    // places soon run along the same bits: where one of them led to nothing, none that comes to the same
    // place need be followed.
    bool mayHold(std::size_t bit, int phase) {
        const auto bytes = coded_.clean().subspan(bit / 8);
        jpeg::BitReader bits(bytes);
        bits.fill();
        bits.drop(static_cast<int>(bit % 8));
        jpeg::DcPredictions predictions{};
        if (jpeg::passRestOfMcu(bits, scan_, predictions, static_cast<std::size_t>(phase)) != nullptr)
            return false;
        steps_.clear();
        auto least = predictions, most = predictions;
        while (bits.position() < kLeastCoded) {
            const auto mark = bits.mark();
            const auto here = (bit / 8 + mark.byte) * 8 + static_cast<std::size_t>(mark.bitsUsed);
            if (leadsNowhere_[here]) return fails(steps_.size());
            steps_.push_back({here, predictions});
            if (jpeg::passMcus(bits, scan_, predictions, 0, 1, SIZE_MAX) == 0) {
                const auto* wrong = jpeg::passMcu(bits, scan_, predictions, 0);
                return fails(wrong == jpeg::kTooBright ? 0 : steps_.size());
            }
            for (std::size_t i = 0; i < scan_.count; ++i) {
                least[i] = std::min(least[i], predictions[i]);
                most[i] = std::max(most[i], predictions[i]);
                if (most[i] - least[i] > scan_.parts[i].mostDc) return fails(tooWideUpTo(i, predictions[i]));
            }
        }
        return true;
    }
    // So many of the steps, from the first on, lead to nothing wherever one comes from.
    bool fails(std::size_t steps) {
        for (std::size_t i = 0; i < steps; ++i) leadsNowhere_[steps_[i].bit] = true;
        return false;
    }
    // How many steps see a component range more widely behind them than from black to white.
    std::size_t tooWideUpTo(std::size_t component, int last) const {
        auto least = last, most = last;
        auto steps = steps_.size();
        for (; steps > 0; --steps) {
            const auto value = steps_[steps - 1].predictions[component];
            least = std::min(least, value);
            most = std::max(most, value);
            if (most - least > scan_.parts[component].mostDc) break;
        }
        return steps;
    }
    bool holds(const BlockStart& start) const {
        for (const auto guess : kBrightnesses) {
            const Filling filling{0, 1, start.phase, start.bit, {guess / lender_.parts()[0].quant}, {}};
            const auto filled = jpeg::fill(lender_, filling);
            if (!filled) continue;
            auto decoder = headed_;
            decoder.feed(filled->bytes, false);
            if (decoder.state() != StreamDecoder::State::Hungry) continue;
            const auto why = stumbles(std::move(decoder), filled->begun, start);
            if (why.empty()) return true;
            if (why != jpeg::kTooBright) return false;
        }
        return false;
    }
    std::string stumbles(StreamDecoder decoder, std::uint8_t begun, const BlockStart& start) const {
        const auto joined = joinBits(run_, start.byte, start.bit, begun);
        decoder.feed(joined.shared, false);
        for (std::uint64_t at = joined.from, length = kFirstBytes; at < joined.from + kLeastCoded;
             at += length, length *= 4) {
            if (decoder.feed(slice(run_, at, length), false) == StreamDecoder::State::Broken)
                return decoder.breakPoint().why;
        }
        return {};
    }
    // Everything begins anew there, brightness too.
    std::optional<BlockStart> atRestart() const {
        for (std::size_t at = 0; at + 2 + kLeastCoded < run_.size(); ++at) {
            if (run_[at] == 0xff && run_[at + 1] >= 0xd0 && run_[at + 1] <= 0xd7)
                return BlockStart{at + 2, 0, 0};
        }
        return std::nullopt;
    }

    Bytes run_;
    const Lender& lender_;
    StreamDecoder headed_;  // behind the header: the same for all of them
    jpeg::SequentialScan scan_;
    jpeg::CodedSegment coded_;        // of the run's beginning
    std::vector<Step> steps_;         // of the decoding in hand
    std::vector<bool> leadsNowhere_;  // by bit of the clean data, where an MCU begins
};

}  // namespace

JoinedBits joinBits(Bytes run, std::size_t byte, int bit, std::uint8_t begun) {
    if (bit == 0) return {{}, byte};
    const auto both = static_cast<std::uint8_t>(begun | (run[byte] & (0xffU >> bit)));
    // 0xff in coded data is followed by a stuffed zero.
    const bool stuffed = both == 0xff;
    JoinedBits joined{std::vector<std::uint8_t>(stuffed ? 2 : 1), byte + 1};
    joined.shared.front() = both;
    if (run[byte] == 0xff) ++joined.from;  // its stuffing
    return joined;
}

std::optional<BlockStart> findBlockStart(Bytes run, const Lender& lender, const Control& control) {
    return Search(run, lender).find(control);
}

}  // namespace dreskel::rebuild
