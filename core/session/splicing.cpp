#include "session/splicing.h"

#include <algorithm>

#include "rebuild/clip_splice.h"
#include "rebuild/index_in_pieces.h"
#include "rebuild/photo_splice.h"
#include "scan/claims.h"

namespace dreskel {
namespace {

constexpr std::size_t kMostFollowers = 6;

std::string nameOf(const Finding& finding) {
    return finding.name.empty() ? "file " + std::to_string(finding.id) : finding.name;
}

bool isPhoto(const Finding& finding) {
    return finding.evidence.family == "jpeg";
}

bool isClip(const Finding& finding) {
    const auto& family = finding.evidence.family;
    return finding.kind == Kind::Video && (family == "isobmff" || family == "avi");
}

// The pieces as a way: of a clip, what is empty keeps its length.
std::vector<ByteRange> wayOf(const Finding& finding) {
    std::vector<ByteRange> way;
    for (const auto& piece : finding.pieces) {
        if (piece.from == PieceFrom::Card) {
            way.push_back(piece.onCard());
        } else if (piece.from == PieceFrom::Fill && isClip(finding)) {
            way.push_back({rebuild::kNowhere, piece.length});
        } else {
            break;
        }
    }
    return way;
}

// Where on the card a byte of the file lies; nothing where it does not.
std::optional<std::uint64_t> placeIn(const std::vector<ByteRange>& way, std::uint64_t byte) {
    for (const auto& place : way) {
        if (byte < place.length)
            return rebuild::isNowhere(place) ? std::nullopt : std::optional(place.offset + byte);
        byte -= place.length;
    }
    return std::nullopt;
}

// Where the file has it, or anywhere in the free space.
std::optional<rebuild::LooseIndex> findIndex(CardView& card, const rebuild::ClipHead& head,
                                             const std::vector<ByteRange>& way, const rebuild::ClipPool& pool,
                                             const Control& control) {
    const auto readAt = [&](std::uint64_t at) {
        auto index =
            head.avi ? rebuild::readAviIndex(card, at, head) : rebuild::readIndex(card, at, pool, control);
        return index && rebuild::fits(head, *index, pool.cluster()) ? std::move(index) : std::nullopt;
    };
    if (const auto own = placeIn(way, head.indexAt)) {
        if (auto index = readAt(*own)) return index;
    }
    const auto found = rebuild::findIndexes(card, pool.stretches(), control);
    for (const auto at : head.avi ? found.chunks : found.movies) {
        if (auto index = readAt(at)) return index;
    }
    return std::nullopt;
}

}  // namespace

bool canBeSpliced(const Finding& finding) {
    const bool made = std::any_of(finding.pieces.begin(), finding.pieces.end(),
                                  [](const Piece& piece) { return piece.from == PieceFrom::Made; });
    return (isPhoto(finding) || isClip(finding)) && !made && !finding.inside && finding.fate != Fate::Present;
}

Status Splicing::takeClip(const Finding& clip, const FreeSpace& space, Control& control) {
    const bool avi = clip.evidence.family == "avi";
    const auto start = clip.start();
    const auto head = avi ? rebuild::readAviHead(card_, start) : rebuild::readClipHead(card_, start);
    if (!head) {
        return Error{Fault::Failed, "The front of this clip does not say where its index is", nameOf(clip),
                     "What is known of it without one can be saved as it is"};
    }
    clips_ = std::make_unique<rebuild::ClipPool>(space.stretches, space.cluster, space.origin);
    auto index = findIndex(card_, *head, found_, *clips_, control);
    if (!index) {
        return Error{Fault::Failed, "The index of this clip was not found on the card", nameOf(clip),
                     "Lend a good clip of the same camera; then one can be made"};
    }
    const auto decode = [this, format = clip.format](const std::vector<Piece>& file,
                                                     const std::vector<double>& times, int side) {
        std::vector<rebuild::SpliceFrame> frames(times.size());
        auto got = decoder_.framesAt(file, format, times, side, nullptr);
        if (!got) return frames;
        for (auto& frame : got.value()) {
            if (frame.number < frames.size())
                frames[frame.number] = {static_cast<std::uint32_t>(std::max(0.0, frame.at) * 1000),
                                        std::move(frame.picture)};
        }
        return frames;
    };
    splicer_ = std::make_unique<rebuild::ClipSplice>(
        card_, *clips_, *head, std::make_shared<const rebuild::LooseIndex>(std::move(*index)),
        clip.description.duration, decode, control);
    return Done{};
}

Result<std::shared_ptr<Splicing>> Splicing::open(const Session& session, std::int64_t id, Control& control) {
    const auto own = session.finding(id);
    if (!own || !canBeSpliced(*own))
        return Error{Fault::Usage,
                     "Only lost photos (JPEG) and clips with an index can be put on the splice bench",
                     session.folder(), ""};
    const auto& source = session.source();
    const CardView card(source);
    Claims claims(card);
    std::vector<ByteRange> present;
    const auto listed = session.listed();
    for (const auto& finding : listed) {
        for (const auto& piece : finding.pieces) {
            if (finding.fate == Fate::Present && piece.from == PieceFrom::Card)
                present.push_back(piece.onCard());
        }
        claims.add(finding);
    }
    const auto space = freeSpaceOf(claims, {0, source->size()}, {present, session.structures()},
                                   session.blank(), [&](const Finding& finding) { return finding.id == id; });
    std::shared_ptr<Splicing> splicing(new Splicing(source, space));
    splicing->kind_ = own->kind;
    splicing->found_ = wayOf(*own);
    splicing->decided_ = own->evidence.decided;
    for (const auto& finding : listed) {
        if (finding.id == id || finding.kind != own->kind) continue;
        for (const auto& piece : finding.pieces) {
            if (piece.from != PieceFrom::Card) continue;
            splicing->others_.push_back(piece.onCard());
            if (finding.condition != Condition::Whole)
                splicing->owners_.emplace_back(piece.onCard(), nameOf(finding));
        }
    }
    if (isClip(*own)) {
        if (auto taken = splicing->takeClip(*own, space, control); !taken) return taken.error();
        return splicing;
    }
    splicing->photos_ = std::make_unique<rebuild::Pool>(splicing->card_, space.stretches, space.cluster,
                                                        space.origin, control);
    splicing->splicer_ =
        std::make_unique<rebuild::PhotoSplice>(splicing->card_, *splicing->photos_, space.cluster);
    return splicing;
}

rebuild::Followers Splicing::followers(const std::vector<ByteRange>& places, std::uint32_t side,
                                       const Control& control) {
    auto found = splicer_->followers(places, kMostFollowers, side, control);
    for (auto& follower : found.best) {
        for (const auto& [range, name] : owners_) {
            if (!range.contains(follower.place.offset)) continue;
            follower.why += "; so far it belongs to " + name;
            break;
        }
    }
    return found;
}

}  // namespace dreskel
