#include "source/tolerant_read.h"

#include <algorithm>

namespace dreskel {
namespace {

void narrow(const Source& source, std::uint64_t offset, MutableBytes into, RangeSet& bad) {
    const auto sector = static_cast<std::size_t>(source.sectorSize());
    const auto outcome = source.read(offset, into);
    if (outcome.count == into.size()) return;

    // What came back before the failure is good; only whole sectors of it are believed.
    const auto good = outcome.count - outcome.count % sector;
    const auto rest = into.subspan(good);
    const auto at = offset + good;
    if (rest.size() <= sector || outcome.error == 0) {
        std::fill(rest.begin(), rest.end(), std::uint8_t{0});
        bad.add({at, rest.size()});
        return;
    }
    const auto sectors = (rest.size() + sector - 1) / sector;
    const auto half = (sectors / 2) * sector;
    narrow(source, at, rest.first(half), bad);
    narrow(source, at + half, rest.subspan(half), bad);
}

}  // namespace

std::vector<ByteRange> readTolerant(const Source& source, std::uint64_t offset, MutableBytes into) {
    RangeSet bad;
    narrow(source, offset, into, bad);
    return bad.ranges();
}

}  // namespace dreskel
