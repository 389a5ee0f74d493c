#include <algorithm>
#include <bitset>
#include <cstring>

#include "rebuild/headless_photo.h"

namespace dreskel::rebuild {
namespace {

constexpr std::size_t kStep = 4096;
constexpr std::size_t kRunPortion = 256 * kStep;
constexpr std::uint64_t kShortestRun = 4 * kStep;
constexpr std::size_t kLeastMarks = 2;     // of an 0xff in a step
constexpr std::size_t kLeastValues = 150;  // of bytes

struct Look {
    bool begins = false;   // it may be the first of a run
    bool goesOn = false;   // or a further one
    std::size_t upTo = 0;  // where the data end: the step's end, or behind an end marker
    bool ends = false;
    bool header = false;  // a scan begins in it
};

// In smooth parts of a picture whole steps go by without an 0xff; text and tables do not use most values.
bool isDense(Bytes step) {
    std::bitset<256> used;
    for (const auto byte : step) used.set(byte);
    return used.count() >= kLeastValues;
}

Look lookAt(Bytes step) {
    Look look;
    std::size_t good = 0;
    for (std::size_t at = 0; at + 1 < step.size(); ++at) {
        const auto* mark = std::memchr(step.data() + at, 0xff, step.size() - 1 - at);
        if (mark == nullptr) break;
        at = static_cast<std::size_t>(static_cast<const std::uint8_t*>(mark) - step.data());
        const auto next = step[at + 1];
        if (next == 0x00 || (next >= 0xd0 && next <= 0xd7)) {
            ++good;
            continue;
        }
        const bool scan = next == 0xda && at + 3 < step.size() && step[at + 2] == 0 && step[at + 3] <= 14;
        look.header = look.header || scan;
        if (look.upTo == 0) {
            look.upTo = next == 0xd9 ? at + 2 : at;
            look.ends = next == 0xd9;
        }
    }
    look.begins = look.upTo == 0 && good >= kLeastMarks;
    look.goesOn = look.begins || (look.upTo == 0 && isDense(step));
    if (look.upTo == 0) look.upTo = step.size();
    return look;
}

}  // namespace

std::vector<CodedRun> findCodedRuns(const std::function<std::size_t(std::uint64_t, MutableBytes)>& read,
                                    ByteRange stretch, const Control& control) {
    std::vector<CodedRun> runs;
    std::vector<std::uint8_t> buffer(kRunPortion);
    std::uint64_t from = 0;  // of the run in hand
    std::uint64_t length = 0;
    bool headed = false;  // by a header in the step before
    const auto close = [&](std::uint64_t more, bool ends) {
        if (length > 0 && !headed && length + more >= kShortestRun)
            runs.push_back({{from, length + more}, ends});
        length = 0;
    };
    for (auto at = stretch.offset; at < stretch.end() && !control.stopped();) {
        const auto want = std::min<std::uint64_t>(kRunPortion, stretch.end() - at);
        const auto got = read(at, MutableBytes(buffer).first(static_cast<std::size_t>(want)));
        if (got == 0) break;
        for (std::size_t i = 0; i < got; i += kStep) {
            const auto look = lookAt(slice(Bytes(buffer).first(got), i, kStep));
            if (length > 0 ? look.goesOn : look.begins) {
                if (length == 0) from = at + i;
                length += std::min(kStep, got - i);
                continue;
            }
            if (length > 0) close(look.ends ? look.upTo : 0, look.ends);
            headed = look.header;
        }
        at += got;
    }
    close(0, false);
    return runs;
}

}  // namespace dreskel::rebuild
