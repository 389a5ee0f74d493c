// Clips without an index: the recorder lost power before it wrote one, or it was overwritten. The samples are
// found again by their own structure, and an index is written after the template of a good clip of the same
// recorder: lent, or whole on the card.
#include <algorithm>
#include <set>

#include "media/decoder_process.h"
#include "rebuild/clip_index.h"
#include "rebuild/made_index.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr std::size_t kMostTemplates = 6;
constexpr double kLeastDecoded = 0.5;

// The part of a file that lies in these places.
std::vector<ByteRange> partOf(const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to) {
    std::vector<ByteRange> part;
    std::uint64_t at = 0;
    for (const auto& place : places) {
        const auto begin = std::clamp(from, at, at + place.length);
        const auto end = std::clamp(to, at, at + place.length);
        if (end > begin) part.push_back({place.offset + (begin - at), end - begin});
        at += place.length;
    }
    return part;
}

void append(std::vector<Piece>& pieces, const CardView& card, const std::vector<ByteRange>& places) {
    for (const auto& place : places) {
        for (auto& piece : card.pieces(place)) pieces.push_back(std::move(piece));
    }
}

// A good clip and where it lies.
struct Lent {
    std::string name;
    std::shared_ptr<CardView> card;
    std::vector<Piece> pieces;
};

std::string accountOf(const rebuild::ClipTemplate& like, const rebuild::Walked& walked) {
    std::size_t pictures = 0;
    for (std::size_t i = 0; i < like.tracks.size(); ++i) {
        if (like.tracks[i].kind == isobmff::TrackKind::Video) pictures += walked.tracks[i].size();
    }
    std::uint64_t unknown = 0;
    for (const auto& gap : walked.gaps) unknown += gap.length;
    auto text =
        "its index was lost; a new one for " + grouped(pictures) + " pictures was written after " + like.name;
    if (unknown > 0) text += "; " + grouped(unknown) + " bytes between them belong to nothing that is known";
    return text;
}

}  // namespace

