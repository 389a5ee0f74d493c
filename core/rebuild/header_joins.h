// Where a photo goes on that was left within its header (JPEG, ITU-T T.81, B.1.1.4). There is no picture to
// go by yet, but each segment states its length, and behind it the next marker must stand.
#pragma once

#include <functional>
#include <vector>

#include "formats/jpeg/stream_decoder.h"
#include "rebuild/photo_joiner.h"

namespace dreskel::rebuild {

class HeaderJoins {
  public:
    // Both must outlive it. `taken`: clusters that the photo in hand has already.
    HeaderJoins(CardView& card, const Pool& pool, std::function<bool(std::uint64_t)> taken);

    // Shows places from `at` on, where this decoder would have gone on by itself at byte `joinAt` of the
    // file, until `visit` gives true.
    void visit(const jpeg::StreamDecoder& decoder, std::uint64_t at, std::uint64_t joinAt,
               const std::function<bool(std::uint64_t)>& visit);
    // Whether the join could be at no other cluster: within a segment nothing tells.
    bool told(const jpeg::StreamDecoder& decoder, std::uint64_t joinAt) const;
    // Something of another kind begins at this cluster: text, or a blank one.
    bool otherBegins(std::uint64_t at);

  private:
    bool markerStands(const jpeg::StreamDecoder& decoder, std::uint64_t at, std::uint64_t joinAt);
    bool goesOn(jpeg::StreamDecoder decoder, std::uint64_t at);
    bool isOther(std::uint64_t at);

    CardView& card_;
    const Pool& pool_;
    std::function<bool(std::uint64_t)> taken_;
    std::vector<std::uint8_t> buffer_;
};

}  // namespace dreskel::rebuild
