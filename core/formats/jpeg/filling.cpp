// Coded data that stand for missing blocks.
#include <array>
#include <bit>
#include <cstdlib>

#include "formats/jpeg/lender.h"

namespace dreskel::jpeg {
namespace {

constexpr int kBand = 12;               // of quantised brightness, to both sides of mid-grey
constexpr std::uint64_t kWidth = 6;     // of a band, in MCUs
constexpr std::uint64_t kApproach = 8;  // MCUs before the end in which the level is reached

class BitWriter {
  public:
    void put(std::uint32_t bits, int count) {
        for (int i = count - 1; i >= 0; --i) {
            begun_ = static_cast<std::uint8_t>(begun_ | (bits >> i & 1U) << (7 - count_));
            if (++count_ < 8) continue;
            bytes_.push_back(begun_);
            if (begun_ == 0xff) bytes_.push_back(0);
            begun_ = 0;
            count_ = 0;
        }
    }
    // Up to a whole byte with ones, then a restart marker (F.1.2.3, E.1.4).
    void restart(unsigned number) {
        while (count_ > 0) put(1, 1);
        bytes_.push_back(0xff);
        bytes_.push_back(static_cast<std::uint8_t>(0xd0U + (number & 7U)));
    }
    int count() const { return count_; }
    Filled take() { return {std::move(bytes_), begun_}; }

  private:
    std::vector<std::uint8_t> bytes_;
    std::uint8_t begun_ = 0;
    int count_ = 0;
};

// Coefficients whose codes together are so many bits long, modulo eight; each a run and size (F.1.2.2).
std::optional<std::vector<std::uint8_t>> symbolsOf(const Lender::Part& part, int bits) {
    std::array<std::optional<std::vector<std::uint8_t>>, 8> ways;
    ways[0].emplace();
    // The shortest way first; no way has more than seven steps.
    for (int steps = 0; steps < 7 && !ways[static_cast<std::size_t>(bits)]; ++steps) {
        const auto known = ways;
        for (std::size_t from = 0; from < known.size(); ++from) {
            if (!known[from] || known[from]->size() != static_cast<std::size_t>(steps)) continue;
            for (unsigned symbol = 0x01; symbol < 0x64; ++symbol) {
                const auto size = symbol & 15U;
                const auto length = part.ac[symbol].length;
                if (size == 0 || size > 6 || length == 0) continue;
                const auto to = (from + length + size) % 8;
                if (ways[to]) continue;
                ways[to] = known[from];
                ways[to]->push_back(static_cast<std::uint8_t>(symbol));
            }
        }
    }
    return ways[static_cast<std::size_t>(bits)];
}

class Writer {
  public:
    Writer(const Lender& lender, const Filling& filling) : lender_(lender), filling_(filling) {}

    // `extra`: coefficients of the first block behind the last restart marker.
    BitWriter write(const std::vector<std::uint8_t>& extra) {
        BitWriter out;
        const auto interval = lender_.restartInterval();
        const auto lastRestart =
            interval > 0 ? std::max(filling_.first, filling_.mcus / interval * interval) : filling_.first;
        auto before = filling_.before;
        const auto all = filling_.mcus + (filling_.blocks > 0 ? 1 : 0);
        for (std::uint64_t mcu = filling_.first; mcu < all; ++mcu) {
            if (interval > 0 && mcu > filling_.first && mcu % interval == 0) {
                out.restart(static_cast<unsigned>(mcu / interval - 1));
                before = {};
            }
            int block = 0;
            for (std::size_t c = 0; c < lender_.parts().size(); ++c) {
                const auto& part = lender_.parts()[c];
                for (int i = 0; i < part.blocks; ++i, ++block) {
                    if (mcu == filling_.mcus && block >= filling_.blocks) break;
                    const bool near = mcu + kApproach >= filling_.mcus && interval == 0;
                    brightness(out, part, before[c], near ? filling_.level[c] : bandAt(mcu, c));
                    if (mcu == lastRestart && block == 0) coefficients(out, part, extra);
                    out.put(part.ac[0].bits, part.ac[0].length);
                }
            }
        }
        if (interval > 0 && filling_.mcus > filling_.first && filling_.blocks == 0 &&
            filling_.mcus % interval == 0)
            out.restart(static_cast<unsigned>(filling_.mcus / interval - 1));
        return out;
    }

  private:
    int bandAt(std::uint64_t mcu, std::size_t component) const {
        const auto x = mcu % lender_.mcusWide(), y = mcu / lender_.mcusWide();
        if (component > 0) return 0;
        return (x + y) / kWidth % 2 == 0 ? kBand : -kBand;
    }
    // As near to the target as the codes there are allow in one block.
    static void brightness(BitWriter& out, const Lender::Part& part, int& before, int target) {
        auto step = target - before;
        auto size = static_cast<int>(std::bit_width(static_cast<unsigned>(std::abs(step))));
        if (size > 11 || part.dc[static_cast<std::size_t>(size)].length == 0) {
            int fits = 0;
            for (int known = 1; known < std::min<int>(size, 12); ++known) {
                if (part.dc[static_cast<std::size_t>(known)].length > 0) fits = known;
            }
            step = step < 0 ? -((1 << fits) - 1) : (1 << fits) - 1;
            size = fits;
        }
        before += step;
        const auto& code = part.dc[static_cast<std::size_t>(size)];
        out.put(code.bits, code.length);
        const auto raw = step < 0 ? step + (1 << size) - 1 : step;
        out.put(static_cast<std::uint32_t>(raw), static_cast<int>(size));
    }
    static void coefficients(BitWriter& out, const Lender::Part& part,
                             const std::vector<std::uint8_t>& symbols) {
        for (const auto symbol : symbols) {
            const auto& code = part.ac[symbol];
            out.put(code.bits, code.length);
            out.put(1U << ((symbol & 15U) - 1U), symbol & 15);
        }
    }

    const Lender& lender_;
    const Filling& filling_;
};

}  // namespace

std::optional<Filled> fill(const Lender& lender, const Filling& filling) {
    Writer writer(lender, filling);
    auto plain = writer.write({});
    if (plain.count() == filling.bits) return plain.take();
    if (filling.mcus <= filling.first && filling.blocks == 0) return std::nullopt;
    const auto symbols = symbolsOf(lender.parts()[0], (filling.bits - plain.count() + 8) % 8);
    if (!symbols) return std::nullopt;
    auto longer = writer.write(*symbols);
    if (longer.count() != filling.bits) return std::nullopt;
    return longer.take();
}

}  // namespace dreskel::jpeg