Status Scanner::rebuildUnindexed(Running& running, Control& control) {
    struct Broken {
        std::uint64_t start = 0;
        rebuild::OpenHead head;
        std::vector<ByteRange> places;
    };
    RangeSet free;
    for (const auto& stretch : freeSpace(running, true).stretches) free.add(stretch);
    std::set<std::uint64_t> starts;  // of clips of this family, of which none goes on in another
    std::vector<Lent> lent;
    for (const auto& path : running.record.references) {
        const auto source = openSource(path);
        if (!source) continue;  // told before the scan began
        const auto size = source.value()->size();
        lent.push_back({"the clip that was lent, " + path.substr(path.rfind('/') + 1),
                        std::make_shared<CardView>(source.value()),
                        {{PieceFrom::Card, 0, size, {}}}});
    }
    for (const auto& [id, finding] : running.claims.all()) {
        if (finding.evidence.family != "isobmff" || finding.inside) continue;
        starts.insert(finding.start());
        if (finding.evidence.condition == Condition::Whole && finding.kind == Kind::Video)
            lent.push_back({"file " + std::to_string(id), nullptr, finding.pieces});
    }
    std::vector<Broken> broken;
    for (const auto& [id, finding] : running.claims.all()) {
        const auto& evidence = finding.evidence;
        if (evidence.family != "isobmff" || finding.inside || evidence.condition == Condition::Whole ||
            !evidence.rebuilt.empty())
            continue;
        const auto head = rebuild::readOpenHead(running.card, finding.start());
        if (!head) continue;
        // With an index behind the data it is another matter.
        std::vector<std::uint8_t> behind(8);
        if (head->mediaEnd > 0 && evidence.places.empty() &&
            running.card.read(finding.start() + head->mediaEnd, behind) == behind.size() &&
            startsWith(Bytes(behind).subspan(4), "moov"))
            continue;
        const auto next = starts.upper_bound(finding.start());
        const auto end = next == starts.end() ? running.record.span.end() : *next;
        auto places = free.within({finding.start(), end - finding.start()});
        if (places.empty() || places.front().offset != finding.start()) continue;
        broken.push_back({finding.start(), *head, std::move(places)});
    }
    if (broken.empty() || lent.empty()) return Done{};
    std::vector<rebuild::ClipTemplate> templates;
    std::set<std::string> known;
    for (const auto& clip : lent) {
        if (templates.size() == kMostTemplates) break;
        auto like = rebuild::readTemplate(clip.card ? *clip.card : running.card, clip.pieces, clip.name);
        if (!like) continue;
        std::string settings;
        for (const auto& track : like->tracks) {
            settings.append(track.description.begin(), track.description.end());
            settings += ' ' + std::to_string(track.delta);
        }
        if (known.insert(settings).second) templates.push_back(std::move(*like));
    }
    media::DecoderProcess decoder(source_);
    const auto examine = [&](const Broken& clip, const rebuild::ClipTemplate& like,
                             const rebuild::Walked& walked) -> std::optional<Examined> {
        auto header = rebuild::makeMediaHeader(walked.end - clip.head.mediaAt);
        const auto shift = static_cast<std::int64_t>(clip.head.mediaHeaderAt + header.size()) -
                           static_cast<std::int64_t>(clip.head.mediaAt);
        std::vector<Piece> pieces;
        append(pieces, running.card, partOf(clip.places, 0, clip.head.mediaHeaderAt));
        pieces.push_back(madePiece(std::move(header), "states how long the media data are"));
        append(pieces, running.card, partOf(clip.places, clip.head.mediaAt, walked.end));
        pieces.push_back(madePiece(rebuild::makeIndex(like, walked, shift), accountOf(like, walked)));
        running.examiner.addRebuilt({clip.start, "isobmff"}, std::move(pieces));
        running.examiner.finish();
        auto done = running.examiner.take();
        if (done.empty() || !done.front().measured.accepted) return std::nullopt;
        return std::move(done.front());
    };
    running.joining = Running::Joining{broken.size(), 0};
    for (const auto& clip : broken) {
        if (control.stopped()) return Done{};
        tell(running);
        --running.joining->left;
        std::vector<Piece> all;
        append(all, running.card, clip.places);
        const auto length = totalLength(all);
        const auto mediaEnd = clip.head.mediaEnd > 0 ? std::min(clip.head.mediaEnd, length) : length;
        if (clip.head.mediaAt >= mediaEnd) continue;
        // What one template explains more of than another is tried first.
        std::vector<std::pair<const rebuild::ClipTemplate*, rebuild::Walked>> walks;
        for (const auto& like : templates) {
            PieceReader reader(running.card, all);
            const auto lengths = [&](ByteRange part, Bytes settings) {
                const auto told = decoder.soundLengths(all, part, settings, &control);
                return told ? told.value() : std::vector<std::uint32_t>();
            };
            auto walked = rebuild::walkSamples(
                like, reader, {clip.head.mediaAt, mediaEnd - clip.head.mediaAt}, lengths, control);
            if (control.stopped()) return Done{};
            if (walked) walks.emplace_back(&like, std::move(*walked));
        }
        std::stable_sort(walks.begin(), walks.end(), [](const auto& a, const auto& b) {
            return a.second.covered() > b.second.covered();
        });
        std::optional<Examined> best;
        double bestScore = 0;  // bytes that decode
        for (auto& [like, walked] : walks) {
            // The last picture may be cut off.
            for (int tries = 0; tries < 2; ++tries) {
                if (tries == 0 && static_cast<double>(walked.covered()) <= bestScore) break;
                auto examined = examine(clip, *like, walked);
                if (control.stopped()) return Done{};
                const double decoded = examined ? examined->measured.decoded : 0;
                const bool fine = examined && examined->measured.condition == Condition::Whole;
                const auto score = decoded * static_cast<double>(walked.covered());
                if (decoded >= kLeastDecoded && (fine || score > bestScore)) {
                    examined->measured.notes.push_back(accountOf(*like, walked));
                    bestScore = score;
                    best = std::move(examined);
                }
                if (fine) break;
                walked = walked.withoutLastPicture();
            }
        }
        if (!best) continue;
        leaveUnproven(best->measured, "its index was lost and has been written anew");
        running.joins.erase(clip.start);
        running.examiner.giveBack(std::move(*best));
        ++running.joining->joined;
        if (auto stored = store(running, false); !stored) return stored;
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
