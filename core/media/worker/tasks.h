// What the worker can be asked to do. Each runs in the worker process, over the pieces of one file.
#pragma once

#include <functional>

#include "media/messages.h"
#include "source/card_view.h"

namespace dreskel::media {

// Called now and then by a long task, so that it is not taken for hung.
using SignOfLife = std::function<void()>;

// Decodes every packet of every picture and sound stream. See CheckReport.
Message checkClip(CardView& card, const nlohmann::json& request, const SignOfLife& alive);
// Decodes a photo that is in a container of its own coding (raw, HEIF). The same report as of a clip.
Message checkPhoto(CardView& card, const nlohmann::json& request);
// Pictures spread along a clip.
Message clipFrames(CardView& card, const nlohmann::json& request, const SignOfLife& alive);
// A photo, decoded as far as it goes.
Message decodePhoto(CardView& card, const nlohmann::json& request);

}  // namespace dreskel::media
