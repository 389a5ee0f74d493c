#include "formats/clip/matroska_parts.h"

#include <algorithm>

namespace dreskel {
namespace {

using namespace ebml;

constexpr std::uint32_t kTrackEntry = 0xae, kTrackNumber = 0xd7, kTrackType = 0x83, kCodecId = 0x86,
                        kCodecPrivate = 0x63a2;
constexpr std::uint64_t kPictures = 1;    // a track's type
constexpr std::size_t kElementHead = 16;  // enough of an element to know it by

std::uint64_t roomUpTo(std::uint64_t end, std::uint64_t from) {
    return end - std::min(end, from);
}

bool isLaterCluster(Bytes head, std::uint64_t at, const MatroskaPlace& place) {
    if (head.size() < kClusterHead || head[0] != 0x1f || head[1] != 0x43) return false;
    const auto time = clusterTime(head);
    if (!time || *time < place.time) return false;
    const auto element = readElement(head);
    return element->length == kUnknown || element->length <= roomUpTo(place.segmentEnd, at + element->header);
}

// Several blocks one behind the other, or the last ones of the cluster.
bool blocksFollow(Bytes bytes, std::size_t at, const MatroskaPlace& place, const MatroskaTracks& tracks) {
    constexpr int kEnough = 4;
    if (at >= bytes.size() || (bytes[at] != kBlock && bytes[at] != kBlockGroup) || tracks.empty())
        return false;
    for (int count = 0; count < kEnough; ++count) {
        if (place.position + at == place.clusterEnd) return count > 0;
        const auto rest = slice(bytes, at, kElementHead);
        const auto element = readElement(rest);
        if (!element || !inCluster(element->id) || element->length == kUnknown) return false;
        if (element->length > roomUpTo(place.clusterEnd, place.position + at + element->header)) return false;
        if (element->id == kBlock && !readBlockHead(rest.subspan(element->header), tracks)) return false;
        at += element->header + static_cast<std::size_t>(element->length);
    }
    return true;
}

}  // namespace

MatroskaTracks readMatroskaTracks(Bytes body) {
    MatroskaTracks tracks;
    each(body, [&](std::uint32_t id, Bytes entry) {
        if (id != kTrackEntry) return;
        std::uint64_t track = 0;
        MatroskaTrack about;
        each(entry, [&](std::uint32_t fact, Bytes value) {
            if (fact == kTrackNumber) track = number(value);
            if (fact == kTrackType) about.pictures = number(value) == kPictures;
            if (fact == kCodecPrivate) about.settings.assign(value.begin(), value.end());
            if (fact != kCodecId) return;
            if (startsWith(value, "V_MPEG4/ISO/AVC")) about.coding = PictureCoding::Avc;
            if (startsWith(value, "V_MPEGH/ISO/HEVC")) about.coding = PictureCoding::Hevc;
        });
        if (!about.coding) about.settings.clear();
        if (track > 0 && track <= UINT32_MAX) tracks[static_cast<std::uint32_t>(track)] = std::move(about);
    });
    return tracks;
}

std::optional<BlockHead> readBlockHead(Bytes body, const MatroskaTracks& tracks) {
    if (body.size() < BlockHead::kLength) return std::nullopt;
    BlockHead head;
    head.track = body[0] & 0x7fU;
    head.time = static_cast<std::int16_t>(body[1] << 8 | body[2]);
    head.key = (body[3] & 0x80U) != 0;
    head.laced = (body[3] & 6U) != 0;
    // Of a number that takes two bytes nothing more is known.
    constexpr std::uint32_t kLargestInOne = 0x7e;
    const bool inOne = (body[0] & 0x80U) != 0;
    const bool largeOnes = !tracks.empty() && tracks.rbegin()->first > kLargestInOne;
    const bool known = tracks.empty() || (inOne ? tracks.contains(head.track) : largeOnes);
    return known ? std::optional(head) : std::nullopt;
}

std::optional<std::size_t> matroskaGoesOn(Bytes bytes, std::size_t upTo, const MatroskaPlace& place,
                                          const MatroskaTracks& tracks) {
    for (std::size_t i = 1; i < std::min(upTo, bytes.size()); ++i) {
        const auto at = place.position + i;
        const bool within = place.clusterEnd != kUnknown && at < place.clusterEnd;
        if (isLaterCluster(slice(bytes, i, kClusterHead), at, place) ||
            (within && blocksFollow(bytes, i, place, tracks)))
            return i;
    }
    return std::nullopt;
}

}  // namespace dreskel
