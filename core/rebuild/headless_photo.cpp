#include "rebuild/headless_photo.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <string>

#include "formats/jpeg/stream_decoder.h"
#include "rebuild/block_start.h"

namespace dreskel::rebuild {
namespace {

using jpeg::Filling;
using jpeg::Lender;
using jpeg::StreamDecoder;

constexpr std::uint64_t kEndOfBits =
    16;                              // bytes: as near to the end marker as the decoder tells where it met it
constexpr double kContinues = 0.75;  // neighbours above each other differ by less than this share of others
constexpr int kBlack = -1024, kWhite = 1016;  // of a block's brightness (F.1.1.3: level shift)

struct Decoded {
    std::uint64_t bytes = 0;  // of the run, up to where it stumbled
    std::uint64_t mcus = 0;   // behind the filling's whole ones
};

// How one photo's header makes a picture of the run.
class Attempt {
  public:
    Attempt(Bytes run, bool hasEnd, const Lender& lender, BlockStart start)
        : run_(run), hasEnd_(hasEnd), lender_(lender), start_(start) {}

    std::optional<HeadlessPhoto> make() {
        Filling filling = behindRestart();
        filling.blocks = start_.phase;
        filling.bits = start_.bit;
        if (filling.mcus == 0) filling.mcus = 1;
        const auto first = farthest(filling);
        if (!first || first->bytes < kLeastCoded || first->mcus < lender_.mcusWide()) return std::nullopt;
        const bool whole = hasEnd_ && first->bytes + kEndOfBits >= run_.size() - start_.byte;
        const auto all = std::uint64_t{lender_.mcusWide()} * lender_.mcusHigh();
        if (first->mcus > all) return std::nullopt;

        HeadlessPhoto photo;
        photo.mcusWide = lender_.mcusWide();
        photo.placed = whole;
        photo.levelled = lender_.restartInterval() > 0;
        photo.mcus = first->mcus;
        const auto before = filling.mcus;
        const auto interval = std::uint64_t{lender_.restartInterval()};
        if (whole) {
            filling.mcus = all - first->mcus;
            if (interval > 0 && filling.mcus % interval != 0) return std::nullopt;
        } else {
            filling.mcus = edge(before, first->mcus);
        }
        if (interval == 0) {
            const auto shift = levels(before);
            for (std::size_t c = 0; c < shift.size(); ++c) filling.level[c] += shift[c];
        }
        const auto rows = (filling.mcus + photo.mcus + photo.mcusWide - 1) / photo.mcusWide;
        const auto height =
            whole ? lender_.height() : std::min<std::uint64_t>(rows * lender_.mcuHeight(), 65535);
        const auto second = decode(filling, static_cast<std::uint32_t>(height));
        if (!second || second->mcus + 1 < photo.mcus || !continues(filling.mcus, photo.mcus))
            return std::nullopt;
        photo.firstMcu = filling.mcus;
        photo.allMcus = whole ? all : rows * photo.mcusWide;
        photo.from = joined_.from;
        photo.to = whole ? run_.size() : std::min<std::uint64_t>(run_.size(), start_.byte + first->bytes);
        photo.front = std::move(front_);
        if (!whole) photo.behind = {0xff, 0xd9};
        photo.filling = filling;
        photo.startsAt = start_.byte;
        return photo;
    }

  private:
    // With the guess at the brightness that leads on farthest; `filling` keeps it.
    std::optional<Decoded> farthest(Filling& filling) {
        std::optional<Decoded> best;
        int level = 0;
        for (const auto guess : kBrightnesses) {
            filling.level[0] = guess / lender_.parts()[0].quant;
            const auto decoded = decode(filling, lender_.height());
            if (!decoded || (best && decoded->bytes <= best->bytes)) continue;
            best = decoded;
            level = filling.level[0];
            if (best->bytes + kEndOfBits >= run_.size() - start_.byte || lender_.restartInterval() > 0) break;
        }
        filling.level[0] = level;
        return best ? decode(filling, lender_.height()) : std::nullopt;
    }

    // With restart markers: up to where the marker in front of the start may be; every eighth one has its
    // number.
    Filling behindRestart() const {
        Filling filling;
        const auto interval = lender_.restartInterval();
        if (interval == 0) return filling;
        const auto number = std::uint64_t{run_[start_.byte - 1]} & 7U;
        filling.mcus = (number + 1) * interval;
        return filling;
    }

    std::optional<Decoded> decode(const Filling& filling, std::uint32_t height) {
        planes_ = {};
        StreamDecoder decoder(&planes_);
        const auto filled = jpeg::fill(lender_, filling);
        if (!filled) return std::nullopt;
        front_ = lender_.header(height);
        front_.insert(front_.end(), filled->bytes.begin(), filled->bytes.end());
        joined_ = joinBits(run_, start_.byte, start_.bit, filled->begun);
        front_.insert(front_.end(), joined_.shared.begin(), joined_.shared.end());
        decoder.feed(front_, false);
        decoder.feed(run_.subspan(joined_.from), true);
        frame_ = decoder.frame();
        const auto all = std::uint64_t{frame_.mcusWide} * frame_.mcusHigh;
        const bool ended = decoder.state() == StreamDecoder::State::Ended;
        const auto reached = ended ? all : std::min(all, decoder.breakPoint().mcu);
        const auto end = ended ? front_.size() + run_.size() - joined_.from : decoder.breakPoint().byte;
        if (reached < filling.mcus || end < front_.size()) return std::nullopt;
        return Decoded{end - front_.size(), reached - filling.mcus};
    }

