// Photos whose beginning is gone: coded data that nothing claims, with the header of a good photo of the same
// camera, lent or on the card. What comes of it is a picture of what is left, and is said to be no more.
// Where a photo breaks off not far in front of it, of which it may be the rest, the two become one again.
#include <algorithm>
#include <functional>
#include <mutex>
#include <set>

#include "base/every_core.h"
#include "rebuild/headless_photo.h"
#include "rebuild/piece_edit.h"
#include "rebuild/torn_photo.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr std::size_t kHeader = 256 * 1024;
constexpr std::size_t kMostLenders = 12;
constexpr std::uint64_t kLargestRun = 96ULL << 20;
constexpr std::size_t kMapLength = 64;
constexpr std::string_view kPhotoFamily = "jpeg";

constexpr std::uint64_t kLargestTear = 8U << 20;  // bytes of the card

// Of a picture of so many MCUs these are there.
std::vector<std::uint8_t> mapOf(std::uint64_t all, const std::vector<ByteRange>& there) {
    std::vector<std::uint8_t> map(kMapLength);
    for (std::size_t i = 0; i < map.size(); ++i) {
        const auto from = all * i / kMapLength, to = all * (i + 1) / kMapLength;
        std::uint64_t count = 0;
        for (const auto& part : there) {
            const auto begin = std::max(from, part.offset), end = std::min(to, part.end());
            if (end > begin) count += end - begin;
        }
        if (to > from) map[i] = static_cast<std::uint8_t>(255 * count / (to - from));
    }
    return map;
}

std::string accountOf(const rebuild::HeadlessPhoto& photo, const std::string& lender) {
    std::string text =
        "its beginning is gone: its header, and the bands in the place of what is missing, were made after " +
        lender;
    if (!photo.placed) text += "; how far down in the picture it belongs is not known";
    if (!photo.levelled) text += "; its brightness and tint are a guess";
    return text;
}

struct Lent {
    std::vector<jpeg::Lender> all;
    std::set<std::string> known;  // codings with sizes

    void add(Bytes head, std::string name) {
        auto lender = jpeg::Lender::read(head, std::move(name));
        if (!lender || all.size() == kMostLenders) return;
        const auto size = std::to_string(lender->width()) + 'x' + std::to_string(lender->height());
        if (known.insert(lender->coding() + size).second) all.push_back(std::move(*lender));
    }
    // Photos may have been taken upright too.
    void addTurned() {
        const auto count = all.size();
        for (std::size_t i = 0; i < count; ++i) {
            if (all[i].width() != all[i].height()) all.push_back(all[i].turned());
        }
    }
};

// A photo that breaks off. What is found behind it, or of its own bytes behind the break, may be its rest.
struct BrokenOff {
    std::uint64_t start = 0, end = 0;  // on the card
    std::uint64_t upTo = 0;            // byte of the photo where it breaks
    std::optional<jpeg::Lender> tables;
    std::vector<Piece> pieces;
};

// What is to be examined, and what will be said of it.
struct Made {
    std::uint64_t at = 0;  // the candidate
    std::vector<Piece> pieces;
    std::string account;
    double decoded = 0;
    std::vector<std::uint8_t> map;
};

Made madeOf(std::uint64_t offset, rebuild::HeadlessPhoto photo, const std::string& lender, CardView& card) {
    Made made{offset + photo.from, {}, accountOf(photo, lender), 0, {}};
    made.pieces.push_back(madePiece(std::move(photo.front), made.account));
    for (auto& piece : card.pieces({offset + photo.from, photo.to - photo.from}))
        made.pieces.push_back(std::move(piece));
    if (!photo.behind.empty()) made.pieces.push_back(madePiece(std::move(photo.behind), "an end marker"));
    made.decoded =
        static_cast<double>(photo.mcus) / static_cast<double>(std::max<std::uint64_t>(1, photo.allMcus));
    made.map = mapOf(photo.allMcus, {{photo.firstMcu, photo.mcus}});
    return made;
}

