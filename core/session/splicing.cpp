#include "session/splicing.h"

#include <algorithm>

#include "scan/claims.h"

namespace dreskel {
namespace {

constexpr std::size_t kMostFollowers = 6;

std::string nameOf(const Finding& finding) {
    return finding.name.empty() ? "file " + std::to_string(finding.id) : finding.name;
}

}  // namespace

bool canBeSpliced(const Finding& finding) {
    return finding.evidence.family == "jpeg" && !finding.inside && finding.fate != Fate::Present;
}

Result<std::shared_ptr<Splicing>> Splicing::open(const Session& session, std::int64_t id,
                                                 const Control& control) {
    const auto own = session.finding(id);
    if (!own || !canBeSpliced(*own))
        return Error{Fault::Usage, "Only lost photos (JPEG) can be put on the splice bench", session.folder(),
                     ""};
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
    auto space = freeSpaceOf(claims, {0, source->size()}, {present, session.structures()}, session.blank(),
                             [&](const Finding& finding) { return finding.id == id; });
    std::shared_ptr<Splicing> splicing(new Splicing(source, std::move(space), control));
    for (const auto& piece : own->pieces) {
        if (piece.from != PieceFrom::Card) break;
        splicing->found_.push_back(piece.onCard());
    }
    splicing->decided_ = own->evidence.decided;
    for (const auto& finding : listed) {
        if (finding.id == id || finding.kind != Kind::Photo) continue;
        for (const auto& piece : finding.pieces) {
            if (piece.from != PieceFrom::Card) continue;
            splicing->others_.push_back(piece.onCard());
            if (finding.condition != Condition::Whole)
                splicing->owners_.emplace_back(piece.onCard(), nameOf(finding));
        }
    }
    return splicing;
}

rebuild::Followers Splicing::followers(const std::vector<ByteRange>& places, std::uint32_t side,
                                       const Control& control) {
    auto found = photo_.followers(places, pool_, kMostFollowers, side, control);
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
