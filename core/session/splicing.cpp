#include "session/splicing.h"

#include <algorithm>
#include <map>
#include <numeric>

#include "rebuild/clip_splice.h"
#include "rebuild/index_in_pieces.h"
#include "rebuild/photo_splice.h"
#include "scan/lending.h"

namespace dreskel {
namespace {

constexpr std::size_t kMostFollowers = 6, kMostLenders = 8;
// Of a clip without an index so much is looked at with each good clip's settings.
constexpr std::uint64_t kFront = 24 << 20;
constexpr int kLenderSide = 320;  // pixels

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

// What was made says after which clip; one name may be the beginning of another.
bool writtenAfter(const std::string& account, const std::string& name) {
    const auto at = account.find(" after " + name);
    if (at == std::string::npos) return false;
    const auto end = at + std::string(" after ").size() + name.size();
    return end == account.size() || account[end] == ';';
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
    const auto made = [](const Piece& piece) { return piece.from == PieceFrom::Made; };
    const auto& pieces = finding.pieces;
    if (finding.inside || finding.fate == Fate::Present || pieces.empty()) return false;
    if (isPhoto(finding)) return std::none_of(pieces.begin(), pieces.end(), made);
    return isClip(finding) && !made(pieces.front());
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
    const auto decode = [this](const auto& file, const auto& times, int side) {
        return this->decode(file, times, side);
    };
    splicer_ = std::make_unique<rebuild::ClipSplice>(
        card_, *clips_, *head, std::make_shared<const rebuild::LooseIndex>(std::move(*index)),
        clip.description.duration, decode, control);
    return Done{};
}

std::vector<rebuild::SpliceFrame> Splicing::decode(const std::vector<Piece>& file,
                                                   const std::vector<double>& times, int side) {
    std::vector<rebuild::SpliceFrame> frames(times.size());
    auto got = decoder_.framesAt(file, format_, times, side, nullptr);
    if (!got) return frames;
    for (auto& frame : got.value()) {
        if (frame.number < frames.size())
            frames[frame.number] = {static_cast<std::uint32_t>(std::max(0.0, frame.at) * 1000),
                                    std::move(frame.picture)};
    }
    return frames;
}

Status Splicing::takeOpenClip(const Session& session, const Finding& clip, const Claims& claims,
                              const FreeSpace& space, Control& control) {
    const auto open =
        openClips(card_, claims.all(), space.stretches, session.source()->size(), {clip.start()});
    const auto own = std::find_if(open.begin(), open.end(),
                                  [&](const rebuild::OpenClip& one) { return one.start == clip.start(); });
    const auto good = goodClips(claims.all(), session.lent());
    if (own == open.end() || good.empty()) {
        return Error{Fault::Failed, "The index of this clip was not found on the card", nameOf(clip),
                     "Lend a good clip of the same camera; then one can be made"};
    }
    std::map<std::string, std::size_t> known;
    for (const auto& one : good) {
        const auto like = one.readTemplate(card_);
        if (!like || control.stopped()) continue;
        const auto [same, fresh] = known.emplace(rebuild::settingsOf(*like), lenders_.size());
        if (!fresh) {
            ++lenders_[same->second].likeIt;
            continue;
        }
        if (lenders_.size() == kMostLenders) break;
        Lender lender;
        lender.choice = {clip.start(), one.path, one.start, false};
        lender.name = one.path.substr(one.path.rfind('/') + 1);
        for (const auto& [id, finding] : claims.all()) {
            if (!one.path.empty() || finding.start() != one.start) continue;
            lender.id = id;
            lender.name = finding.name;
            lender.description = finding.description;
        }
        const auto all = own->pieces(card_);
        const auto lengths = [&](ByteRange part, Bytes settings) {
            const auto told = decoder_.soundLengths(all, part, settings, &control);
            return told ? told.value() : std::vector<std::uint32_t>();
        };
        const auto walked = rebuild::walkOpenClip(card_, *own, *like, kFront, lengths, control);
        made_.emplace_back();
        if (walked) {
            made_.back() = rebuild::withNewIndex(card_, *own, *like, *walked);
            const auto looked = walked->end - own->head.mediaAt;
            lender.share =
                looked > 0 ? static_cast<double>(walked->covered()) / static_cast<double>(looked) : 0;
            lender.pictures = rebuild::picturesIn(*like, *walked);
            for (const auto& track : like->tracks) {
                if (track.kind == isobmff::TrackKind::Video && track.timescale > 0)
                    lender.seconds = static_cast<double>(lender.pictures) * track.delta / track.timescale;
            }
            auto middle = decode(made_.back(), {lender.seconds / 2}, kLenderSide);
            lender.picture = std::move(middle.front().picture);
        }
        lender.inUse = std::any_of(clip.pieces.begin(), clip.pieces.end(), [&](const Piece& piece) {
            return piece.from == PieceFrom::Made && writtenAfter(piece.why, one.name);
        });
        lenders_.push_back(std::move(lender));
    }
    // In one order, whatever is told of each.
    std::vector<std::size_t> order(lenders_.size());
    std::iota(order.begin(), order.end(), 0);
    std::stable_sort(order.begin(), order.end(), [this](std::size_t a, std::size_t b) {
        const auto worth = [this](std::size_t i) {
            return lenders_[i].share + (lenders_[i].picture.width > 0);
        };
        return worth(a) > worth(b);
    });
    std::vector<Lender> sorted;
    std::vector<std::vector<Piece>> made;
    for (const auto i : order) {
        sorted.push_back(std::move(lenders_[i]));
        made.push_back(std::move(made_[i]));
    }
    lenders_ = std::move(sorted);
    made_ = std::move(made);
    return Done{};
}

rebuild::SpliceLook Splicing::lookWith(std::size_t lender) const {
    rebuild::SpliceLook look;
    look.extent = look.reached = static_cast<std::uint32_t>(lenders_[lender].seconds * 1000);
    look.share = lenders_[lender].share;
    look.length = totalLength(made_[lender]);
    if (lenders_[lender].picture.width == 0 && look.extent > 0) look.wrong = {{0, look.extent}};
    return look;
}

std::vector<rebuild::SpliceFrame> Splicing::framesWith(std::size_t lender,
                                                       const std::vector<std::uint32_t>& times,
                                                       std::uint32_t side) {
    if (made_[lender].empty()) return std::vector<rebuild::SpliceFrame>(times.size());
    std::vector<double> seconds;
    for (const auto at : times) seconds.push_back(at / 1000.0);
    return decode(made_[lender], seconds, static_cast<int>(side));
}

Result<std::shared_ptr<Splicing>> Splicing::open(const Session& session, std::int64_t id, Control& control) {
    const auto own = session.finding(id);
    if (!own || !canBeSpliced(*own))
        return Error{Fault::Usage, "Only lost photos (JPEG) and clips can be put on the splice bench",
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
        splicing->format_ = own->format;
        auto taken = splicing->takeClip(*own, space, control);
        if (!taken && own->evidence.family == "isobmff")
            taken = splicing->takeOpenClip(session, *own, claims, space, control);
        if (!taken) return taken.error();
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