// Puts broken photos together with what may be their rest. Any thread.
class Mending {
  public:
    Mending(CardView& card, const Control& control) : card_(card), control_(control) {}

    // With coded data that lie at `place` of the card, behind the photo.
    std::optional<Made> withRun(const BrokenOff& photo, ByteRange place, Bytes run) const {
        constexpr std::uint64_t kMostTries = 6;
        const auto bytes = bytesOf(photo);
        const auto beginning =
            Bytes(bytes).first(static_cast<std::size_t>(std::min<std::uint64_t>(photo.upTo, bytes.size())));
        const auto brokenAt = photo.end - (bytes.size() - beginning.size());
        for (std::uint64_t at = 0; at < kMostTries * kStep && at + kStep < run.size(); at += kStep) {
            const auto from = place.offset + at;
            auto made = mend(photo, beginning, slice(run, at, run.size()), from - brokenAt,
                             card_.pieces({from, place.end() - from}));
            if (made || control_.stopped()) return made;
        }
        return std::nullopt;
    }

    // With its own bytes behind the break, from the first cluster that leads to the picture's end.
    std::optional<Made> withItself(const BrokenOff& photo) const {
        constexpr std::size_t kMostTries = 24;
        const auto bytes = bytesOf(photo);
        const auto from = firstBlank(bytes, photo.upTo) / kStep * kStep;
        if (from == 0 || bytes.size() < from + kStep) return std::nullopt;
        const auto read = [&](std::uint64_t at, MutableBytes into) {
            const auto some = slice(bytes, at, into.size());
            std::copy(some.begin(), some.end(), into.begin());
            return some.size();
        };
        std::size_t tries = 0;
        for (const auto& run : rebuild::findCodedRuns(read, {from, bytes.size() - from}, control_)) {
            // Bytes of another photo in the place of its own look like a part of the run.
            for (auto at = run.place.offset; run.hasEnd && at + kStep < run.place.end(); at += kStep) {
                if (++tries > kMostTries || control_.stopped()) return std::nullopt;
                auto pieces = behind(photo.pieces, at);
                rebuild::cutAt(pieces, run.place.end() - at);
                auto made = mend(photo, Bytes(bytes).first(static_cast<std::size_t>(from)),
                                 slice(bytes, at, run.place.end() - at), at - from, std::move(pieces));
                if (made) return made;
            }
        }
        return std::nullopt;
    }

  private:
    static constexpr std::size_t kStep = 4096;

    std::vector<std::uint8_t> bytesOf(const BrokenOff& photo) const {
        std::vector<std::uint8_t> bytes(
            static_cast<std::size_t>(std::min(kLargestRun, totalLength(photo.pieces))));
        bytes.resize(PieceReader(card_, photo.pieces).read(0, bytes));
        return bytes;
    }
    // By some tables zeros are an even picture: they are passed, and only much later nothing fits any more.
    // `upTo` where there is no cluster of them before it.
    static std::uint64_t firstBlank(Bytes bytes, std::uint64_t upTo) {
        for (std::uint64_t at = kStep; at + kStep <= upTo; at += kStep) {
            const auto cluster = slice(bytes, at, kStep);
            if (std::all_of(cluster.begin(), cluster.end(), [](auto byte) { return byte == 0; })) return at;
        }
        return upTo;
    }
    static std::vector<Piece> behind(std::vector<Piece> pieces, std::uint64_t from) {
        for (auto& piece : pieces) {
            const auto gone = std::min(from, piece.length);
            piece.offset += gone;
            piece.length -= gone;
            from -= gone;
        }
        std::erase_if(pieces, [](const Piece& piece) { return piece.length == 0; });
        return pieces;
    }

