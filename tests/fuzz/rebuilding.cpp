#include "tests/fuzz/rebuilding.h"

#include <algorithm>
#include <cstdlib>
#include <memory>

#include "formats/clip/elementary.h"
#include "formats/isobmff/sample_table.h"
#include "formats/jpeg/lender.h"
#include "formats/registry.h"
#include "rebuild/bare_joiner.h"
#include "rebuild/clip_index.h"
#include "rebuild/fragment_chain.h"
#include "rebuild/headless_photo.h"
#include "rebuild/made_index.h"
#include "rebuild/plain_joiner.h"
#include "rebuild/playing_avi.h"
#include "rebuild/playing_clip.h"
#include "rebuild/playing_matroska.h"
#include "rebuild/torn_photo.h"
#include "tests/fuzz/memory_source.h"

namespace dreskel::fuzz {
namespace {

// What pieces are made of, and of any bytes at once: places on the card, none twice.
void mustBeOnTheCard(const std::vector<ByteRange>& places, Bytes bytes) {
    RangeSet all;
    for (const auto& place : places) {
        if (place.length == 0 || place.end() > bytes.size() || all.intersects(place)) std::abort();
        all.add(place);
    }
}

constexpr std::uint32_t kCluster = 1024;
constexpr std::chrono::milliseconds kSearch{300};

}  // namespace

void playing(Bytes bytes) {
    CardView card(std::make_shared<MemorySource>(bytes));
    const std::vector<Piece> file{{PieceFrom::Card, 0, bytes.size(), {}}};
    RangeSet damaged;
    damaged.add({bytes.size() / 2, bytes.size() / 8});
    static_cast<void>(rebuild::makePlayingClip(card, file, damaged));
    static_cast<void>(rebuild::makePlayingAvi(card, file));
    Control control;
    static_cast<void>(rebuild::makePlayingMatroska(card, file, control));
}

void plainInPieces(Bytes bytes) {
    if (bytes.empty()) return;
    const auto head = bytes.first(std::min(bytes.size(), Format::kHead));
    const auto& all = builtInFormats();
    const auto format =
        std::find_if(all.begin(), all.end(), [head](const Format* each) { return each->matches(head); });
    if (format == all.end()) return;
    const auto measure = (*format)->measure();
    std::shared_ptr<const PlainSamples> samples;
    for (int step = 0; step < 1000 && !samples; ++step) {
        const auto want = measure->want();
        if (!want) return;
        measure->give(slice(bytes, want->offset, want->length));
        samples = measure->samples();
    }
    if (!samples) return;
    CardView card(std::make_shared<MemorySource>(bytes));
    const rebuild::ClipPool pool({{0, bytes.size()}}, kCluster, 0);
    const auto places = rebuild::joinPlain(card, {{0, kCluster}}, *samples, pool, kSearch, Control());
    if (!places) return;
    mustBeOnTheCard(*places, bytes);
    if (lengthOf(*places) != samples->fileLength()) std::abort();
}

void bareInPieces(Bytes bytes) {
    const auto coding = bareCodingOf(bytes.first(std::min(bytes.size(), Format::kHead)));
    if (!coding) return;
    std::vector<std::uint8_t> moved(bytes.begin(), bytes.end());
    const auto quarter = static_cast<std::ptrdiff_t>(bytes.size() / 4 / kCluster * kCluster);
    std::rotate(moved.begin() + quarter, moved.begin() + 2 * quarter, moved.begin() + 3 * quarter);
    CardView card(std::make_shared<MemorySource>(moved));
    const rebuild::ClipPool pool({{0, moved.size()}}, kCluster, 0);
    Patience patience(kSearch);
    if (const auto places = rebuild::joinBare(card, *coding, 0, pool, patience, Control()))
        mustBeOnTheCard(*places, moved);
}

void inFragments(Bytes bytes) {
    CardView card(std::make_shared<MemorySource>(bytes));
    const std::vector<ByteRange> all{{0, bytes.size()}};
    const Control control;
    const auto found = rebuild::findIndexes(card, all, control);
    const rebuild::ClipPool pool(all, 512, 0);
    const auto clip =
        rebuild::readFragments(card, 0, rebuild::numberFragments(card, found.fragments), pool, control);
    if (!clip) return;
    for (const auto& [at, place] : clip->index.parts) {
        if (place.end() > bytes.size() || at >= clip->index.end) std::abort();
    }
}

void lostIndex(Bytes bytes) {
    CardView card(std::make_shared<MemorySource>(bytes));
    const std::vector<Piece> clip{{PieceFrom::Card, 0, bytes.size(), {}}};
    const auto like = rebuild::readTemplate(card, clip, "itself");
    if (!like) return;
    PieceReader reader(card, clip);
    const Control control;
    const auto head = rebuild::readOpenHead(card, 0);
    const ByteRange media{head ? head->mediaAt : 0,
                          bytes.size() - (head ? std::min<std::uint64_t>(head->mediaAt, bytes.size()) : 0)};
    const auto lengths = [](ByteRange part, Bytes) {
        return std::vector<std::uint32_t>(3, static_cast<std::uint32_t>(part.length / 4));
    };
    const auto walked = rebuild::walkSamples(*like, reader, media, lengths, control);
    if (!walked) return;
    if (walked->end > bytes.size()) std::abort();
    const auto index = rebuild::makeIndex(*like, *walked, 0);
    if (index.size() > 8) static_cast<void>(isobmff::readSamples(Bytes(index).subspan(8)));
}

void withoutBeginning(Bytes bytes) {
    const auto lender = jpeg::Lender::read(bytes, "itself");
    if (!lender || std::uint64_t{lender->mcusWide()} * lender->mcusHigh() > 100000) return;
    for (int bits = 0; bits < 8; ++bits)
        jpeg::fill(*lender, {0, lender->mcusWide(), 1, bits, {30, -5, 5, 0}, {}});
    const auto half = bytes.subspan(bytes.size() / 2);
    const auto photo = rebuild::withoutBeginning(half, true, {*lender}, Control());
    if (!photo) return;
    if (photo->from > photo->to || photo->to > half.size()) std::abort();
    const auto torn = rebuild::acrossTear(bytes.first(bytes.size() / 3), half, *photo, *lender);
    if (torn && (torn->upTo > bytes.size() / 3 || torn->from > half.size())) std::abort();
}

}  // namespace dreskel::fuzz
