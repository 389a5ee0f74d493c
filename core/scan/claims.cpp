#include "scan/claims.h"

#include <algorithm>

#include "formats/registry.h"

namespace dreskel {
namespace {

// Files longer than this are looked through one by one when overlaps are sought; all others by their start.
constexpr std::uint64_t kNear = 64ULL << 20;

std::vector<ByteRange> placesOf(const Finding& finding) {
    const auto& evidence = finding.evidence;
    return evidence.places.empty() ? std::vector<ByteRange>{evidence.range} : evidence.places;
}

// From the first byte of a file on the card to the last, in whatever order its pieces are.
ByteRange hullOf(const Finding& finding) {
    auto hull = finding.evidence.range;
    for (const auto& place : finding.evidence.places) {
        const auto from = std::min(hull.offset, place.offset);
        hull = {from, std::max(hull.end(), place.end()) - from};
    }
    return hull;
}

// Back to what the file's own walk said, before others had a say.
void restore(Finding& finding, const CardView& card) {
    const auto& evidence = finding.evidence;
    finding.inside.reset();
    finding.condition = evidence.condition;
    finding.decoded = evidence.decoded;
    finding.why = evidence.why;
    finding.pieces = evidence.rebuilt;
    if (finding.pieces.empty()) {
        for (const auto& place : placesOf(finding)) {
            for (auto& piece : card.pieces(place)) finding.pieces.push_back(std::move(piece));
        }
    }
    const bool filled = std::any_of(finding.pieces.begin(), finding.pieces.end(),
                                    [](const Piece& piece) { return piece.from == PieceFrom::Fill; });
    if (filled && finding.condition == Condition::Whole) {
        finding.condition = Condition::Partial;
        finding.decoded = std::min(finding.decoded, 0.9999);
        finding.why = "part of it could not be read from the card";
    }
}

bool startsInMedia(const Finding& outer, const Finding& inner) {
    const auto at = inner.start() - outer.start();
    return std::any_of(outer.evidence.mediaData.begin(), outer.evidence.mediaData.end(),
                       [at](const ByteRange& range) { return range.contains(at); });
}

// Which of its bytes stands at a place of the card.
std::optional<std::uint64_t> byteAt(const Finding& file, std::uint64_t place) {
    std::uint64_t before = 0;
    for (const auto& piece : placesOf(file)) {
        if (piece.contains(place)) return before + place - piece.offset;
        before += piece.length;
    }
    return std::nullopt;
}

// The outer file says itself that there is such a thing.
bool isEnclosed(const Finding& outer, const Finding& inner) {
    const auto& enclosed = outer.evidence.enclosed;
    if (enclosed.empty() || inner.evidence.condition != Condition::Whole) return false;
    const auto at = byteAt(outer, inner.start());
    const auto length = inner.evidence.range.length;
    return std::any_of(enclosed.begin(), enclosed.end(),
                       [&](const ByteRange& range) { return at == range.offset && range.length >= length; });
}

// A table in the middle of a stream looks like a beginning; `outer` was followed through all of it.
bool isMiddleOf(const Finding& outer, const Finding& inner) {
    const auto* format = familyNamed(outer.evidence.family);
    return format != nullptr && format->runsOn() && inner.evidence.family == outer.evidence.family &&
           inner.evidence.condition != Condition::Whole &&
           inner.evidence.range.end() <= outer.evidence.range.end();
}

// Whether `inner`, which begins inside `outer`, shows that those bytes are not the outer file's.
bool isForeign(const Finding& outer, const Finding& inner) {
    if (outer.evidence.holdsPhotos && inner.kind == Kind::Photo) return false;
    if (outer.evidence.condition == Condition::Whole) {
        // Among samples that any bytes are, so much of a file is one, and none of them.
        constexpr std::uint64_t enough = 4096;
        const bool sure =
            inner.evidence.condition == Condition::Whole ||
            (outer.evidence.notices != Notices::ForeignBytes && inner.evidence.proven >= enough);
        return sure && startsInMedia(outer, inner);
    }
    if (isEnclosed(outer, inner) || isMiddleOf(outer, inner)) return false;
    // Photos hold other photos, no clips nor recordings, and nothing that reaches further than they do.
    if (outer.kind == Kind::Photo && (inner.kind == Kind::Video || inner.kind == Kind::Audio)) return true;
    if (inner.evidence.condition == Condition::Whole &&
        inner.evidence.range.end() > outer.evidence.range.end())
        return true;
    // Coded data runs on for a while after it has stopped being this file's, before that shows; so what lies
    // in the media data of a file that is not whole is not proven by what decoded.
    return startsInMedia(outer, inner) || inner.start() >= outer.start() + outer.evidence.proven;
}

bool same(const Finding& a, const Finding& b) {
    return a.inside == b.inside && a.condition == b.condition && a.pieces == b.pieces && a.why == b.why;
}

// With fewer pieces less of it decodes: about as much less as its bytes that made sense are fewer.
void endAt(Finding& finding, std::vector<Piece> left) {
    finding.pieces = std::move(left);
    const auto now = finding.size();
    const auto proven = std::max(finding.evidence.proven, std::uint64_t{1});
    if (now >= proven) return;
    finding.decoded *= static_cast<double>(now) / static_cast<double>(proven);
    finding.why = "another file begins in the middle of it";
}

// Takes `taken` out of a file. A photo ends where other bytes begin, and so does what nothing decodes of
// anyway; in a clip or a recording the places of everything else must stay, so the gap is filled.
void cut(Finding& finding, const RangeSet& taken, const Finding* by) {
    std::vector<Piece> left;
    for (const auto& piece : finding.pieces) {
        if (piece.from != PieceFrom::Card) {
            left.push_back(piece);
            continue;
        }
        auto at = piece.offset;
        for (const auto& hit : taken.within(piece.onCard())) {
            if (hit.offset > at) left.push_back({PieceFrom::Card, at, hit.offset - at, {}});
            if (finding.kind == Kind::Photo || finding.condition == Condition::Broken) {
                endAt(finding, std::move(left));
                return;
            }
            left.push_back({PieceFrom::Fill, 0, hit.length,
                            "these bytes of the card belong to another file, the first of them to file " +
                                std::to_string(by->id)});
            at = hit.end();
        }
        if (at < piece.offset + piece.length) {
            left.push_back({PieceFrom::Card, at, piece.offset + piece.length - at, {}});
        }
    }
    // Nothing but filling at the end is no part of the file.
    while (!left.empty() && left.back().from == PieceFrom::Fill) left.pop_back();
    finding.pieces = std::move(left);
}

}  // namespace

void Claims::add(Finding finding) {
    const auto id = finding.id;
    const bool reachesFar = finding.evidence.range.length > kNear || !finding.evidence.places.empty();
    if (reachesFar) {
        long_.push_back(id);
    } else {
        byStart_[finding.start()].push_back(id);
    }
    findings_[id] = std::move(finding);
    dirty_.insert(id);
}

void Claims::revise(const std::function<bool(Finding&)>& change) {
    for (auto& [id, finding] : findings_) {
        if (change(finding)) dirty_.insert(id);
    }
}

void Claims::remove(std::int64_t id) {
    const auto found = findings_.find(id);
    if (found == findings_.end()) return;
    for (const auto* other : overlapping(hullOf(found->second))) dirty_.insert(other->id);
    const auto start = byStart_.find(found->second.start());
    if (start != byStart_.end()) std::erase(start->second, id);
    std::erase(long_, id);
    dirty_.erase(id);
    findings_.erase(found);
}

std::optional<std::int64_t> Claims::at(const Candidate& candidate) const {
    const auto is = [&](std::int64_t id) {
        const auto& evidence = findings_.at(id).evidence;
        return evidence.range.offset == candidate.offset && evidence.family == candidate.family;
    };
    const auto start = byStart_.find(candidate.offset);
    for (const auto& ids : {start == byStart_.end() ? std::vector<std::int64_t>{} : start->second, long_}) {
        const auto found = std::find_if(ids.begin(), ids.end(), is);
        if (found != ids.end()) return *found;
    }
    return std::nullopt;
}

std::vector<const Finding*> Claims::overlapping(ByteRange range) const {
    std::vector<const Finding*> found;
    const auto consider = [&](std::int64_t id) {
        const auto& finding = findings_.at(id);
        if (hullOf(finding).overlaps(range)) found.push_back(&finding);
    };
    const auto from = range.offset > kNear ? range.offset - kNear : 0;
    for (auto at = byStart_.lower_bound(from); at != byStart_.end() && at->first < range.end(); ++at) {
        for (const auto id : at->second) consider(id);
    }
    for (const auto id : long_) consider(id);
    return found;
}

// All files connected to one by overlaps, however far.
std::vector<std::int64_t> Claims::component(std::int64_t id) const {
    auto range = hullOf(findings_.at(id));
    for (;;) {
        const auto members = overlapping(range);
        auto start = range.offset;
        auto end = range.end();
        for (const auto* member : members) {
            start = std::min(start, hullOf(*member).offset);
            end = std::max(end, hullOf(*member).end());
        }
        if (start == range.offset && end == range.end()) {
            std::vector<std::int64_t> ids;
            for (const auto* member : members) ids.push_back(member->id);
            return ids;
        }
        range = {start, end - start};
    }
}

void Claims::settleComponent(const std::vector<std::int64_t>& ids) {
    std::vector<Finding*> members;
    for (const auto id : ids) {
        members.push_back(&findings_.at(id));
        restore(*members.back(), card_);
    }
    // Outer before inner: by start, and of those at one place the longer first.
    std::sort(members.begin(), members.end(), [](const Finding* a, const Finding* b) {
        if (a->start() != b->start()) return a->start() < b->start();
        return a->evidence.range.length > b->evidence.range.length;
    });
    // Files that are present, those in pieces that are proven by their bytes, and those that the technician
    // put together have a right to every one of them.
    RangeSet owned;
    std::vector<const Finding*> known;
    for (auto* member : members) {
        const bool proven =
            member->evidence.decided || !member->evidence.rebuilt.empty() ||
            (!member->evidence.places.empty() && member->evidence.condition == Condition::Whole);
        if (member->fate != Fate::Present && !proven) continue;
        known.push_back(member);
        for (const auto& place : placesOf(*member)) owned.add(place);
    }
    // First who lives inside whom: the outermost file that has a right to the place where another one begins.
    std::vector<const Finding*> open;
    for (auto* member : members) {
        if (std::find(known.begin(), known.end(), member) != known.end()) continue;
        if (!member->evidence.places.empty()) continue;
        for (const auto* outer : known) {
            const auto places = placesOf(*outer);
            const auto holds = [&](const ByteRange& place) { return place.contains(member->start()); };
            if (std::any_of(places.begin(), places.end(), holds)) member->inside = outer->id;
        }
        for (const auto* outer : members) {
            if (!outer->evidence.places.empty() && isEnclosed(*outer, *member)) member->inside = outer->id;
        }
        if (member->inside) continue;
        std::erase_if(open,
                      [&](const Finding* outer) { return outer->evidence.range.end() <= member->start(); });
        for (const auto* outer : open) {
            if (isForeign(*outer, *member)) continue;
            member->inside = outer->id;
            break;
        }
        if (!member->inside) open.push_back(member);
    }
    // Then the bytes, from the last file to the first. Of two files of their own the one that begins later
    // has a right to its bytes: it was shown above that they cannot be the earlier one's.
    std::erase_if(members, [](const Finding* member) { return member->inside.has_value(); });
    const Finding* by = known.empty() ? nullptr : known.front();
    for (auto at = members.rbegin(); at != members.rend(); by = *at, ++at) {
        auto* member = *at;
        if (std::find(known.begin(), known.end(), member) != known.end()) continue;
        const auto places = placesOf(*member);
        if (by != nullptr && std::any_of(places.begin(), places.end(),
                                         [&](const ByteRange& place) { return owned.intersects(place); })) {
            cut(*member, owned, by);
            if (member->condition == Condition::Whole) {
                member->condition = Condition::Partial;
                member->decoded = std::min(member->decoded, 0.9999);
            }
            if (member->why.empty()) member->why = "another file begins in the middle of it";
            // All of it was another's.
            if (member->size() == 0) member->inside = by->id;
        }
        for (const auto& piece : member->pieces) {
            if (piece.from == PieceFrom::Card) owned.add(piece.onCard());
        }
    }
}

std::vector<Finding> Claims::settle() {
    std::vector<Finding> changed;
    while (!dirty_.empty()) {
        const auto ids = component(*dirty_.begin());
        std::map<std::int64_t, Finding> before;
        for (const auto id : ids) before[id] = findings_.at(id);
        settleComponent(ids);
        for (const auto id : ids) {
            const bool fresh = dirty_.erase(id) > 0;
            if (fresh || !same(before.at(id), findings_.at(id))) changed.push_back(findings_.at(id));
        }
    }
    return changed;
}

std::vector<Finding> Claims::markDuplicates(CardView& card) {
    std::map<std::pair<std::string, std::uint64_t>, std::vector<std::int64_t>> groups;
    for (const auto& [id, finding] : findings_) {
        if (finding.listed()) groups[{finding.format, finding.size()}].push_back(id);
    }
    const auto equal = [&card](const Finding& a, const Finding& b) {
        constexpr std::size_t kPortion = 1U << 20;
        std::vector<std::uint8_t> left(kPortion);
        std::vector<std::uint8_t> right(kPortion);
        PieceReader readLeft(card, a.pieces);
        PieceReader readRight(card, b.pieces);
        for (std::uint64_t at = 0; at < readLeft.size(); at += kPortion) {
            const auto got = readLeft.read(at, left);
            if (readRight.read(at, right) != got) return false;
            if (!std::equal(left.begin(), left.begin() + static_cast<std::ptrdiff_t>(got), right.begin()))
                return false;
        }
        return true;
    };
    std::vector<Finding> marked;
    for (const auto& [key, ids] : groups) {
        for (std::size_t i = 1; i < ids.size(); ++i) {
            for (std::size_t j = 0; j < i; ++j) {
                auto& later = findings_.at(ids[i]);
                const auto& earlier = findings_.at(ids[j]);
                if (earlier.sameAs || !equal(earlier, later)) continue;
                later.sameAs = earlier.id;
                marked.push_back(later);
                break;
            }
        }
    }
    return marked;
}

}  // namespace dreskel