    // `gap`: bytes between the break and the run. Nothing where the two do not belong together.
    std::optional<Made> mend(const BrokenOff& photo, Bytes beginning, Bytes run, std::uint64_t gap,
                             std::vector<Piece> rest) const {
        const auto lower = rebuild::withoutBeginning(run, true, {*photo.tables}, control_);
        if (!lower || !lower->placed) return std::nullopt;
        auto torn = rebuild::acrossTear(beginning, run, *lower, *photo.tables);
        if (!torn) return std::nullopt;
        // What is missing must be about as long as the place that it lay in.
        const auto place = static_cast<double>(gap + torn->from + beginning.size() - torn->upTo);
        const auto missing = static_cast<double>(torn->missing) * static_cast<double>(torn->upTo) /
                             static_cast<double>(torn->firstMissing);
        constexpr double kSlack = 64 * 1024, kUneven = 3;
        if (place > missing * kUneven + kSlack || place * kUneven + kSlack < missing) return std::nullopt;

        const auto all = lower->allMcus;
        Made made{photo.start, photo.pieces, {}, 0, {}};
        made.account = "a part of its middle is gone: the bands in its place were made";
        if (!lower->levelled) made.account += "; the brightness and tint of what is below are a guess";
        rebuild::cutAt(made.pieces, torn->upTo);
        made.pieces.push_back(madePiece(std::move(torn->between), made.account));
        for (auto& piece : behind(std::move(rest), torn->from)) made.pieces.push_back(std::move(piece));
        made.decoded = 1.0 - static_cast<double>(torn->missing) / static_cast<double>(all);
        made.map = mapOf(all, {{0, torn->firstMissing}, {lower->firstMcu, all - lower->firstMcu}});
        return made;
    }

    CardView& card_;
    const Control& control_;
};

}  // namespace

