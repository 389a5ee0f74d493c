// The context variables of slice data (ITU-T H.264, 9.3.1.1), by ctxIdx. Those above are for pictures whose
// colour is as fine as their brightness, which are not followed here.
#pragma once

#include <array>
#include <optional>

#include "formats/clip/arithmetic.h"

namespace dreskel::avc {

constexpr std::size_t kContexts = 460;
using Contexts = std::array<Context, kContexts>;

// `initNumber`: cabac_init_idc, 0 to 2; nothing for I slices.
Contexts initialContexts(std::optional<unsigned> initNumber, int qp);

}  // namespace dreskel::avc
