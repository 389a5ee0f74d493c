// How alike two pictures look, by their coarse shapes and colours; the same picture in another size or
// compression is as good as the same. A help to find neighbours, not a proof of anything.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "formats/format.h"

namespace dreskel::media {

struct Likeness {
    std::uint64_t shapes = 0;                // signs of the lowest frequencies of the brightness
    std::array<std::uint8_t, 48> colours{};  // brightness and two colour differences of each sixteenth
};

// Nothing for what is too small or too even to be told from others. As the picture is looked at, so turn it
// before.
std::optional<Likeness> likenessOf(const Picture& picture);

// 0 for the same picture; about 1 for two that have nothing to do with each other.
double apart(const Likeness& a, const Likeness& b);
inline constexpr double kSamePicture = 0.1;
inline constexpr double kAlike = 0.38;

}  // namespace dreskel::media