Status Scanner::rebuildHeadless(Running& running, Control& control) {
    const auto& asked = running.record.formats;
    if (!asked.empty() && std::find(asked.begin(), asked.end(), kPhotoFamily) == asked.end()) return Done{};
    Lent lent;
    std::vector<std::uint8_t> head(kHeader);
    for (const auto& path : running.record.references) {
        const auto source = openSource(path);
        if (!source) continue;  // told before the scan began
        const auto got = source.value()->read(0, head).count;
        lent.add(Bytes(head).first(got), "the photo that was lent, " + path.substr(path.rfind('/') + 1));
    }
    // What is left when everything that is listed has its bytes.
    const auto space = freeSpace(running);
    RangeSet free;
    for (const auto& stretch : space.stretches) free.add(stretch);
    std::vector<BrokenOff> broken;
    for (const auto& [id, finding] : running.claims.all()) {
        if (finding.inside) continue;
        for (const auto& piece : finding.pieces) {
            const auto clusters = (piece.length + space.cluster - 1) / space.cluster * space.cluster;
            if (piece.from == PieceFrom::Card) free.remove({piece.offset, clusters});
        }
        if (finding.evidence.family != kPhotoFamily || finding.pieces.empty()) continue;
        const bool whole = finding.condition == Condition::Whole;
        const auto& last = finding.pieces.back();
        // What the technician set stays as it is, and what was made before is not taken apart.
        const bool breaksOff = finding.condition == Condition::Partial && last.from == PieceFrom::Card &&
                               !finding.evidence.decided && finding.evidence.rebuilt.empty();
        if (!whole && !breaksOff) continue;
        const auto got = PieceReader(running.card, finding.pieces).read(0, head);
        const auto name = "file " + std::to_string(id);
        if (whole) {
            lent.add(Bytes(head).first(got), name);
        } else if (auto tables = jpeg::Lender::read(Bytes(head).first(got), name)) {
            broken.push_back({finding.start(), last.onCard().end(),
                              std::min(finding.evidence.proven, finding.size()), std::move(tables),
                              finding.pieces});
        }
    }
    lent.addTurned();
    if (lent.all.empty() && broken.empty()) return Done{};
    std::vector<rebuild::CodedRun> runs;
    for (auto stretch : free.ranges()) {
        // From a cluster on; the last may be blank behind the end of its file.
        const auto ahead = (space.cluster + space.origin - stretch.offset % space.cluster) % space.cluster;
        if (stretch.length <= ahead) continue;
        stretch = {stretch.offset + ahead, stretch.length - ahead};
        const auto read = [&](std::uint64_t at, MutableBytes into) { return running.card.read(at, into); };
        for (const auto& run : rebuild::findCodedRuns(read, stretch, control)) runs.push_back(run);
    }
    if (control.stopped()) return Done{};

    // One step after the other, so that what comes of it does not depend on which thread was faster: what
    // lies within a photo, what lies behind one, and what is left then.
    const Mending mending(running.card, control);
    std::mutex mutex;
    std::vector<Made> done;
    std::size_t settled = 0;
    const auto inThreads = [&](std::size_t all, const std::function<std::optional<Made>(std::size_t)>& make) {
        const auto work = [&](std::size_t i, std::size_t) {
            if (!control.proceed()) return;
            auto made = make(i);
            const std::lock_guard lock(mutex);
            if (made) done.push_back(std::move(*made));
        };
        onEveryCore(all, work, [&](std::size_t ready) {
            running.joining->left = 2 * broken.size() + runs.size() - settled - ready;
            tell(running);
        });
        settled += all;
    };
    running.joining = Running::Joining{2 * broken.size() + runs.size(), 0};

    std::vector<char> mended(broken.size()), used(runs.size());  // one byte each: threads write them
    inThreads(broken.size(), [&](std::size_t i) {
        auto made = mending.withItself(broken[i]);
        mended[i] = made.has_value();
        return made;
    });
    // By the photo that breaks off nearest in front of each.
    std::vector<std::vector<std::size_t>> behind(broken.size());
    for (std::size_t run = 0; run < runs.size(); ++run) {
        const auto at = runs[run].place.offset;
        std::optional<std::size_t> above;
        for (std::size_t i = 0; i < broken.size(); ++i) {
            const auto end = broken[i].end;
            if (!mended[i] && end <= at && at - end < kLargestTear && (!above || end > broken[*above].end))
                above = i;
        }
        if (above && runs[run].hasEnd) behind[*above].push_back(run);
    }
    const auto bytesOf = [&](const rebuild::CodedRun& run) {
        std::vector<std::uint8_t> bytes(static_cast<std::size_t>(std::min(run.place.length, kLargestRun)));
        bytes.resize(running.card.read(run.place.offset, bytes));
        return bytes;
    };
    inThreads(broken.size(), [&](std::size_t i) -> std::optional<Made> {
        for (const auto run : behind[i]) {
            const auto bytes = bytesOf(runs[run]);
            if (bytes.size() < runs[run].place.length) continue;
            auto made = mending.withRun(broken[i], runs[run].place, bytes);
            if (!made) continue;
            used[run] = true;
            return made;
        }
        return std::nullopt;
    });
    inThreads(runs.size(), [&](std::size_t i) -> std::optional<Made> {
        if (used[i]) return std::nullopt;
        const auto bytes = bytesOf(runs[i]);
        const bool hasEnd = runs[i].hasEnd && bytes.size() == runs[i].place.length;
        auto photo = rebuild::withoutBeginning(bytes, hasEnd, lent.all, control);
        if (!photo) return std::nullopt;
        const auto& lender = lent.all[photo->lender];
        return madeOf(runs[i].place.offset, std::move(*photo), lender.name(), running.card);
    });
    if (control.stopped()) return Done{};

    std::sort(done.begin(), done.end(), [](const Made& a, const Made& b) { return a.at < b.at; });
    for (auto& made : done) {
        running.examiner.addRebuilt({made.at, std::string(kPhotoFamily)}, std::move(made.pieces));
        const auto keep = [&](Examined& examined) {
            auto& measured = examined.measured;
            if (!measured.accepted) return false;
            measured.condition = Condition::Partial;
            measured.decoded = std::min(0.9999, made.decoded);
            measured.decodedMap = made.map;
            measured.why = made.account;
            return true;
        };
        if (!running.examiner.sift(keep)) return Done{};
        ++running.joining->joined;
        if (auto stored = store(running, false); !stored) return stored;
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
