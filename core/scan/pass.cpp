#include "scan/pass.h"

#include <algorithm>

#include "base/aligned_buffer.h"
#include "base/conveyor.h"
#include "source/tolerant_read.h"

namespace dreskel {
namespace {

struct Portion {
    AlignedBuffer buffer{Pass::kPortion};
    std::uint64_t offset = 0;
    std::size_t size = 0;
    std::vector<ByteRange> unreadable;
};

}  // namespace

bool Pass::run(const Source& source, ByteRange span, Control& control, const Visit& visit) {
    auto at = span.offset;
    auto seen = span.offset;
    convey<Portion>(
        4,
        [&](Portion& portion) {
            if (at >= span.end() || !control.proceed()) return false;
            // The first read ends on a multiple of the portion, so that all others are aligned.
            const auto next = std::min(span.end(), (at / kPortion + 1) * kPortion);
            portion.offset = at;
            portion.size = static_cast<std::size_t>(next - at);
            portion.unreadable = readTolerant(source, at, portion.buffer.bytes().first(portion.size));
            at = next;
            return true;
        },
        [&](Portion& portion) {
            if (control.stopped()) return false;
            visit(portion.offset, portion.buffer.bytes().first(portion.size), portion.unreadable);
            seen = portion.offset + portion.size;
            return true;
        });
    return seen >= span.end();
}

}  // namespace dreskel
