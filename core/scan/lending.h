// Clips that lost their index, and the good ones that can lend them what a new index looks like: whole on the
// card, or lent by the technician.
#pragma once

#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "job/job.h"
#include "rebuild/open_clip.h"

namespace dreskel {

struct GoodClip {
    std::string name;                // for the reader
    std::string path;                // of one that was lent
    std::uint64_t start = 0;         // of one on the card
    std::shared_ptr<CardView> card;  // of one that was lent; null: on the card
    std::vector<Piece> pieces;
    std::optional<rebuild::ClipTemplate> readTemplate(CardView& own) const {
        return rebuild::readTemplate(card ? *card : own, pieces, name);
    }
};

// `paths`: of those that were lent; what cannot be opened is left out.
std::vector<GoodClip> goodClips(const std::map<std::int64_t, Finding>& findings,
                                const std::vector<std::string>& paths);

// The clips of a card that begin with media data and have no index, made or found; `anew`: those that have
// one that was made, too, where it begins with one of these. `free`: what no whole file takes.
std::vector<rebuild::OpenClip> openClips(CardView& card, const std::map<std::int64_t, Finding>& findings,
                                         const std::vector<ByteRange>& free, std::uint64_t end,
                                         const std::set<std::uint64_t>& anew);

}  // namespace dreskel
