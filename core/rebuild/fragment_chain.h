// A fragmented clip (ISO/IEC 14496-12, 8.8) has its index in as many parts as it has fragments. Each says
// where the next must begin and carries its number, so they are found wherever they lie on the card; together
// they are an index like any other.
#pragma once

#include <map>
#include <optional>
#include <vector>

#include "rebuild/clip_index.h"
#include "rebuild/clip_pool.h"

namespace dreskel::rebuild {

struct FragmentedClip {
    ClipHead head;
    LooseIndex index;
};

// Where fragments begin on the card, by the number they carry.
using FragmentPlaces = std::map<std::uint32_t, std::vector<std::uint64_t>>;
FragmentPlaces numberFragments(CardView& card, const std::vector<std::uint64_t>& places);

// The clip that begins at `start` with the head of a fragmented one. Nothing when it is none, the head does
// not lie there in one piece, or none of its fragments was found.
std::optional<FragmentedClip> readFragments(CardView& card, std::uint64_t start, const FragmentPlaces& places,
                                            const ClipPool& pool, const Control& control);

// The index of a clip whose first part lies in front of it, and what the fragments list that follow on it.
LooseIndex withFragments(CardView& card, const ClipHead& head, LooseIndex index, const FragmentPlaces& places,
                         const ClipPool& pool, const Control& control);

// Whether another fragment begins where the last cluster of a clip is not used any more.
bool goesOnWithFragments(CardView& card, std::uint64_t end, const ClipPool& pool);

}  // namespace dreskel::rebuild
