// Coded data of a photo whose beginning is gone (overwritten, or in a place that was not found), made a
// picture again with the header of a good photo of the same camera (JPEG, ITU-T T.81). Where a block begins
// among the bits is found by trying: from any other place decoding stumbles soon. Where in the picture the
// data belong follows from the end of the picture, when it is there, and otherwise from its edges.
#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "base/control.h"
#include "base/range.h"
#include "formats/jpeg/lender.h"

namespace dreskel::rebuild {

// Coded data with nothing in front that says what they are.
struct CodedRun {
    ByteRange place;      // on the source
    bool hasEnd = false;  // the end marker is its last two bytes
};

// The runs of coded photo data in a free stretch of a card, from their first whole 4096 bytes on. Those that
// a header stands in front of are not among them.
std::vector<CodedRun> findCodedRuns(const std::function<std::size_t(std::uint64_t, MutableBytes)>& read,
                                    ByteRange stretch, const Control& control);

struct HeadlessPhoto {
    std::vector<std::uint8_t> front;   // made: header, and blocks that stand for the missing ones
    std::uint64_t from = 0, to = 0;    // the bytes of the run that are used, from its start
    std::vector<std::uint8_t> behind;  // made
    std::uint64_t firstMcu = 0, mcus = 0, allMcus = 0;
    std::uint32_t mcusWide = 0;
    bool placed = false;       // where in the picture they belong is certain
    bool levelled = false;     // how bright they are, too
    std::size_t lender = 0;    // index
    jpeg::Filling filling;     // what was made in front
    std::size_t startsAt = 0;  // the byte of the run within which, at its `filling.bits`th bit, they begin
};

// `run`: its bytes. Tries the lenders in order; nothing when none fits.
std::optional<HeadlessPhoto> withoutBeginning(Bytes run, bool hasEnd,
                                              const std::vector<jpeg::Lender>& lenders,
                                              const Control& control);

}  // namespace dreskel::rebuild
