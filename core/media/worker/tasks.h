// What the worker can be asked to do. Each runs in the worker process, over the pieces of one file.
#pragma once

#include <functional>

#include "base/limits.h"
#include "media/messages.h"
#include "source/card_view.h"

namespace dreskel::media {

// Called now and then by a long task, so that it is not taken for hung.
using SignOfLife = std::function<void()>;

// Decodes every packet of every picture and sound stream. See CheckReport.
Message checkClip(CardView& card, const Message& request, const SignOfLife& alive);
// Decodes a photo that is in a container of its own coding (raw, HEIF). The same report as of a clip.
Message checkPhoto(CardView& card, const Message& request);
// Pictures spread along a clip.
Message clipFrames(CardView& card, const Message& request, const SignOfLife& alive);
// How long the frames of sound are that lie one behind the other in a part of the file; for codings that do
// not say so themselves.
Message soundLengths(CardView& card, const Message& request);
// A photo, decoded as far as it goes; at most `largest` bytes when its full size is asked for, where its
// decoder knows other sizes.
Message decodePhoto(CardView& card, const Message& request, std::size_t largest = limits::kLargestMessage);

}  // namespace dreskel::media
