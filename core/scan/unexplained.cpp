#include "scan/unexplained.h"

#include <algorithm>
#include <array>
#include <map>

namespace dreskel {
namespace {

constexpr std::uint64_t kBlock = 4096;  // bytes looked at in one place
constexpr std::uint64_t kLooks = 6;     // places in a stretch

}  // namespace

std::vector<Stretch> lookAtUnexplained(const Source& source, const std::vector<ByteRange>& ranges,
                                       const std::function<bool()>& goOn) {
    std::vector<Stretch> stretches;
    std::array<std::uint8_t, kBlock> block;
    const std::uint64_t sector = source.sectorSize();
    for (const auto& range : ranges) {
        if (!goOn()) break;
        std::map<BlockKind, int> seen;
        const auto looks = std::clamp<std::uint64_t>(range.length / kBlock, 1, kLooks);
        for (std::uint64_t look = 0; look < looks; ++look) {
            const auto at = range.offset + range.length / looks * look / sector * sector;
            const auto length = std::min(kBlock, range.end() - at);
            const MutableBytes into(block.data(), static_cast<std::size_t>(length));
            const auto outcome = source.read(at, into);
            if (outcome.count > 0) ++seen[kindOfBlock(Bytes(block.data(), outcome.count))];
        }
        Stretch stretch{range, BlockKind::Structured, seen.size() > 1};
        const auto most = std::max_element(seen.begin(), seen.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        if (most != seen.end()) stretch.kind = most->first;
        stretches.push_back(stretch);
    }
    return stretches;
}

}  // namespace dreskel
