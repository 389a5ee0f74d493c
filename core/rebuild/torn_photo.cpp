#include "rebuild/torn_photo.h"

#include <algorithm>
#include <array>

#include "formats/jpeg/stream_decoder.h"
#include "rebuild/block_start.h"

namespace dreskel::rebuild {
namespace {

using jpeg::DcPlanes;
using jpeg::StreamDecoder;

constexpr std::size_t kLookedThrough = 8192;  // bytes before the tear in which a place to stop is looked for
constexpr std::uint64_t kLeastMissing = 12;   // MCUs: the brightness must have room to change
// Of MCUs, or a quarter of the picture: over so few it is much the same.
constexpr std::uint64_t kFewRows = 12;
constexpr int kTornBlack = -1024, kTornWhite = 1016;  // of a block's brightness (F.1.1.3: level shift)

// Where the beginning can be left: an MCU ends there with a whole byte.
struct Leave {
    std::uint64_t byte = 0, mcu = 0;
};

class Tear {
  public:
    Tear(Bytes beginning, Bytes run, const HeadlessPhoto& lower, const jpeg::Lender& tables)
        : beginning_(beginning), run_(run), lower_(lower), tables_(tables) {}

    std::optional<TornPhoto> mend() {
        const auto leave = tables_.restartInterval() > 0 ? atRestart() : atWholeByte();
        if (!leave) return std::nullopt;
        auto filling = lower_.filling;
        filling.first = leave->mcu;
        if (tables_.restartInterval() == 0) {
            filling.before = reachedAt(leave->mcu);
            level(filling, leave->mcu);
        }
        const auto filled = jpeg::fill(tables_, filling);
        if (!filled) return std::nullopt;
        const auto joined = joinBits(run_, lower_.startsAt, filling.bits, filled->begun);
        TornPhoto torn{leave->byte, filled->bytes, joined.from, leave->mcu, lower_.firstMcu - leave->mcu};
        torn.between.insert(torn.between.end(), joined.shared.begin(), joined.shared.end());
        return decodes(torn) ? std::optional(std::move(torn)) : std::nullopt;
    }

  private:
    bool mayLeaveAt(std::uint64_t mcu) const { return mcu > 0 && mcu + kLeastMissing <= lower_.firstMcu; }

    std::optional<Leave> atWholeByte() {
        StreamDecoder decoder(&planes_);
        const auto bulk = beginning_.size() - std::min(beginning_.size(), kLookedThrough);
        decoder.feed(beginning_.first(bulk), false);
        std::optional<Leave> last;
        for (auto at = bulk; at < beginning_.size() && decoder.state() == StreamDecoder::State::Hungry;
             ++at) {
            decoder.feed(beginning_.subspan(at, 1), false);
            if (decoder.scans() != 1 || !decoder.betweenMcus() || beginning_[at] == 0xff) continue;
            if (!mayLeaveAt(decoder.mcu())) continue;
            last = Leave{at + 1, decoder.mcu()};
        }
        return last;
    }
    std::optional<Leave> atRestart() {
        StreamDecoder decoder(&planes_);
        decoder.feed(beginning_, false);
        std::uint64_t passed = 0;
        std::optional<Leave> last;
        const auto end = std::min<std::uint64_t>(decoder.offset(), beginning_.size());
        for (auto at = decoder.codedDataAt(); at > 0 && at + 1 < end; ++at) {
            const auto code = beginning_[static_cast<std::size_t>(at) + 1];
            if (beginning_[static_cast<std::size_t>(at)] != 0xff || code < 0xd0 || code > 0xd7) continue;
            const auto mcu = ++passed * tables_.restartInterval();
            if (mayLeaveAt(mcu)) last = Leave{at + 2, mcu};
        }
        return last;
    }

