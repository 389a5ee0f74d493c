#include "media/worker/strict_mpeg.h"

#include <algorithm>
#include <array>

namespace dreskel::media {
namespace {

constexpr std::uint8_t kPicture = 0x00, kFirstSlice = 0x01, kLastSlice = 0xaf, kExtension = 0xb5;
constexpr int kTallest = 2800;  // beyond it rows are told by further bits (6.3.16)
constexpr const char* kMissing = "a slice of a picture is missing";

// One picture, as far as its slices tell.
struct Slices {
    bool field = false;
    int last = 0;  // row of macroblocks, from 1

    bool complete(int height) const {
        const int rows = (height + 15) / 16, interlaced = (height + 31) / 32;
        return field ? last == interlaced || last == (rows + 1) / 2 : last == rows || last == 2 * interlaced;
    }
};

}  // namespace

std::string complaintAboutSlices(Bytes coded, int height) {
    if (height <= 0 || height > kTallest) return {};
    Slices picture;
    bool open = false;
    constexpr std::array<std::uint8_t, 3> mark{0, 0, 1};
    for (auto at = coded.begin();;) {
        at = std::search(at, coded.end(), mark.begin(), mark.end());
        if (coded.end() - at < 4) break;
        const std::uint8_t code = at[3];
        at += 4;
        if (code >= kFirstSlice && code <= kLastSlice) {
            if (!open || code < picture.last || code > picture.last + 1) return kMissing;
            picture.last = code;
        } else if (code == kPicture) {
            if (open && !picture.complete(height)) return kMissing;
            picture = {};
            open = true;
        } else if (code == kExtension && coded.end() - at >= 3 && at[0] >> 4 == 8) {
            picture.field = (at[2] & 3U) != 3;  // picture_structure (6.3.10)
        }
    }
    return open && !picture.complete(height) ? kMissing : std::string();
}

}  // namespace dreskel::media
