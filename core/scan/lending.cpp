#include "scan/lending.h"

#include "base/range.h"

namespace dreskel {
namespace {

constexpr const char* kClipFamily = "isobmff";

}  // namespace

std::vector<GoodClip> goodClips(const std::map<std::int64_t, Finding>& findings,
                                const std::vector<std::string>& paths) {
    std::vector<GoodClip> good;
    for (const auto& path : paths) {
        const auto source = openSource(path);
        if (!source) continue;  // told before the scan began
        const auto size = source.value()->size();
        good.push_back({"the clip that was lent, " + path.substr(path.rfind('/') + 1),
                        path,
                        0,
                        std::make_shared<CardView>(source.value()),
                        {{PieceFrom::Card, 0, size, {}}}});
    }
    for (const auto& [id, finding] : findings) {
        const bool whole = finding.evidence.condition == Condition::Whole && finding.kind == Kind::Video;
        if (finding.evidence.family == kClipFamily && !finding.inside && whole)
            good.push_back({"file " + std::to_string(id), {}, finding.start(), nullptr, finding.pieces});
    }
    return good;
}

std::vector<rebuild::OpenClip> openClips(CardView& card, const std::map<std::int64_t, Finding>& findings,
                                         const std::vector<ByteRange>& free, std::uint64_t end,
                                         const std::set<std::uint64_t>& anew) {
    RangeSet room;
    for (const auto& stretch : free) room.add(stretch);
    std::set<std::uint64_t> starts;  // of clips of this family, of which none goes on in another
    for (const auto& [id, finding] : findings) {
        if (finding.evidence.family == kClipFamily && !finding.inside) starts.insert(finding.start());
    }
    std::vector<rebuild::OpenClip> open;
    for (const auto& [id, finding] : findings) {
        const auto& evidence = finding.evidence;
        const auto start = finding.start();
        if (evidence.family != kClipFamily || finding.inside || evidence.condition == Condition::Whole ||
            (!evidence.rebuilt.empty() && !anew.contains(start)))
            continue;
        const auto head = rebuild::readOpenHead(card, start);
        if (!head) continue;
        // With an index behind the data it is another matter.
        std::vector<std::uint8_t> behind(8);
        if (head->mediaEnd > 0 && evidence.places.empty() &&
            card.read(start + head->mediaEnd, behind) == behind.size() &&
            startsWith(Bytes(behind).subspan(4), "moov"))
            continue;
        const auto next = starts.upper_bound(start);
        auto places = room.within({start, (next == starts.end() ? end : *next) - start});
        if (!places.empty() && places.front().offset == start)
            open.push_back({start, *head, std::move(places)});
    }
    return open;
}

}  // namespace dreskel