    // Brightness of an MCU's first block of a component, by its place in the order of the data.
    int at(std::uint64_t mcu, std::size_t component = 0) const {
        const auto& plane = planes_.planes[component];
        const auto& part = frame_.components[component];
        const auto x = mcu % lender_.mcusWide() * part.h, y = mcu / lender_.mcusWide() * part.v;
        return plane.dc[static_cast<std::size_t>(y * plane.width + x)];
    }

    // How much the picture jumps from the block in front of each to it, by where it stands in the row.
    std::vector<double> jumps(std::uint64_t before, std::uint64_t count) const {
        const auto wide = lender_.mcusWide();
        std::vector<double> sums(wide);
        std::vector<std::uint64_t> counts(wide);
        for (auto mcu = before + 1; mcu < before + count; ++mcu) {
            for (std::size_t c = 0; c < planes_.planes.size(); ++c)
                sums[mcu % wide] += std::abs(at(mcu, c) - at(mcu - 1, c)) * planes_.planes[c].quant;
            ++counts[mcu % wide];
        }
        for (std::size_t i = 0; i < wide; ++i) {
            if (counts[i] > 0) sums[i] /= static_cast<double>(counts[i]);
        }
        return sums;
    }

    // How many MCUs must stand in front for the jump between the ends of two rows to come to the picture's
    // edge; with restart markers their numbers leave few to choose from.
    std::uint64_t edge(std::uint64_t before, std::uint64_t count) const {
        const std::uint64_t wide = lender_.mcusWide();
        const auto interval = std::uint64_t{lender_.restartInterval()};
        const auto jump = jumps(before, count);
        const auto first = interval > 0 ? before : 1;
        const auto step = interval > 0 ? 8 * interval : 1;
        const auto all = wide * lender_.mcusHigh();
        auto best = first;
        double most = -1;
        for (std::uint64_t i = 0, filling = first; i < wide; ++i, filling += step) {
            // No picture of this camera reaches further down.
            if (interval > 0 && filling > first && filling + count > all) break;
            const auto value =
                jump[static_cast<std::size_t>((before + filling / wide * wide + wide - filling) % wide)];
            if (value > most * 1.0001) {
                most = value;
                best = filling;
            }
        }
        return best;
    }

    // So that nothing is darker than black or brighter than white, and colours lie about grey.
    std::array<int, 4> levels(std::uint64_t before) const {
        std::array<int, 4> levels{};
        for (std::size_t c = 0; c < planes_.planes.size() && c < levels.size(); ++c) {
            const auto& plane = planes_.planes[c];
            const auto& part = frame_.components[c];
            const auto from = (before / lender_.mcusWide() + 1) * part.v * plane.width;
            std::vector<int> values;
            for (auto i = static_cast<std::size_t>(from); i < plane.dc.size(); ++i) {
                if (plane.dc[i] != 0) values.push_back(plane.dc[i]);
            }
            if (values.empty()) continue;
            std::sort(values.begin(), values.end());
            const int quant = std::max<int>(1, plane.quant);
            const auto low = values[values.size() / 200],
                       high = values[values.size() - 1 - values.size() / 200];
            const auto middle = values[values.size() / 2];
            const int least = kBlack / quant - low, most = kWhite / quant - high;
            levels[c] = least > most ? (least + most) / 2
                        : c == 0     ? (least + most) / 2
                                     : std::clamp(-middle, least, most);
        }
        return levels;
    }

    // Whether what stands above each other belongs together: with a wrong width it does not.
    bool continues(std::uint64_t first, std::uint64_t count) const {
        const auto wide = std::uint64_t{lender_.mcusWide()};
        const auto all = std::uint64_t{frame_.mcusWide} * frame_.mcusHigh;
        const auto end = std::min(all, first + count);
        double above = 0, elsewhere = 0;
        for (auto mcu = first + wide; mcu < end; ++mcu) {
            above += std::abs(at(mcu) - at(mcu - wide));
            const auto other = (mcu - wide) / wide * wide + (mcu + wide / 3) % wide;
            if (other >= first) elsewhere += std::abs(at(mcu) - at(other));
        }
        return above < elsewhere * kContinues;
    }

    Bytes run_;
    bool hasEnd_;
    const Lender& lender_;
    BlockStart start_;
    jpeg::DcPlanes planes_;
    jpeg::Frame frame_;
    std::vector<std::uint8_t> front_;
    JoinedBits joined_;
};

}  // namespace

std::optional<HeadlessPhoto> withoutBeginning(Bytes run, bool hasEnd, const std::vector<Lender>& lenders,
                                              const Control& control) {
    if (run.size() < kLeastCoded) return std::nullopt;
    std::map<std::string, std::optional<BlockStart>> starts;  // by coding
    for (std::size_t i = 0; i < lenders.size() && !control.stopped(); ++i) {
        const auto& lender = lenders[i];
        auto known = starts.find(lender.coding());
        if (known == starts.end())
            known = starts.emplace(lender.coding(), findBlockStart(run, lender, control)).first;
        if (!known->second) continue;
        auto photo = Attempt(run, hasEnd, lender, *known->second).make();
        if (!photo) continue;
        photo->lender = i;
        return photo;
    }
    return std::nullopt;
}

}  // namespace dreskel::rebuild
