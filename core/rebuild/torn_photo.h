// A photo of whose middle a part is gone (a bad place of the card, or bytes of another file): its beginning
// up to there, and behind it coded data that reach to the picture's end, made one picture again with bands in
// the place of what is missing (JPEG, ITU-T T.81).
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "rebuild/headless_photo.h"

namespace dreskel::rebuild {

struct TornPhoto {
    std::uint64_t upTo = 0;                       // so many bytes of the beginning are used,
    std::vector<std::uint8_t> between;            // then these, which are made,
    std::uint64_t from = 0;                       // then the run, from this byte of it on
    std::uint64_t firstMissing = 0, missing = 0;  // MCUs
};

// `lower` is what withoutBeginning() made of `run` with the tables of this very photo, placed by its end.
// Bytes of `beginning` that decode by chance only are no harm but for what they show; they should be cut off
// before.
std::optional<TornPhoto> acrossTear(Bytes beginning, Bytes run, const HeadlessPhoto& lower,
                                    const jpeg::Lender& tables);

}  // namespace dreskel::rebuild
