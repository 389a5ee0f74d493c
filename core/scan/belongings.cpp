#include "scan/belongings.h"

#include <cmath>

#include "scan/directory_book.h"

namespace dreskel {
namespace {

constexpr double kNearInTime = 1.5;                 // seconds that a track of subtitles may be off
constexpr std::uint32_t kThumbnailSide = 320;       // pixels at most
constexpr std::uint64_t kLargestThumbnail = 64000;  // bytes

std::string lower(std::string text) {
    for (auto& letter : text) {
        if (letter >= 'A' && letter <= 'Z') letter = static_cast<char>(letter + 32);
    }
    return text;
}

// "DCIM/100MILLS/mill0007" of a name with or without an extension.
std::string stemOf(const Finding& file) {
    return lower(file.folder) + '/' + lower(file.name.substr(0, file.name.rfind('.')));
}

// What a name says of its file's part: the kind of file that it belongs to, or Other.
Kind ownerOf(const Finding& file) {
    const auto extension = lowerExtension(file.name);
    if (extension == "thm" || extension == "lrv" || extension == "srt") return Kind::Video;
    if (extension == "xmp" || file.kind == Kind::Sidecar) return Kind::Photo;
    // A note that was spoken to a photo; sound beside a clip is a recording of its own.
    return extension == "wav" ? Kind::Photo : Kind::Other;
}

bool isOwner(const Finding& file) {
    return file.listed() && ownerOf(file) == Kind::Other &&
           (file.kind == Kind::Photo || file.kind == Kind::Video);
}

}  // namespace

std::map<std::int64_t, Belonging> belongings(const std::map<std::int64_t, Finding>& files) {
    std::multimap<std::string, const Finding*> byStem;
    for (const auto& [id, file] : files) {
        if (!isOwner(file) || file.name.empty()) continue;
        byStem.emplace(stemOf(file), &file);
        // Some programs write the sidecar's extension behind the photo's own.
        byStem.emplace(lower(file.folder) + '/' + lower(file.name), &file);
    }
    std::map<std::int64_t, Belonging> found;
    const auto byName = [&](const Finding& file, Kind owner) {
        const auto [from, to] = byStem.equal_range(stemOf(file));
        const Finding* best = nullptr;
        for (auto at = from; at != to; ++at) {
            if (best == nullptr || (at->second->kind == owner && best->kind != owner)) best = at->second;
        }
        // A recording is a note only where there is a photo.
        if (best != nullptr && (best->kind == owner || file.kind == Kind::Sidecar))
            found[file.id] = {best->id, "it has the same name"};
    };
    // The one clip that is as long as the subtitles go on, nearest on the card.
    const auto byLength = [&](const Finding& file) {
        const Finding* best = nullptr;
        const auto away = [&](const Finding& clip) {
            return clip.start() > file.start() ? clip.start() - file.start() : file.start() - clip.start();
        };
        for (const auto& [id, clip] : files) {
            if (!isOwner(clip) || clip.kind != Kind::Video || !clip.description.duration) continue;
            if (std::abs(*clip.description.duration - *file.description.duration) > kNearInTime) continue;
            if (best == nullptr || away(clip) < away(*best)) best = &clip;
        }
        if (best != nullptr)
            found[file.id] = {best->id, "it is as long as that clip, the nearest such on the card"};
    };
    // A small picture without a name, taken in the very second that a clip says of itself.
    const auto byTime = [&](const Finding& file) {
        const Finding* only = nullptr;
        for (const auto& [id, clip] : files) {
            if (!isOwner(clip) || clip.kind != Kind::Video || clip.description.taken.size() < 19) continue;
            if (clip.description.taken.compare(0, 19, file.description.taken, 0, 19) != 0) continue;
            if (only != nullptr) return;
            only = &clip;
        }
        if (only != nullptr)
            found[file.id] = {only->id, "it was taken in the same second and is as small as a thumbnail"};
    };
    for (const auto& [id, file] : files) {
        if (!file.listed()) continue;
        const auto owner = ownerOf(file);
        if (owner != Kind::Other && !file.name.empty()) byName(file, owner);
        if (found.contains(id)) continue;
        if (file.format == "srt" && file.description.duration) byLength(file);
        const bool small = file.format == "jpeg" && file.size() <= kLargestThumbnail &&
                           file.description.width.value_or(kThumbnailSide + 1) <= kThumbnailSide;
        if (small && file.name.empty() && file.description.taken.size() >= 19) byTime(file);
    }
    return found;
}

}  // namespace dreskel
