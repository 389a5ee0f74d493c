#include "formats/jpeg/appended.h"

#include <algorithm>

#include "formats/isobmff/iso_format.h"

namespace dreskel::jpeg {
namespace {

constexpr std::size_t kLook = 4096;
constexpr std::size_t kMostBetween = 64;  // bytes between the end marker and the clip
constexpr std::uint64_t kSector = 512;

std::optional<std::size_t> find(Bytes bytes, std::string_view text) {
    const auto found = std::search(bytes.begin(), bytes.end(), text.begin(), text.end());
    if (found == bytes.end()) return std::nullopt;
    return static_cast<std::size_t>(found - bytes.begin());
}

}  // namespace

std::optional<Measure::Want> Appended::want(std::uint64_t end) const {
    if (!clip_ || clipDone_) return Measure::Want{end, kLook};
    auto wanted = clip_->want();
    // The clip's own walk may be over without a byte more.
    if (!wanted) return Measure::Want{end, 0};
    wanted->offset += clipAt_;
    return wanted;
}

bool Appended::give(Bytes bytes, std::uint64_t& end) {
    if (clip_ && !clipDone_) {
        if (clip_->want()) clip_->give(bytes);
        if (clip_->want()) return true;
        clipDone_ = true;
        const auto measured = clip_->finish();
        if (measured.accepted && measured.condition != Condition::Broken) {
            end = clipAt_ + measured.length;
            notes_.emplace_back("with a clip of the moment behind it");
        }
        return true;  // once more for the trailer
    }
    if (!clipDone_ && look(bytes, end)) return true;
    trailer(bytes, end);
    return false;
}

// A clip follows the end marker at once or behind a short mark. One that begins with a sector is a file of
// its own.
bool Appended::look(Bytes bytes, std::uint64_t& end) {
    const auto found = find(slice(bytes, 0, kMostBetween + 8), "ftyp");
    if (!found || *found < 4) return false;
    clipAt_ = end + *found - 4;
    static const isobmff::IsoFormat format;
    if (clipAt_ % kSector == 0 || !format.matches(bytes.subspan(*found - 4))) return false;
    clip_ = format.measure();
    return true;
}

// Blocks that begin with two zero bytes, their list ("SEFH") and its end ("SEFT").
void Appended::trailer(Bytes bytes, std::uint64_t& end) {
    const bool block = bytes.size() > 8 && bytes[0] == 0 && bytes[1] == 0 && (bytes[2] | bytes[3]) != 0;
    const auto list = find(bytes, "SEFH");
    if (!list || (!block && *list != 0)) return;
    const auto last = find(bytes.subspan(*list), "SEFT");
    if (last) end += *list + *last + 4;
}

}  // namespace dreskel::jpeg