    // The brightness of the last blocks in front of an MCU.
    std::array<int, 4> reachedAt(std::uint64_t mcu) const {
        std::array<int, 4> reached{};
        const auto x = (mcu - 1) % tables_.mcusWide(), y = (mcu - 1) / tables_.mcusWide();
        for (std::size_t c = 0; c < planes_.planes.size() && c < reached.size(); ++c) {
            const auto& plane = planes_.planes[c];
            const auto h = plane.width / tables_.mcusWide(), v = plane.height / tables_.mcusHigh();
            reached[c] = plane.dc[static_cast<std::size_t>((y * v + v - 1) * plane.width + x * h + h - 1)];
        }
        return reached;
    }

    // The middle of what is in a row of MCUs.
    static std::optional<int> middleOf(const DcPlanes::Plane& plane, std::uint64_t row, std::uint64_t v) {
        std::vector<int> values;
        for (auto y = row * v; y < (row + 1) * v && y < plane.height; ++y) {
            for (std::uint64_t x = 0; x < plane.width; ++x)
                values.push_back(plane.dc[static_cast<std::size_t>(y * plane.width + x)]);
        }
        if (values.empty()) return std::nullopt;
        const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
        std::nth_element(values.begin(), middle, values.end());
        return *middle;
    }

    // How much darker and brighter what lies from a row of blocks on may become, but for a few.
    static std::pair<int, int> room(const DcPlanes::Plane& plane, std::uint64_t row) {
        std::vector<std::int16_t> values(plane.dc.begin() + static_cast<std::ptrdiff_t>(row * plane.width),
                                         plane.dc.end());
        if (values.empty()) return {0, 0};
        std::sort(values.begin(), values.end());
        const auto few = values.size() / 100;
        const int quant = std::max<int>(1, plane.quant);
        return {kTornBlack / quant - values[few], kTornWhite / quant - values[values.size() - 1 - few]};
    }

    // Below a small tear the picture is taken to be as bright, and of the tint, as above it.
    void level(jpeg::Filling& filling, std::uint64_t from) const {
        const std::uint64_t wide = tables_.mcusWide();
        const auto above = from / wide, below = lower_.firstMcu / wide + 1;
        const auto few = std::max<std::uint64_t>(kFewRows, tables_.mcusHigh() / 4);
        if (above == 0 || below - above > few + 1 || below >= tables_.mcusHigh()) return;
        DcPlanes planes;
        StreamDecoder decoder(&planes);
        decoder.feed(lower_.front, false);
        decoder.feed(run_.subspan(static_cast<std::size_t>(lower_.from)), true);
        for (std::size_t c = 0; c < planes.planes.size() && c < planes_.planes.size(); ++c) {
            const auto v = planes.planes[c].height / tables_.mcusHigh();
            const auto upper = middleOf(planes_.planes[c], above - 1, v);
            const auto lower = middleOf(planes.planes[c], below, v);
            if (!upper || !lower) continue;
            const auto [least, most] = room(planes.planes[c], below * v);
            filling.level[c] += least > most ? 0 : std::clamp(*upper - *lower, least, most);
        }
    }

    bool decodes(const TornPhoto& torn) const {
        StreamDecoder decoder;
        decoder.feed(beginning_.first(static_cast<std::size_t>(torn.upTo)), false);
        decoder.feed(torn.between, false);
        decoder.feed(run_.subspan(static_cast<std::size_t>(torn.from)), true);
        return decoder.state() == StreamDecoder::State::Ended;
    }

    Bytes beginning_, run_;
    const HeadlessPhoto& lower_;
    const jpeg::Lender& tables_;
    DcPlanes planes_;
};

}  // namespace

std::optional<TornPhoto> acrossTear(Bytes beginning, Bytes run, const HeadlessPhoto& lower,
                                    const jpeg::Lender& tables) {
    if (!lower.placed || lower.startsAt >= run.size()) return std::nullopt;
    return Tear(beginning, run, lower, tables).mend();
}

}  // namespace dreskel::rebuild
