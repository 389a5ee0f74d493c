// Where the tests' build of the worker takes orders from the files themselves: to crash, to hang, to bloat,
// to open what it must not. The real one takes none.
#pragma once

#include <nlohmann/json.hpp>

#include "source/card_view.h"

namespace dreskel {

#if defined(DRESKEL_UNRULY)
void obeyOrders(CardView& card, const nlohmann::json& request);
#else
inline void obeyOrders(CardView&, const nlohmann::json&) {}
#endif

}  // namespace dreskel
